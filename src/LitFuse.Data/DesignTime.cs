using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace LitFuse.Data;

/// <summary>Makes the context for <c>dotnet ef</c>, which needs the model and no server.</summary>
public sealed class DesignTime : IDesignTimeDbContextFactory<AppDb>
{
    /// <inheritdoc />
    public AppDb CreateDbContext(string[] args) =>
        new(
            new DbContextOptionsBuilder<AppDb>()
                .UseNpgsql("Host=127.0.0.1", o => o.UseNodaTime())
                .UseSnakeCaseNamingConvention()
                .Options,
            new ClientScope()
        );
}
