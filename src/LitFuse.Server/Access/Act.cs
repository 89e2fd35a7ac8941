using LitFuse.Data;

namespace LitFuse.Server.Access;

/// <summary>Something a person may be allowed to do.</summary>
public enum Act
{
    /// <summary>Be signed in, as anyone.</summary>
    BeHere,

    /// <summary>See the Watch and the strip of clients.</summary>
    SeeWatch,

    /// <summary>See leads and their stories.</summary>
    SeeLeads,

    /// <summary>Take, release, touch and write to leads.</summary>
    TouchLeads,

    /// <summary>See sources, forms and submissions.</summary>
    SeeSources,

    /// <summary>Connect sources, build forms, import files, make API keys.</summary>
    EditSources,

    /// <summary>See fuses and their run sheets.</summary>
    SeeFuses,

    /// <summary>Edit drafts, arm and disarm.</summary>
    EditFuses,
}

/// <summary>Who may do what: the whole table. Every endpoint names its act, and the tests walk both.</summary>
public static class Permissions
{
    /// <summary>Acts by role.</summary>
    public static IReadOnlyDictionary<Role, IReadOnlySet<Act>> Table { get; } =
        new Dictionary<Role, IReadOnlySet<Act>>
        {
            [Role.AgencyLead] = new HashSet<Act>
            {
                Act.BeHere,
                Act.SeeWatch,
                Act.SeeLeads,
                Act.TouchLeads,
                Act.SeeSources,
                Act.EditSources,
                Act.SeeFuses,
                Act.EditFuses,
            },
            [Role.Marketer] = new HashSet<Act>
            {
                Act.BeHere,
                Act.SeeWatch,
                Act.SeeLeads,
                Act.TouchLeads,
                Act.SeeSources,
                Act.EditSources,
                Act.SeeFuses,
                Act.EditFuses,
            },
            [Role.Rep] = new HashSet<Act> { Act.BeHere, Act.SeeWatch, Act.SeeLeads, Act.TouchLeads },
        };
}

/// <summary>Marks what an endpoint needs.</summary>
public sealed record Needs(Act Act);

/// <summary>Marks an endpoint that anyone may call, and says why.</summary>
public sealed record OpenToAnyone(string Because);

/// <summary>Marks an endpoint that programs may call with an API key instead of a person's session.</summary>
public sealed record TakesKeys;

/// <summary>Who holds the key that a request came with.</summary>
public sealed record KeyHolder(Guid ClientId, string Name);

/// <summary>Finds who holds a key.</summary>
public interface IKeyAccess
{
    /// <summary>The holder, or <c>null</c> when there is no such key, or none any more.</summary>
    Task<KeyHolder?> FindAsync(string key, CancellationToken stop);
}

/// <summary>Says on an endpoint who may call it.</summary>
public static class AccessMarks
{
    /// <summary>
    /// Only for who may do <paramref name="act"/>; the request then sees only the clients for whom they may.
    /// </summary>
    public static T Needs<T>(this T endpoint, Act act)
        where T : IEndpointConventionBuilder => endpoint.WithMetadata(new Needs(act));

    /// <summary>Also with an API key.</summary>
    public static T TakesKeys<T>(this T endpoint)
        where T : IEndpointConventionBuilder => endpoint.WithMetadata(new TakesKeys());

    /// <summary>For anyone.</summary>
    public static T OpenToAnyone<T>(this T endpoint, string because)
        where T : IEndpointConventionBuilder => endpoint.WithMetadata(new OpenToAnyone(because));
}
