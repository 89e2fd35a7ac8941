namespace LitFuse.Server.Ways.Kinds.ByHand;

/// <summary>Leads that a colleague types in: somebody rang, or came by.</summary>
public sealed class ByHandKind : SourceKind
{
    /// <summary>Its kind.</summary>
    public const string Kind = "hand";

    /// <inheritdoc />
    public override int Place => 80;

    /// <inheritdoc />
    public override SourceKindCard Card { get; } =
        new(
            Kind,
            "By hand",
            "Somebody rang, or came by",
            "You type them in.",
            AccessBy.Nothing,
            "",
            [],
            ["Press Add a lead, here or on Leads."],
            MakesForms: false
        );
}

/// <summary>Leads that a program sends with an API key.</summary>
public sealed class ByKeyKind : SourceKind
{
    /// <summary>Its kind.</summary>
    public const string Kind = "api";

    /// <inheritdoc />
    public override int Place => 90;

    /// <inheritdoc />
    public override SourceKindCard Card { get; } =
        new(
            Kind,
            "By API key",
            "A program of yours that speaks to our API",
            "It posts to /api/leads with a key.",
            AccessBy.Nothing,
            "",
            [],
            [
                "Make a key under Setup, API keys.",
                "POST /api/leads with Authorization: Bearer and the key; the page /docs describes it.",
            ],
            MakesForms: false
        );
}
