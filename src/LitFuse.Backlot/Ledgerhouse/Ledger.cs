namespace LitFuse.Backlot.Ledgerhouse;

/// <summary>A field of a contact.</summary>
/// <param name="Kind">What kind of value it takes, in words.</param>
public sealed record ContactField(string Key, string Name, bool Required, string Kind);

/// <summary>One of a fixed list.</summary>
public sealed record Named(string Key, string Name);

/// <summary>A pipeline with its stages.</summary>
public sealed record Pipeline(string Key, string Name, IReadOnlyList<Named> Stages);

/// <summary>What a caller wants a contact to be.</summary>
public sealed record ContactToPut(
    string? OwnId,
    IReadOnlyDictionary<string, string>? Values,
    string? Type,
    string? Status,
    string? Source,
    string? CapturedBy,
    string? Owner,
    IReadOnlyList<string>? Tags,
    IReadOnlyList<string>? Lists,
    string? Note
);

/// <summary>Lists and tags that a contact is to stand on, or off.</summary>
public sealed record ListsToPut(IReadOnlyList<string>? Lists, IReadOnlyList<string>? Tags, bool Off);

/// <summary>A contact.</summary>
public sealed record Contact(
    string Id,
    string? OwnId,
    IReadOnlyDictionary<string, string> Values,
    string Type,
    string Status,
    string? Source,
    string? CapturedBy,
    string? Owner,
    IReadOnlyList<string> Tags,
    IReadOnlyList<string> Lists,
    IReadOnlyList<string> Notes,
    DateTimeOffset At,
    int Changes
);

/// <summary>What a caller wants a deal to be.</summary>
public sealed record DealToPut(
    string? OwnId,
    string? ContactId,
    string? Name,
    string? Pipeline,
    string? Stage,
    decimal? Value,
    string? Currency,
    string? Source
);

/// <summary>A deal.</summary>
public sealed record Deal(
    string Id,
    string? OwnId,
    string ContactId,
    string Name,
    string Pipeline,
    string Stage,
    decimal? Value,
    string? Currency,
    string? Source,
    DateTimeOffset At,
    int Changes
);

/// <summary>The customer records: contacts, deals, and what they are made of.</summary>
public sealed class Ledger(TimeProvider time)
{
    private const int Most = 200_000;
    private readonly Lock hold = new();
    private readonly List<ContactField> fields =
    [
        new("first_name", "First name", false, "text"),
        new("last_name", "Last name", true, "text"),
        new("email", "Email", false, "an email address"),
        new("phone", "Phone", false, "a telephone number"),
        new("company", "Company", false, "text"),
        new("postcode", "Postcode", false, "text"),
        new("fleet_size", "Fleet size", false, "text"),
        new("start_month", "Start month", false, "text"),
    ];

    private readonly Dictionary<string, Contact> contacts = new(StringComparer.Ordinal);
    private readonly Dictionary<string, string> contactBy = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, Deal> deals = new(StringComparer.Ordinal);
    private readonly Dictionary<string, string> dealBy = new(StringComparer.Ordinal);
    private int last;

    /// <summary>Who can own a contact.</summary>
    public static IReadOnlyList<Named> People { get; } =
    [
        new("imke", "Imke Sandoval"),
        new("tobias", "Tobias Renn"),
        new("adaeze", "Adaeze Whitlock"),
        new("marguerite", "Marguerite Oyelaran"),
        new("pim", "Pim Castellan"),
        new("siobhra", "Siobhra Quill"),
    ];

    /// <summary>Kinds of contact.</summary>
    public static IReadOnlyList<Named> Types { get; } =
    [new("prospect", "Prospect"), new("customer", "Customer"), new("partner", "Partner")];

    /// <summary>Where a contact stands.</summary>
    public static IReadOnlyList<Named> Statuses { get; } =
    [new("new", "New"), new("reached", "Reached"), new("won", "Won"), new("lost", "Lost")];

