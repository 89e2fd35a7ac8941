using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>
/// A database that another version made is not touched, and who starts the server is told what to do.
/// </summary>
public sealed class OtherVersionTests
{
    [Fact]
    public async Task A_database_of_another_version_is_left_as_it_is()
    {
        var name = $"litfuse_other{Environment.ProcessId}";
        await World.SqlAsync("postgres", $"create database {name}");
        var before = Console.Error;
        try
        {
            await World.SqlAsync(
                name,
                "create table \"__EFMigrationsHistory\" (migration_id text primary key, product_version text); insert into \"__EFMigrationsHistory\" values ('20991231235959_Later', '99.0.0')"
            );
            using var said = new StringWriter();
            Console.SetError(said);
            Assert.Equal(
                2,
                await Host.RunAsync([
                    "--url",
                    "http://127.0.0.1:0",
                    "--db",
                    World.ConnectionTo(name) + ";Pooling=false",
                ])
            );
            Assert.Contains("20991231235959_Later", said.ToString(), StringComparison.Ordinal);
            Assert.Contains("Start that version", said.ToString(), StringComparison.Ordinal);
            await World.SqlAsync(
                name,
                "do $$ begin if exists (select from information_schema.tables where table_name = 'leads') then raise 'touched'; end if; end $$"
            );
        }
        finally
        {
            Console.SetError(before);
            await World.SqlAsync("postgres", $"drop database {name} with (force)");
        }
    }
}
