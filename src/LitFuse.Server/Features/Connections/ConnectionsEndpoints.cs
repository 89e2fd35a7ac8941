using LitFuse.Server.Delivery;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Accounts;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Platform;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Connections;

/// <summary>A connection as a row. Its secret is never told.</summary>
/// <param name="UsedBy">Names of the sources that use it.</param>
public sealed record ConnectionRow(
    Guid Id, string Client, string Kind, string Name, string? Account, ConnectionState State, string? Fault, IReadOnlyList<string> Granted, Instant? ExpiresAt, Instant? VerifiedAt, Instant? GoodAt,
    Instant? MadeAt, string? MadeBy, IReadOnlyList<string> UsedBy, bool ByConsent);

/// <summary>Connections of the clients chosen.</summary>
public sealed record ConnectionList(IReadOnlyList<ConnectionRow> Connections);

/// <summary>A name for a connection.</summary>
public sealed record ConnectionName(string Name);

/// <summary>A mail server.</summary>
/// <param name="Secure">TLS from the start (port 465 as a rule); else STARTTLS where it is offered.</param>
/// <param name="Sender">As in <c>Brackenwheel &lt;hello@brackenwheel.example&gt;</c>.</param>
public sealed record MailServer(string? Client, string? Host, int Port, bool Secure, string? User, string? Password, string? Sender);

