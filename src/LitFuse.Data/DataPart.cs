using LitFuse.Platform;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace LitFuse.Data;

/// <summary>Registers what is in this folder.</summary>
public sealed class DataPart : IPart
{
    /// <inheritdoc />
    public Layer Layer => Layer.Data;

    /// <inheritdoc />
    public void Add(PartServices to)
    {
        // Each context is given a connection; the options name no data source. What EF makes of the model and of queries
        // is then shared by all hosts in a process, and the tests have dozens.
        to.Services.AddDbContext<AppDb>(
            (provider, options) =>
                options
                    .UseNpgsql(o => o.UseNodaTime())
                    .UseSnakeCaseNamingConvention()
                    .AddInterceptors(provider.GetRequiredService<NotifyOnCommit>()),
            optionsLifetime: ServiceLifetime.Singleton
        );
        to.Services.AddScoped(provider =>
        {
            var db = new AppDb(
                provider.GetRequiredService<DbContextOptions<AppDb>>(),
                provider.GetRequiredService<ClientScope>()
            );
            db.Database.SetDbConnection(
                provider.GetRequiredService<NpgsqlDataSource>().CreateConnection(),
                contextOwnsConnection: true
            );
            return db;
        });
        to.Services.AddSingleton<ChangeNotifier>();
        to.Services.AddSingleton<NotifyOnCommit>();
        to.Services.AddScoped<ClientScope>();
        var protection = to.Services.AddDataProtection().SetApplicationName("LitFuse");
        if (!to.Describing)
            protection.PersistKeysToDbContext<AppDb>();
        to.EverywhereOf<ChangeNotifier>();
    }
}
