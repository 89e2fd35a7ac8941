namespace LitFuse.Data;

/// <summary>What changed, of which client. Screens fetch the rest.</summary>
/// <param name="ClientId">Whose.</param>
/// <param name="Kind">What kind of thing.</param>
/// <param name="Ids">Which; empty means many.</param>
public sealed record LiveNotice(Guid ClientId, ChangeKind Kind, IReadOnlyList<Guid> Ids);
