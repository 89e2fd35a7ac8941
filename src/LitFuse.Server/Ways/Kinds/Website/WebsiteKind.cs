namespace LitFuse.Server.Ways.Kinds.Website;

/// <summary>A website: forms built here, and any form of its own.</summary>
public sealed class WebsiteKind : SourceKind
{
    /// <inheritdoc />
    public override int Place => 40;

    /// <inheritdoc />
    public override SourceKindCard Card { get; } =
        new(
            "website",
            "A website",
            "Your own pages: a form built here, or any form that is there already",
            "The visitor's browser sends it straight to us.",
            AccessBy.Nothing,
            "",
            [],
            [
                "Build a form here and paste it into a page: as a script tag, as plain HTML, or as a link to a page that we host.",
                "Or keep the form that the page has: set its action to the form's address, or add our script beside it, which changes nothing on the page.",
            ],
            MakesForms: true
        );
}
