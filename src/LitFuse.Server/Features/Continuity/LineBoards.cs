using System.Collections.Concurrent;
using LitFuse.Core.Arrivals;
using LitFuse.Core.Continuity;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Server.Live;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>What is kept in memory of one client's lines.</summary>
internal sealed class ClientLines
{
    /// <summary>Its lines.</summary>
    public LineBoard Board { get; } = new();

    /// <summary>True once everything was read.</summary>
    public bool Read { get; set; }

    /// <summary>What fuses can refer to, as it was asked last; <c>null</c>: not yet.</summary>
    public FuseSurroundings? Around { get; set; }

    /// <summary>The lists that the steps of each fuse choose from.</summary>
    public IReadOnlyDictionary<Guid, IReadOnlyDictionary<string, IReadOnlyList<ListItem>>> Lists { get; set; } =
        new Dictionary<Guid, IReadOnlyDictionary<string, IReadOnlyList<ListItem>>>();

    /// <summary>When they were asked.</summary>
    public Instant AskedAt { get; set; } = Instant.MinValue;

    /// <summary>Keys of forms that armed fuses name, by fuse.</summary>
    public Dictionary<Guid, IReadOnlySet<string>> Named { get; } = [];

    /// <summary>How often each form has a lead, as learnt: with which latest submission, and when.</summary>
    public Dictionary<Guid, (Instant? Latest, Instant LearntAt, ArrivalHabit Habit)> Habits { get; } = [];

    /// <summary>
    /// The latest submission of each form with which a proof was looked for, once it was too old for anything to be on
    /// its way.
    /// </summary>
    public Dictionary<Guid, Instant> Proved { get; } = [];

    /// <summary>One at a time.</summary>
    public SemaphoreSlim One { get; } = new(1, 1);
}

/// <summary>
/// The lines of every client in this process, and what is known to have changed since they were judged. What is told
/// here is a hint: every minute all is read anew, so that nothing that was missed stays wrong for longer.
/// </summary>
public sealed class LineBoards : IChangeListener
{
    private readonly ConcurrentDictionary<Guid, ClientLines> clients = new();
    private readonly ConcurrentDictionary<(Guid Client, ChangeKind Kind, Guid Id), byte> hints = new();

    /// <summary>Wakes who judges.</summary>
    public Action Told { get; set; } = static () => { };

    /// <summary>The kinds of thing that lines hang on.</summary>
    private static readonly HashSet<ChangeKind> Kinds =
    [
        ChangeKind.Form,
        ChangeKind.Source,
        ChangeKind.Connection,
        ChangeKind.Fuse,
        ChangeKind.Client,
        ChangeKind.Lead,
    ];

    /// <inheritdoc />
    public void Hint(Guid client, ChangeKind kind, IReadOnlyCollection<Guid> ids)
    {
        if (!Kinds.Contains(kind) || !clients.ContainsKey(client))
            return;
        if (ids.Count == 0)
            hints[(client, kind, Guid.Empty)] = 0;
        foreach (var id in ids)
            hints[(client, kind, id)] = 0;
        Told();
    }

    /// <inheritdoc />
    public void HintAll()
    {
        foreach (var client in clients.Keys)
            Again(client);
        Told();
    }

    /// <summary>
    /// What was taken could not be judged: all of the client is read anew with the next try. Nobody is woken for it.
    /// </summary>
    public void Again(Guid client) => hints[(client, ChangeKind.Form, Guid.Empty)] = 0;

    /// <summary>Takes what was hinted, by client.</summary>
    internal IReadOnlyDictionary<Guid, ILookup<ChangeKind, Guid>> Take()
    {
        var taken = hints.Keys.Where(k => hints.TryRemove(k, out _)).ToList();
        return taken.GroupBy(k => k.Client).ToDictionary(g => g.Key, g => g.ToLookup(k => k.Kind, k => k.Id));
    }

    /// <summary>The lines of a client.</summary>
    internal ClientLines Of(Guid client) => clients.GetOrAdd(client, static _ => new());
}
