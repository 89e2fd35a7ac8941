using LitFuse.Backlot.Calling;

namespace LitFuse.Backlot.Ringbarrow;

/// <summary>A list that is dialled from top to bottom.</summary>
public sealed record DialList(string Key, string Name);

/// <summary>A field of an entry that the account made for itself.</summary>
public sealed record DialField(string Key, string Name);

/// <summary>What a caller wants an entry to be.</summary>
public sealed record EntryToPut(
    string? Name,
    IReadOnlyList<string>? Phones,
    string? Email,
    IReadOnlyList<string>? Tags,
    string? Note,
    IReadOnlyDictionary<string, string>? Answers,
    int? Priority
);

/// <summary>What somebody noted after a call.</summary>
public sealed record DialOutcome(string Id, string Outcome, string? Note, string By, DateTimeOffset At);

/// <summary>Somebody to be dialled.</summary>
/// <param name="OwnId">The caller's own id for them.</param>
public sealed record DialEntry(
    string Id,
    string OwnId,
    string List,
    string Name,
    IReadOnlyList<string> Phones,
    string? Email,
    IReadOnlyList<string> Tags,
    string? Note,
    IReadOnlyDictionary<string, string> Answers,
    int Priority,
    DateTimeOffset At,
    int Changes,
    IReadOnlyList<DialOutcome> Outcomes
);

/// <summary>The dial lists, and what became of them.</summary>
public sealed class DialLists(TimeProvider time)
{
    private const int Most = 60_000;
    private readonly Lock hold = new();
    private readonly Dictionary<(string List, string OwnId), DialEntry> entries = [];
    private readonly HashSet<Hearer> hearers = [];
    private int last = 700;

    /// <summary>The lists there are.</summary>
    public static IReadOnlyList<DialList> All { get; } =
    [new("now", "Ring now"), new("today", "Ring today"), new("again", "Ring again")];

    /// <summary>Fields beside name, numbers and email.</summary>
    public static IReadOnlyList<DialField> Fields { get; } =
    [
        new("fleet", "Fleet size"),
        new("cargo", "What they carry"),
        new("start", "Start month"),
        new("asked", "What they asked"),
        new("source", "Where they came from"),
    ];

    /// <summary>How a call can end.</summary>
    public static IReadOnlyList<(string Key, string Words)> Outcomes { get; } =
    [
        ("reached", "Spoke to them"),
        ("no-answer", "No answer"),
        ("voicemail", "Left a message"),
        ("call-back", "Call back later"),
        ("booked", "Booked"),
        ("not-interested", "Not interested"),
        ("wrong-number", "Wrong number"),
    ];

    /// <summary>All entries, in the order to dial.</summary>
    public IReadOnlyList<DialEntry> Entries
    {
        get
        {
            lock (hold)
                return [.. entries.Values.OrderBy(e => e.Priority).ThenBy(e => e.At)];
        }
    }

    /// <summary>Who is told.</summary>
    public IReadOnlyList<Hearer> Hearers
    {
        get
        {
            lock (hold)
                return [.. hearers];
        }
    }

    /// <summary>Somebody wants to be told.</summary>
    public void Hear(Hearer hearer)
    {
        lock (hold)
        {
            hearers.RemoveWhere(h => h.Url == hearer.Url);
            hearers.Add(hearer);
        }
    }

    /// <summary>Puts an entry on a list, or changes the one by that id.</summary>
    public (DialEntry? Entry, bool Made, string? Fault) Put(string list, string ownId, EntryToPut put)
    {
        if (All.All(l => l.Key != list))
            return (null, false, $"There is no list “{list}”.");
        if (string.IsNullOrWhiteSpace(put.Name))
            return (null, false, "An entry needs a name.");
        if (put.Phones is not { Count: > 0 } phones || phones.Any(p => p.Count(char.IsAsciiDigit) < 7))
            return (null, false, "An entry needs a telephone number that can be dialled.");
        if (put.Answers?.Keys.FirstOrDefault(a => Fields.All(f => f.Key != a)) is { } unknown)
            return (null, false, $"There is no field “{unknown}”.");
        lock (hold)
        {
            if (entries.Count > Most)
                entries.Clear();
            var before = entries.GetValueOrDefault((list, ownId));
            var entry = new DialEntry(
                before?.Id ?? $"D-{++last}",
                ownId,
                list,
                put.Name,
                phones,
                put.Email,
                put.Tags ?? [],
                put.Note,
                put.Answers ?? new Dictionary<string, string>(StringComparer.Ordinal),
                put.Priority ?? 5,
                before?.At ?? time.GetUtcNow(),
                (before?.Changes ?? 0) + 1,
                before?.Outcomes ?? []
            );
            entries[(list, ownId)] = entry;
            return (entry, before is null, null);
        }
    }

    /// <summary>Notes how a call ended.</summary>
    public (DialEntry Entry, DialOutcome Outcome)? Note(string id, string outcome, string? note, string by)
    {
        lock (hold)
        {
            if (Outcomes.All(o => o.Key != outcome) || entries.Values.FirstOrDefault(e => e.Id == id) is not { } entry)
                return null;
            var noted = new DialOutcome(
                $"{id}-{entry.Outcomes.Count + 1}",
                outcome,
                string.IsNullOrWhiteSpace(note) ? null : note.Trim(),
                by,
                time.GetUtcNow()
            );
            return (entries[(entry.List, entry.OwnId)] = entry with { Outcomes = [.. entry.Outcomes, noted] }, noted);
        }
    }

    /// <summary>Takes one off.</summary>
    public bool Remove(string id)
    {
        lock (hold)
            return entries.Values.FirstOrDefault(e => e.Id == id) is { } entry
                && entries.Remove((entry.List, entry.OwnId));
    }
}
