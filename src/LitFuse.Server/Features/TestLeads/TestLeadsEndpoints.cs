using LitFuse.Connectors;
using LitFuse.Core.Identity;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.TestLeads;

/// <summary>Where one's own tests go.</summary>
public sealed record MyTestAddresses(string? Phone, string? Email, string? Person);

/// <summary>What sweeping took away.</summary>
/// <param name="TakenBack">Gone out there.</param>
/// <param name="Stays">What no service takes back: texts, letters.</param>
/// <param name="Failed">What could not be taken back, and why.</param>
public sealed record Swept(int Leads, int TakenBack, int Stays, IReadOnlyList<string> Failed);

/// <summary>How many tests there are.</summary>
public sealed record TestCount(int Leads);

/// <summary>Test leads: whose addresses they go to, and sweeping them away, here and out there.</summary>
public static class TestLeadsEndpoints
{
    private const int MostAtOnce = 500;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var tests = app.MapGroup("/api/tests").WithTags("Tests");
        tests.MapGet("/addresses", GetAsync).Needs(Act.BeHere).WithSummary("Where my own tests go");
        tests.MapPut("/addresses", SetAsync).Needs(Act.BeHere).WithSummary("Say where my own tests go");
        tests.MapGet("/", CountAsync).Needs(Act.SeeLeads).WithSummary("How many test leads there are");
        tests
            .MapPost("/sweep", SweepAsync)
            .Needs(Act.EditSources)
            .WithSummary("Take all test leads away, here and, where a service can, out there");
    }

    private static async Task<Ok<MyTestAddresses>> GetAsync(HttpContext http, AppDb db, CancellationToken stop)
    {
        var me = await db.Users.AsNoTracking().SingleAsync(u => u.Id == ClientAccess.UserId(http.User), stop);
        return TypedResults.Ok(new MyTestAddresses(me.TestPhone, me.TestEmail, me.TestPerson));
    }

    private static async Task<Results<Ok<MyTestAddresses>, ProblemHttpResult>> SetAsync(
        MyTestAddresses set,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        CancellationToken stop
    )
    {
        var me = await db.Users.SingleAsync(u => u.Id == ClientAccess.UserId(http.User), stop);
        var country = await db
            .Clients.Where(c => scope.Ids.Contains(c.Id))
            .OrderBy(c => c.Name)
            .Select(c => c.Country)
            .FirstAsync(stop);
        var phone = PhoneReader.Read(set.Phone, country);
        if (phone.Fault is not null)
            return Problems.Bad("phone", phone.Fault + ".");
        var email = EmailReader.Read(set.Email);
        if (email.Fault is not null)
            return Problems.Bad("email", email.Fault + ".");
        if (set.Person is { Length: > 100 })
            return Problems.Bad("person", "At most 100 characters.");
        (me.TestPhone, me.TestEmail, me.TestPerson) = (
            phone.Phone?.E164,
            email.Email,
            string.IsNullOrWhiteSpace(set.Person) ? null : set.Person.Trim()
        );
        await db.SaveChangesAsync(stop);
        return TypedResults.Ok(new MyTestAddresses(me.TestPhone, me.TestEmail, me.TestPerson));
    }

    private static async Task<Results<Ok<TestCount>, ProblemHttpResult>> CountAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null
    ) =>
        await db.ChosenAsync(scope, client, stop) is { } clients
            ? TypedResults.Ok(
                new TestCount(await db.Leads.CountAsync(l => clients.Contains(l.ClientId) && l.Test, stop))
            )
            : Problems.NotThere.Because($"There is no client '{client}' for you.");

    private static async Task<Results<Ok<Swept>, ProblemHttpResult>> SweepAsync(
        AppDb db,
        ClientScope scope,
        ConnectorKinds connectors,
        ConnectionOpener opener,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var ids = await db
            .Leads.IgnoreQueryFilters()
            .Where(l => clients.Contains(l.ClientId) && l.Test)
            .OrderBy(l => l.Id)
            .Select(l => l.Id)
            .Take(MostAtOnce)
            .ToListAsync(stop);
        var (back, stays, failed) = await OutThereAsync(db, ids, connectors, opener, stop);

        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        foreach (var clientId in clients.Order())
            await db.Database.ExecuteSqlAsync(
                $"select pg_advisory_xact_lock(hashtextextended({clientId.ToString("N")}, 1))",
                stop
            );
        var owners = (await HeldLead.ManyAsync(db, ids, stop, mergedToo: true))
            .Select(l => new { l.Id, l.Lead.ClientId })
            .ToList();
        db.ChangeTracker.Clear();
        await db.Story.Where(s => ids.Contains(s.LeadId)).ExecuteDeleteAsync(stop);
        await db.Calls.Where(c => ids.Contains(c.LeadId)).ExecuteDeleteAsync(stop);
        await db.ServiceNews.Where(n => ids.Contains(n.LeadId)).ExecuteDeleteAsync(stop);
        await db.FileRows.Where(r => ids.Contains(r.LeadId)).ExecuteDeleteAsync(stop);
        await db.Consents.Where(c => ids.Contains(c.LeadId)).ExecuteDeleteAsync(stop);
        await db.OptIns.Where(o => ids.Contains(o.LeadId)).ExecuteDeleteAsync(stop);
        await db.Deliveries.Where(d => ids.Contains(d.LeadId)).ExecuteDeleteAsync(stop);
        await db.Burns.Where(b => ids.Contains(b.LeadId)).ExecuteDeleteAsync(stop);
        await db.Visitors.Where(v => ids.Contains(v.LeadId)).ExecuteDeleteAsync(stop);
        await db.Conflicts.Where(c => ids.Contains(c.LeadId) || ids.Contains(c.OtherId)).ExecuteDeleteAsync(stop);
        await db.Regroups.Where(r => ids.Contains(r.FromId) || ids.Contains(r.IntoId)).ExecuteDeleteAsync(stop);
        await db.LeadContacts.Where(c => ids.Contains(c.LeadId)).ExecuteDeleteAsync(stop);
        await db.Submissions.Where(s => s.LeadId != null && ids.Contains(s.LeadId.Value)).ExecuteDeleteAsync(stop);
        // Tests that never became leads: held, refused, waiting.
        await db
            .Submissions.Where(s =>
                clients.Contains(s.ClientId) && s.Test && s.LeadId == null && s.Status != SubmissionStatus.Received
            )
            .ExecuteDeleteAsync(stop);
        await db.Leads.IgnoreQueryFilters().Where(l => ids.Contains(l.Id) && l.Test).ExecuteDeleteAsync(stop);
        foreach (var owner in owners)
            db.NoteChange(owner.ClientId, ChangeKind.Lead, owner.Id);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return TypedResults.Ok(new Swept(owners.Count, back, stays, failed));
    }

    private static async Task<(int Back, int Stays, IReadOnlyList<string> Failed)> OutThereAsync(
        AppDb db,
        List<Guid> leads,
        ConnectorKinds connectors,
        ConnectionOpener opener,
        CancellationToken stop
    )
    {
        var sent = await db
            .Deliveries.AsNoTracking()
            .Where(d => leads.Contains(d.LeadId) && d.Status == DeliveryStatus.Done && d.Reference != null)
            .ToListAsync(stop);
        var connections = await db
            .Connections.AsNoTracking()
            .Where(c => sent.Select(s => s.ConnectionId).Contains(c.Id))
            .ToDictionaryAsync(c => c.Id, stop);
        var (back, stays, failed) = (0, 0, new Dictionary<string, int>(StringComparer.Ordinal));
        foreach (var delivery in sent)
        {
            var connection = connections[delivery.ConnectionId];
            try
            {
                var gone = await connectors
                    .Of(connection.Kind)
                    .SweepAsync(opener.Open(connection), delivery.Kind, delivery.Reference!, stop);
                if (gone is null)
                    stays++;
                else if (gone == true)
                    back++;
                else
                    Count($"{connection.Name} did not take it back");
            }
            catch (Exception e)
                when (e is HttpRequestException or IOException
                    || (e is OperationCanceledException && !stop.IsCancellationRequested)
                )
            {
                Count($"{connection.Name} could not be reached");
            }
        }

        void Count(string why) => failed[why] = failed.GetValueOrDefault(why) + 1;
        return (back, stays, [.. failed.Select(f => $"{f.Key} ({f.Value})")]);
    }
}
