namespace LitFuse.Data;

/// <summary>An answer in the form's words.</summary>
public sealed record AnswerLine(string Question, string Answer);
