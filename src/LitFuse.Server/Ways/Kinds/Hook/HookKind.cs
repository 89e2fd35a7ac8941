using LitFuse.Core.Payloads;

namespace LitFuse.Server.Ways.Kinds.Hook;

/// <summary>Any program that can send JSON.</summary>
public sealed class HookKind : SourceKind
{
    /// <inheritdoc />
    public override int Place => 60;

    /// <inheritdoc />
    public override SourceKindCard Card { get; } =
        new(
            "hook",
            "Any program",
            "Whatever can send JSON to an address",
            "It posts JSON of any shape; you pick the fields from a sample.",
            AccessBy.Nothing,
            "",
            [],
            [
                "Make a hook and choose how the program proves itself: a Standard Webhooks signature, a key, or user and password.",
                "Let the program send once. The sample stands on the form's page: press on the values that you want.",
            ],
            MakesForms: true
        );

    /// <inheritdoc />
    public override ValueTask<Payload> ReadAsync(
        IReadOnlyList<Pick> picks,
        string contentType,
        ReadOnlyMemory<byte> raw
    ) =>
        picks.Count > 0 && RawBody.IsJson(contentType, raw.Span)
            ? new(Picks.Read(picks, raw))
            : RawBody.ReadAsync(contentType, raw);
}
