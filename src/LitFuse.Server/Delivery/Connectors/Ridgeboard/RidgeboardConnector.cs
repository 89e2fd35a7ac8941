using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses;

namespace LitFuse.Server.Delivery.Connectors.Ridgeboard;

/// <summary>Team chat: posts to channels and people.</summary>
public sealed class RidgeboardConnector(ConnectorHttp http) : IConnector
{
    /// <inheritdoc />
    public ConnectorCard Card { get; } = new(
        "ridgeboard", "Ridgeboard", "the team's chat",
        [new(ConnectorCard.Address, "Address"), new("token", "Token", Secret: true, Hint: "Ridgeboard, its own settings, “Programs that may post”.")], [],
        ["Sign in to Ridgeboard as somebody who may let programs in.", "Let a program post to the channels it is for, and read the names of channels and people.", "Copy the address and the token from there."]);

    /// <inheritdoc />
    public Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        var to = outgoing.Settings.GetValueOrDefault(outgoing.Kind == StepKinds.DirectPost ? "person" : "channel") ?? "";
        var post = new RidgeboardPost(to, access.Sender ?? "Lit Fuse", outgoing.Settings.GetValueOrDefault("words") ?? "");
        return http.PostAsync(access, "api/ridgeboard/posts", outgoing.Key, post, stop, "id", "url");
    }

    /// <inheritdoc />
    public async Task<IReadOnlyDictionary<string, IReadOnlyList<ConnectionTarget>>> TargetsAsync(ConnectionAccess access, CancellationToken stop)
    {
        var places = await http.GetAsync<RidgeboardPlaces>(access, "api/ridgeboard/places", stop);
        return new Dictionary<string, IReadOnlyList<ConnectionTarget>>(StringComparer.Ordinal) { ["channel"] = places.Channels, ["person"] = places.People };
    }

    /// <inheritdoc />
    public async Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop)
    {
        await http.GetAsync<RidgeboardPlaces>(access, "api/ridgeboard/places", stop);
        return AccessTold.Works;
    }

    /// <inheritdoc />
    public async Task<bool?> SweepAsync(ConnectionAccess access, string kind, string reference, CancellationToken stop) =>
        await http.DeleteAsync(access, "api/ridgeboard/posts/" + Uri.EscapeDataString(reference), stop);

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body) => null;

    private sealed record RidgeboardPost(string To, string From, string Text);

    private sealed record RidgeboardPlaces(IReadOnlyList<ConnectionTarget> Channels, IReadOnlyList<ConnectionTarget> People);
}
