using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;
using Xunit;

namespace LitFuse.Server.Tests.CleanLeads;

/// <summary>A database as the version before left it is taken over with what is in it.</summary>
public sealed class OldDataTests
{
    private const string Before = """
        insert into clients (id, key, name, short_name, zone, country, currency, target_seconds, send_from, send_to, work_from, work_to, work_days, revision)
          values ('00000000-0000-0000-0000-000000000001', 'brackenwheel', 'Brackenwheel Cargo Cycles', 'Brackenwheel', 'Europe/London', 'GB', 'GBP', 300, '08:00', '20:30', '08:00', '18:00', '{1,2,3,4,5}', 0);
        insert into sources (id, client_id, kind, name) values ('00000000-0000-0000-0000-000000000002', '00000000-0000-0000-0000-000000000001', 'website', 'Pagewright');
        insert into forms (id, client_id, source_id, key, name, fields) values ('00000000-0000-0000-0000-000000000003', '00000000-0000-0000-0000-000000000001', '00000000-0000-0000-0000-000000000002', 'ride', 'Ride', '[]');
        insert into leads (id, client_id, form_id, first_name, phone_readable, zone, fields, asked_at, target_at, test, quiet, search_text)
          select ('00000000-0000-0000-0000-00000000001' || n)::uuid, '00000000-0000-0000-0000-000000000001', '00000000-0000-0000-0000-000000000003', 'Ines', false, 'Europe/London', '{}', now(), now(), n = 2, false, 'ines' from generate_series(1, 2) n;
        insert into lead_contacts (client_id, kind, value, lead_id) values
          ('00000000-0000-0000-0000-000000000001', 'email', 'real@example.com', '00000000-0000-0000-0000-000000000011'),
          ('00000000-0000-0000-0000-000000000001', 'email', 'test@example.com', '00000000-0000-0000-0000-000000000012');
        insert into lead_fields (client_id, key, label, choices) values
          ('00000000-0000-0000-0000-000000000001', 'fleet_size', 'Fleet size', '["1–3", "25+"]'), ('00000000-0000-0000-0000-000000000001', 'depot', 'Depot', '[]');
        insert into form_maps (id, client_id, form_id, version, status, map, made_at)
          values ('00000000-0000-0000-0000-000000000021', '00000000-0000-0000-0000-000000000001', '00000000-0000-0000-0000-000000000003', 1, 'confirmed', '{"rows": [{"formField": "mail", "leadField": "email"}]}', now());
        """;

    [Fact]
    public async Task What_the_version_before_kept_is_there_and_means_what_it_meant()
    {
        var name = $"litfuse_old{Environment.ProcessId}";
        await World.SqlAsync("postgres", $"create database {name}");
        try
        {
            var scope = new ClientScope();
            scope.OpenToAll();
            var options = new DbContextOptionsBuilder<AppDb>()
                .UseNpgsql(World.ConnectionTo(name) + ";Pooling=false", o => o.UseNodaTime())
                .UseSnakeCaseNamingConvention()
                .Options;
            await using (var db = new AppDb(options, scope))
                await db.GetService<IMigrator>().MigrateAsync("WaysIn");
            await World.SqlAsync(name, Before);
            await using (var db = new AppDb(options, scope))
                await db.Database.MigrateAsync();

            await using var after = new AppDb(options, scope);
            Assert.Equal(
                [("real@example.com", false), ("test@example.com", true)],
                (await after.LeadContacts.OrderBy(c => c.Value).ToListAsync()).Select(c => (c.Value, c.Test))
            );
            Assert.Equal(
                [("depot", Core.Mapping.LeadFieldType.Text), ("fleet_size", Core.Mapping.LeadFieldType.Choice)],
                (await after.LeadFields.OrderBy(f => f.Key).ToListAsync()).Select(f => (f.Key, f.Type))
            );
            var map = (await after.FormMaps.SingleAsync()).Map;
            Assert.Equal(
                ("mail", "email", null, null),
                (map.Rows[0].FormField, map.Rows[0].LeadField!, map.Rows[0].With, map.Locale)
            );
            var form = await after.Forms.SingleAsync();
            Assert.True(form.Hold is null && form.OptIn is null);
            Assert.All(await after.Leads.ToListAsync(), l =>
                Assert.True(l.Tags.Count == 0 && l.OwnerId is null && l.MergedInto is null)
            );

            // A field that is changed from now on makes the engine read the client's setup anew.
            var revision = (await after.Clients.AsNoTracking().SingleAsync()).Revision;
            await World.SqlAsync(name, "update lead_fields set label = 'Depot postcode' where key = 'depot'");
            Assert.True((await after.Clients.AsNoTracking().SingleAsync()).Revision > revision);
        }
        finally
        {
            await World.SqlAsync("postgres", $"drop database {name} with (force)");
        }
    }
}
