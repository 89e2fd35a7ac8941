using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Texts;
using LitFuse.Core.Words;
using LitFuse.Platform;

namespace LitFuse.Connectors.Ridgeboard;

/// <summary>Team chat: posts to channels and people.</summary>
public sealed class RidgeboardConnector(ConnectorHttp http, TakeLinks links) : IConnector
{
    /// <inheritdoc />
    public int Place => 10;

    /// <inheritdoc />
    public ConnectorCard Card { get; } =
        new(
            "ridgeboard",
            "Ridgeboard",
            "the team's chat",
            [
                new(ConnectorCard.Address, "Address"),
                new("token", "Token", Secret: true, Hint: "Ridgeboard, its own settings, “Programs that may post”."),
            ],
            [],
            [
                "Sign in to Ridgeboard as somebody who may let programs in.",
                "Let a program post to the channels it is for, and read the names of channels and people.",
                "Copy the address and the token from there.",
            ]
        );

    /// <inheritdoc />
    public IReadOnlyList<StepKind> Steps { get; } =
    [new(StepKinds.PostStatus, "Post brought up to date", Lane.Team, "ridgeboard", [], []) { Hidden = true }];

    /// <inheritdoc />
    public async Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        var words = outgoing.Settings.GetValueOrDefault("words") ?? "";
        RidgeboardLink[] under = outgoing.Settings.ContainsKey(StepKinds.TakeLink)
            ? [new("Take it", links.For(outgoing.Lead))]
            : [];
        if (outgoing.Kind == StepKinds.PostStatus)
        {
            var answer = await http.CallAsync(
                access,
                HttpMethod.Patch,
                "api/ridgeboard/posts/" + Uri.EscapeDataString(outgoing.Settings["reference"]),
                outgoing.Key,
                new RidgeboardStatus(words, under),
                stop
            );
            // A post that somebody took away there needs no bringing up to date.
            return answer.Status == 404 ? new(AttemptEnd.Accepted, "is not there any more") : answer.AsResult();
        }

        var to = outgoing.Settings.GetValueOrDefault(outgoing.Kind == StepKinds.DirectPost ? "person" : "channel")
            ?? "";
        return await http.PostAsync(
            access,
            "api/ridgeboard/posts",
            outgoing.Key,
            Post(access, outgoing, to, words, under),
            stop,
            "id",
            "url"
        );
    }

    /// <inheritdoc />
    public async Task<IReadOnlyDictionary<string, IReadOnlyList<ConnectionTarget>>> TargetsAsync(
        ConnectionAccess access,
        CancellationToken stop
    )
    {
        var places = await http.GetAsync<RidgeboardPlaces>(access, "api/ridgeboard/places", stop);
        return new Dictionary<string, IReadOnlyList<ConnectionTarget>>(StringComparer.Ordinal)
        {
            ["channel"] = places.Channels,
            ["person"] = places.People,
        };
    }

    /// <inheritdoc />
    public async Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop)
    {
        await http.GetAsync<RidgeboardPlaces>(access, "api/ridgeboard/places", stop);
        return AccessTold.Works;
    }

    /// <inheritdoc />
    public async Task<bool?> SweepAsync(
        ConnectionAccess access,
        string kind,
        string reference,
        CancellationToken stop
    ) => await http.DeleteAsync(access, "api/ridgeboard/posts/" + Uri.EscapeDataString(reference), stop);

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body) => null;

    private static RidgeboardPost Post(
        ConnectionAccess access,
        Outgoing outgoing,
        string to,
        string words,
        RidgeboardLink[] under
    )
    {
        var sender = outgoing.Settings.GetValueOrDefault("sender");
        var picture =
            Uri.TryCreate(outgoing.Settings.GetValueOrDefault("picture"), UriKind.Absolute, out var at)
            && at.Scheme is "http" or "https"
                ? at!.ToString()
                : null;
        return new(
            to,
            string.IsNullOrWhiteSpace(sender) ? access.Sender ?? "Lit Fuse" : PlainText.Line(sender, 80),
            words,
            under,
            picture,
            [
                .. Blocks
                    .Read(outgoing.Settings.GetValueOrDefault(StepKinds.BlocksKey))
                    .Select(b => new RidgeboardBlock(b.Key, b.Value)),
            ]
        );
    }

    private sealed record RidgeboardPost(
        string To,
        string From,
        string Text,
        IReadOnlyList<RidgeboardLink> Links,
        string? Picture,
        IReadOnlyList<RidgeboardBlock> Blocks
    );

    private sealed record RidgeboardBlock(string Label, string Value);

    private sealed record RidgeboardStatus(string Status, IReadOnlyList<RidgeboardLink> Links);

    private sealed record RidgeboardLink(string Label, string Url);

    private sealed record RidgeboardPlaces(
        IReadOnlyList<ConnectionTarget> Channels,
        IReadOnlyList<ConnectionTarget> People
    );
}
