namespace LitFuse.Server.Features.OwnForms;

/// <summary>What was made.</summary>
public sealed record MadeForm(Guid Id);
