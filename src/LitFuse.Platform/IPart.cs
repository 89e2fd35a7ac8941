namespace LitFuse.Platform;

/// <summary>How deep a part lies. A part knows those below it, starts after them, and is stopped before them.</summary>
public enum Layer
{
    /// <summary>The clock, secrets, outbound rules, signed links.</summary>
    Platform,

    /// <summary>The database.</summary>
    Data,

    /// <summary>Outside services that are sent to.</summary>
    Connectors,

    /// <summary>Who may do what; the ways in which submissions come.</summary>
    Ways,

    /// <summary>What is kept.</summary>
    Intake,

    /// <summary>What happens to leads and burns; what screens are told.</summary>
    Engine,

    /// <summary>What is brought outside.</summary>
    Delivery,

    /// <summary>What people and programs see and do.</summary>
    Feature,

    /// <summary>The demonstration, which uses them all.</summary>
    Demonstration,
}

/// <summary>
/// A part of the server that says for itself what it needs, what it serves and what it does in the background. The host
/// finds every part there is and names none: whoever adds a folder with a part has added it to the server.
/// </summary>
public interface IPart
{
    /// <summary>Its layer.</summary>
    Layer Layer => Layer.Feature;

    /// <summary>Registers its services and its background work.</summary>
    void Add(PartServices to) { }

    /// <summary>Maps its addresses; called where pages are served.</summary>
    void Map(IEndpointRouteBuilder app) { }
}

/// <summary>What a part registers itself with.</summary>
/// <param name="Services">As of the framework.</param>
/// <param name="Settings">How this process runs.</param>
/// <param name="Describing">The build asks for the API's description alone: no background work, no database.</param>
public sealed record PartServices(IServiceCollection Services, Settings Settings, bool Describing)
{
    /// <summary>Background work that is carried by processes that work (<c>--role worker</c> or <c>all</c>).</summary>
    public void Work<T>()
        where T : class, IHostedService
    {
        if (!Describing && Settings.Works)
            Services.AddHostedService<T>();
    }

    /// <summary>A singleton with background work of its own, in processes that work.</summary>
    public void WorkOf<T>()
        where T : class, IHostedService
    {
        if (!Describing && Settings.Works)
            Services.AddHostedService(p => p.GetRequiredService<T>());
    }

    /// <summary>A singleton with background work of its own, in every process.</summary>
    public void EverywhereOf<T>()
        where T : class, IHostedService
    {
        if (!Describing)
            Services.AddHostedService(p => p.GetRequiredService<T>());
    }

    /// <summary>All types of this kind in an assembly, in the order of their names.</summary>
    public void AddAll<T>(System.Reflection.Assembly of)
        where T : class
    {
        foreach (
            var type in of.GetTypes()
                .Where(t => t is { IsAbstract: false, IsClass: true } && typeof(T).IsAssignableFrom(t))
                .OrderBy(t => t.Name, StringComparer.Ordinal)
        )
            Services.AddSingleton(typeof(T), type);
    }
}
