namespace LitFuse.Server.Ways.Kinds.Files;

/// <summary>Files of leads downloaded elsewhere.</summary>
public sealed class FileKind : SourceKind
{
    /// <inheritdoc />
    public override int Place => 70;

    /// <inheritdoc />
    public override SourceKindCard Card { get; } =
        new(
            "file",
            "A file",
            "CSV or XLSX of leads that was downloaded elsewhere",
            "You upload it; it lights no fuse unless you ask.",
            AccessBy.Nothing,
            "",
            [],
            [
                "Choose the file. What was found in it (delimiter, characters, dates, numbers) is shown before anything is imported.",
            ],
            MakesForms: false
        );
}