/// <summary>Stored access: looked at, asked again, named, taken out.</summary>
public static class ConnectionsEndpoints
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var connections = app.MapGroup("/api/connections").WithTags("Connections");
        connections.MapGet("/", ListAsync).Needs(Act.SeeSources).WithSummary("Stored access to outside services");
        connections.MapPost("/{connectionId}/verify", VerifyAsync).Needs(Act.EditSources).WithSummary("Ask the service now what this access may do");
        connections.MapPut("/{connectionId}", RenameAsync).Needs(Act.EditSources).WithSummary("Give it another name");
        connections.MapPost("/mail", MailAsync).Needs(Act.EditSources).WithSummary("A mail server (SMTP) that letters go through; it is tried before it is kept");
        connections.MapDelete("/{connectionId}", RemoveAsync).Needs(Act.EditSources).WithSummary("Take it out; refused while something uses it");
    }

    private static async Task<Results<Ok<ConnectionList>, ProblemHttpResult>> ListAsync(AppDb db, ClientScope scope, SourceKinds kinds, CancellationToken stop, string? client = null)
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients) return Problems.NotThere.Because($"There is no client '{client}' for you.");
        return TypedResults.Ok(new ConnectionList(await RowsAsync(db, db.Connections.Where(c => clients.Contains(c.ClientId)), kinds, stop)));
    }

    private static async Task<Results<Ok<ConnectionRow>, ProblemHttpResult>> VerifyAsync(Guid connectionId, AppDb db, SourceKinds kinds, NetworkLook look, IEnumerable<IConnector> connectors, Secrets secrets, PublicAddress address, TimeProvider time, CancellationToken stop)
    {
        var connection = await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop);
        if (connection is null) return Problems.NotThere.Because("There is no such connection for you.");
        if (connectors.FirstOrDefault(c => c.Kind == connection.Kind) is { CanVerify: true } connector)
        {
            connection.Fault = await connector.VerifyAsync(new(connection.Id, new Uri(connection.BaseUrl), secrets.Open(connection.Secret), connection.Sender, address.OfNotices(connection.Id)), stop);
            (connection.State, connection.VerifiedAt) = (connection.Fault is null ? ConnectionState.Whole : ConnectionState.Unreachable, time.Now());
        }
        else if (kinds.Find(connection.Kind) is not INetwork) return Problems.NotNow.Because($"{connection.Name} tells nothing about its access; it is tried with each delivery.");
        else await look.VerifyAsync(connection, stop);
        await db.SaveChangesAsync(stop);
        return TypedResults.Ok((await RowsAsync(db, db.Connections.Where(c => c.Id == connectionId), kinds, stop))[0]);
    }

    private static async Task<Results<Created<ConnectionRow>, ProblemHttpResult>> MailAsync(MailServer mail, HttpContext http, AppDb db, ClientScope scope, SourceKinds kinds, IEnumerable<IConnector> connectors, Secrets secrets, PublicAddress address, TimeProvider time, CancellationToken stop)
    {
        if (string.IsNullOrWhiteSpace(mail.Client) || await db.ChosenAsync(scope, mail.Client, stop) is not [var clientId]) return Problems.Bad("client", "Say for which client.");
        if (string.IsNullOrWhiteSpace(mail.Host) || Uri.CheckHostName(mail.Host.Trim()) == UriHostNameType.Unknown) return Problems.Bad("host", "Write the server's name, as in mail.example.com.");
        if (mail.Port is < 1 or > 65535) return Problems.Bad("port", "A port is between 1 and 65535; 587 as a rule.");
        if (!MimeKit.MailboxAddress.TryParse(mail.Sender, out var sender) || Core.Identity.EmailReader.Read(sender.Address).Email is null) return Problems.Bad("sender", "Write the address that letters come from.");
        if (mail.User is { Length: > 200 } || mail.Password is { Length: > 500 }) return Problems.Bad("user", "That is too long.");
        var url = new UriBuilder(mail.Secure ? "smtps" : "smtp", mail.Host.Trim(), mail.Port) { UserName = Uri.EscapeDataString(mail.User ?? "") }.Uri;
        var id = Guid.CreateVersion7();
        var mailKind = connectors.Single(c => c.Kind == "pillarpost");
        if (await mailKind.VerifyAsync(new(id, url, mail.Password ?? "", mail.Sender, address.OfNotices(id)), stop) is { } fault) return Problems.NotConnected.Because($"The mail server {fault}.");
        var now = time.Now();
        db.Connections.Add(new() { Id = id, ClientId = clientId, Kind = mailKind.Kind, Name = "Mail, " + sender.Address, BaseUrl = url.ToString(), Secret = secrets.Seal(mail.Password ?? ""), Sender = mail.Sender!.Trim(), Account = sender.Address, MadeAt = now, MadeBy = Access.UserId(http.User), VerifiedAt = now, GoodAt = now });
        await db.SaveChangesAsync(stop);
        return TypedResults.Created($"/api/connections/{id}", (await RowsAsync(db, db.Connections.Where(c => c.Id == id), kinds, stop))[0]);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RenameAsync(Guid connectionId, ConnectionName named, AppDb db, CancellationToken stop)
    {
        var connection = await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop);
        if (connection is null) return Problems.NotThere.Because("There is no such connection for you.");
        var name = (named.Name ?? "").Trim();
        if (name.Length is 0 or > 80) return Problems.Bad("name", "Give it a name of at most 80 characters.");
        connection.Name = name;
        await db.SaveChangesAsync(stop);
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(Guid connectionId, AppDb db, CancellationToken stop)
    {
        var connection = await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop);
        if (connection is null) return Problems.NotThere.Because("There is no such connection for you.");
        var ids = await db.Sources.Where(s => s.ConnectionId == connectionId).Select(s => s.Id).ToListAsync(stop);
        var forms = await db.Forms.Where(f => ids.Contains(f.SourceId) && f.State != FormState.Offered).Select(f => f.Name).ToListAsync(stop);
        if (forms.Count > 0) return Problems.StillUsed.Because($"These forms are fetched through it: {string.Join(", ", forms)}.");
        if (await db.Deliveries.AnyAsync(d => d.ConnectionId == connectionId, stop)) return Problems.StillUsed.Because("Deliveries went through it, and their record names it.");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await db.SourceNotices.Where(n => ids.Contains(n.SourceId)).ExecuteDeleteAsync(stop);
        await db.Forms.Where(f => ids.Contains(f.SourceId)).ExecuteDeleteAsync(stop);
        await db.Sources.Where(s => ids.Contains(s.Id)).ExecuteDeleteAsync(stop);
        db.Connections.Remove(connection);
        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(stop);
        return TypedResults.NoContent();
    }

    private static async Task<IReadOnlyList<ConnectionRow>> RowsAsync(AppDb db, IQueryable<Connection> connections, SourceKinds kinds, CancellationToken stop)
    {
        var rows = await connections.AsNoTracking().OrderBy(c => c.Name).ToListAsync(stop);
        var clients = await db.Clients.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.ShortName, stop);
        var used = (await db.Sources.AsNoTracking().Where(s => s.ConnectionId != null).Select(s => new { s.ConnectionId, s.Name }).ToListAsync(stop)).ToLookup(s => s.ConnectionId!.Value, s => s.Name);
        var people = await db.PeopleAsync(rows.Select(r => r.MadeBy), stop);
        return rows.ConvertAll(c => new ConnectionRow(
            c.Id, clients[c.ClientId], c.Kind, c.Name, c.Account, c.State, c.Fault, c.Granted, c.ExpiresAt, c.VerifiedAt, c.GoodAt, c.MadeAt, LeadQueries.Name(people, c.MadeBy), [.. used[c.Id]],
            kinds.Find(c.Kind)?.Card.Access == AccessBy.Consent));
    }
}
