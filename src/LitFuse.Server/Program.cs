return await LitFuse.Server.Host.RunAsync(args);

/// <summary>For tests that start the server in their own process.</summary>
public sealed partial class Program;
