using LitFuse.Backlot;

return await Outside.RunAsync(args);

/// <summary>For tests that start the Backlot in their own process.</summary>
public sealed partial class Program;