    /// <summary>Who is told when a contact's status changes, by address.</summary>
    public System.Collections.Concurrent.ConcurrentDictionary<string, Calling.Hearer> Hearers { get; } =
        new(StringComparer.Ordinal);

    /// <summary>Lists of people who get letters in turn.</summary>
    public static IReadOnlyList<Named> Lists { get; } =
    [new("running-costs", "Running-cost letters"), new("spring", "Spring rides")];

    /// <summary>Pipelines.</summary>
    public static IReadOnlyList<Pipeline> Pipelines { get; } =
    [
        new(
            "leases",
            "Leases",
            [
                new("new", "New"),
                new("ride", "Test ride booked"),
                new("offer", "Lease offered"),
                new("won", "Won"),
                new("lost", "Lost"),
            ]
        ),
        new("hire", "Hire", [new("asked", "Asked"), new("quoted", "Quoted"), new("won", "Won"), new("lost", "Lost")]),
    ];

    /// <summary>Fields of a contact.</summary>
    public IReadOnlyList<ContactField> Fields
    {
        get
        {
            lock (hold)
                return [.. fields];
        }
    }

    /// <summary>Contacts, newest first.</summary>
    public IReadOnlyList<Contact> Contacts
    {
        get
        {
            lock (hold)
                return [.. contacts.Values.OrderByDescending(c => c.At)];
        }
    }

    /// <summary>Deals, newest first.</summary>
    public IReadOnlyList<Deal> Deals
    {
        get
        {
            lock (hold)
                return [.. deals.Values.OrderByDescending(d => d.At)];
        }
    }

    /// <summary>Adds a field, or changes whether it is demanded.</summary>
    public void Field(string key, string name, bool required)
    {
        lock (hold)
        {
            fields.RemoveAll(f => f.Key == key);
            fields.Add(new(key, name, required, "text"));
        }
    }

    /// <summary>Makes the contact, or changes the one that matches.</summary>
    /// <returns>It, and whether it is new; or why not.</returns>
    public (Contact? Contact, bool New, string? Fault) Put(ContactToPut put, string match)
    {
        var given = put.Values ?? new Dictionary<string, string>(StringComparer.Ordinal);
        lock (hold)
        {
            if (given.Keys.FirstOrDefault(k => fields.TrueForAll(f => f.Key != k)) is { } unknown)
                return (null, false, $"There is no field “{unknown}”.");
            var by = match switch
            {
                "email" => given.GetValueOrDefault("email"),
                "phone" => given.GetValueOrDefault("phone"),
                "own-id" => put.OwnId,
                _ => null,
            };
            if (string.IsNullOrEmpty(by))
                return (null, false, $"There is nothing to match by {match}.");
            var before = contactBy.TryGetValue($"{match} {by}", out var id) ? contacts[id] : null;
            var values = (before?.Values ?? new Dictionary<string, string>(StringComparer.Ordinal))
                .Concat(given.Where(g => g.Value.Length > 0))
                .GroupBy(p => p.Key)
                .ToDictionary(g => g.Key, g => g.Last().Value, StringComparer.Ordinal);
            if (fields.FirstOrDefault(f => f.Required && !values.ContainsKey(f.Key)) is { } missing)
                return (null, false, $"“{missing.Name}” must not be empty.");
            var fault = Unknown(put.Type, Types, "type")
                ?? Unknown(put.Status, Statuses, "status")
                ?? Unknown(put.Owner, People, "person");
            if (fault is not null)
                return (null, false, fault);
            if (before is null && contacts.Count >= Most)
                return (null, false, "The ledger is full.");
            var contact = new Contact(
                before?.Id ?? $"C-{++last}",
                put.OwnId ?? before?.OwnId,
                values,
                put.Type ?? before?.Type ?? "prospect",
                put.Status ?? before?.Status ?? "new",
                put.Source ?? before?.Source,
                put.CapturedBy ?? before?.CapturedBy,
                put.Owner ?? before?.Owner,
                [.. (before?.Tags ?? []).Union(put.Tags ?? [])],
                [.. (before?.Lists ?? []).Union(put.Lists ?? [])],
                string.IsNullOrWhiteSpace(put.Note) || before?.Notes.Contains(put.Note) == true
                    ? before?.Notes ?? []
                    : [.. before?.Notes ?? [], put.Note],
                before?.At ?? time.GetUtcNow(),
                (before?.Changes ?? 0) + 1
            );
            contacts[contact.Id] = contact;
            Index("email", values.GetValueOrDefault("email"));
            Index("phone", values.GetValueOrDefault("phone"));
            Index("own-id", contact.OwnId);
            void Index(string how, string? what)
            {
                if (!string.IsNullOrEmpty(what))
                    contactBy.TryAdd($"{how} {what}", contact.Id);
            }

            return (contact, before is null, null);
        }
    }

    /// <summary>Makes the deal, or changes the one with the caller's own id.</summary>
    public (Deal? Deal, bool New, string? Fault) Put(DealToPut put)
    {
        lock (hold)
        {
            if (put.ContactId is null || !contacts.ContainsKey(put.ContactId))
                return (null, false, $"There is no contact “{put.ContactId}”.");
            var pipeline = Pipelines.FirstOrDefault(p => p.Key == put.Pipeline);
            if (pipeline is null)
                return (null, false, $"There is no pipeline “{put.Pipeline}”.");
            if (Unknown(put.Stage, pipeline.Stages, "stage") is { } fault)
                return (null, false, fault);
            var before = put.OwnId is { } own && dealBy.TryGetValue(own, out var id) ? deals[id] : null;
            var deal = new Deal(
                before?.Id ?? $"D-{++last}",
                put.OwnId,
                put.ContactId,
                put.Name ?? before?.Name ?? "Deal",
                pipeline.Key,
                put.Stage ?? before?.Stage ?? pipeline.Stages[0].Key,
                put.Value ?? before?.Value,
                put.Currency ?? before?.Currency,
                put.Source ?? before?.Source,
                before?.At ?? time.GetUtcNow(),
                (before?.Changes ?? 0) + 1
            );
            deals[deal.Id] = deal;
            if (put.OwnId is { } key)
                dealBy[key] = deal.Id;
            return (deal, before is null, null);
        }
    }

    /// <summary>A person changes where a contact stands.</summary>
    public Contact? Stand(string id, string status)
    {
        lock (hold)
            return contacts.TryGetValue(id, out var known) && Statuses.Any(s => s.Key == status)
                ? contacts[id] = known with { Status = status }
                : null;
    }

    /// <summary>Puts a contact on lists and tags, or takes it off.</summary>
    public (Contact? Contact, string? Fault) OnLists(string id, ListsToPut put)
    {
        if (put.Lists?.FirstOrDefault(l => Lists.All(x => x.Key != l)) is { } unknown)
            return (null, $"There is no list “{unknown}”.");
        lock (hold)
        {
            if (!contacts.TryGetValue(id, out var known))
                return (null, null);
            IReadOnlyList<string> Changed(IReadOnlyList<string> had, IReadOnlyList<string>? with) =>
                [.. put.Off ? had.Except(with ?? []) : had.Union(with ?? [])];
            return (
                contacts[id] = known with
                {
                    Lists = Changed(known.Lists, put.Lists),
                    Tags = Changed(known.Tags, put.Tags),
                },
                null
            );
        }
    }

    /// <summary>Takes a contact or a deal out.</summary>
    public bool Remove(string id)
    {
        lock (hold)
        {
            foreach (var key in contactBy.Where(c => c.Value == id).Select(c => c.Key).ToList())
                contactBy.Remove(key);
            foreach (var key in dealBy.Where(d => d.Value == id).Select(d => d.Key).ToList())
                dealBy.Remove(key);
            return contacts.Remove(id) || deals.Remove(id);
        }
    }

    private static string? Unknown(string? key, IReadOnlyList<Named> list, string what) =>
        key is null || list.Any(l => l.Key == key) ? null : $"There is no {what} “{key}”.";
}
