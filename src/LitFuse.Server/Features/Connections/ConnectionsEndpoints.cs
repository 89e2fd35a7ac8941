using LitFuse.Connectors;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Connections;

/// <summary>A connection as a row. Its secret is never told.</summary>
/// <param name="Service">The kind of service, as people call it.</param>
/// <param name="UsedBy">Names of the sources and armed fuses that use it.</param>
/// <param name="Asks">What it can be given anew; empty where it is connected in another way.</param>
/// <param name="Health">How deliveries through it went lately; <c>null</c> where none ever did.</param>
public sealed record ConnectionRow(
    Guid Id,
    string Client,
    string Kind,
    string Service,
    string Name,
    string? Account,
    ConnectionState State,
    string? Fault,
    IReadOnlyList<string> Granted,
    Instant? ExpiresAt,
    Instant? VerifiedAt,
    Instant? GoodAt,
    Instant? MadeAt,
    string? MadeBy,
    IReadOnlyList<string> UsedBy,
    bool ByConsent,
    bool CanVerify,
    IReadOnlyList<AccessAsk> Asks,
    ConnectionHealth? Health,
    Instant? PausedAt,
    string? PausedBy,
    int? AtOnce,
    int? PerMinute,
    Instant? OlderUntil,
    bool MakesSecret
)
{
    /// <summary>The signing secret, told once: with the answer to what made it.</summary>
    public string? Secret { get; init; }
}

/// <summary>Connections of the clients chosen.</summary>
public sealed record ConnectionList(IReadOnlyList<ConnectionRow> Connections);

/// <summary>A name for a connection.</summary>
public sealed record ConnectionName(string Name);

/// <summary>A mail server.</summary>
/// <param name="Secure">TLS from the start (port 465 as a rule); else STARTTLS where it is offered.</param>
/// <param name="Sender">As in <c>Brackenwheel &lt;hello@brackenwheel.example&gt;</c>.</param>
public sealed record MailServer(
    string? Client,
    string? Host,
    int Port,
    bool Secure,
    string? User,
    string? Password,
    string? Sender
);

/// <summary>Stored access: looked at, asked again, named, taken out.</summary>
public static class ConnectionsEndpoints
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var connections = app.MapGroup("/api/connections").WithTags("Connections");
        connections.MapGet("/", ListAsync).Needs(Act.SeeSources).WithSummary("Stored access to outside services");
        connections
            .MapPost("/{connectionId}/verify", VerifyAsync)
            .Needs(Act.EditSources)
            .WithSummary("Ask the service now what this access may do");
        connections.MapPut("/{connectionId}", RenameAsync).Needs(Act.EditSources).WithSummary("Give it another name");
        ConnectService.Map(connections);
        ConnectionFlow.Map(connections);
        ConnectionSecret.Map(connections);
        MailEndpoints.Map(connections);
        connections
            .MapPost("/mail", MailAsync)
            .Needs(Act.EditSources)
            .WithSummary("A mail server (SMTP) that letters go through; it is tried before it is kept");
        connections
            .MapDelete("/{connectionId}", RemoveAsync)
            .Needs(Act.EditSources)
            .WithSummary("Take it out; refused while something uses it");
    }

    private static async Task<Results<Ok<ConnectionList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        ConnectionRows rows,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        return TypedResults.Ok(
            new ConnectionList(await rows.ReadAsync(db.Connections.Where(c => clients.Contains(c.ClientId)), stop))
        );
    }

    private static async Task<Results<Ok<ConnectionRow>, ProblemHttpResult>> VerifyAsync(
        Guid connectionId,
        AppDb db,
        ConnectionVerifier verifier,
        ConnectionRows rows,
        CancellationToken stop
    )
    {
        var connection = await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop);
        if (connection is null)
            return Problems.No("connection");
        if (!await verifier.VerifyAsync(connection, stop))
            return Problems.NotNow.Because(
                $"{connection.Name} tells nothing about its access; it is tried with each delivery."
            );
        await db.SaveChangesAsync(stop);
        return TypedResults.Ok((await rows.ReadAsync(db.Connections.Where(c => c.Id == connectionId), stop))[0]);
    }

    private static async Task<Results<Created<ConnectionRow>, ProblemHttpResult>> MailAsync(
        MailServer mail,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        ConnectorKinds connectors,
        ConnectionOpener opener,
        ConnectionRows rows,
        Secrets secrets,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(mail.Client)
            || await db.ChosenAsync(scope, mail.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        if (string.IsNullOrWhiteSpace(mail.Host) || Uri.CheckHostName(mail.Host.Trim()) == UriHostNameType.Unknown)
            return Problems.Bad("host", "Write the server's name, as in mail.example.com.");
        if (mail.Port is < 1 or > 65535)
            return Problems.Bad("port", "A port is between 1 and 65535; 587 as a rule.");
        if (
            !MimeKit.MailboxAddress.TryParse(mail.Sender, out var sender)
            || Core.Identity.EmailReader.Read(sender.Address).Email is null
        )
            return Problems.Bad("sender", "Write the address that letters come from.");
        if (mail.User is { Length: > 200 } || mail.Password is { Length: > 500 })
            return Problems.Bad("user", "That is too long.");
        var url = new UriBuilder(mail.Secure ? "smtps" : "smtp", mail.Host.Trim(), mail.Port)
        {
            UserName = Uri.EscapeDataString(mail.User ?? ""),
        }.Uri;
        var id = Guid.CreateVersion7();
        var mailKind = connectors.Of("pillarpost");
        if (
            (await mailKind.VerifyAsync(opener.Try(id, url, mail.Password ?? "", mail.Sender), stop)).Fault is { } fault
        )
            return Problems.NotConnected.Because($"The mail server {fault}.");
        var now = time.Now();
        db.Connections.Add(
            new()
            {
                Id = id,
                ClientId = clientId,
                Kind = mailKind.Card.Kind,
                Name = "Mail, " + sender.Address,
                BaseUrl = url.ToString(),
                Secret = secrets.Seal(mail.Password ?? ""),
                Sender = mail.Sender!.Trim(),
                Account = sender.Address,
                MadeAt = now,
                MadeBy = ClientAccess.UserId(http.User),
                VerifiedAt = now,
                GoodAt = now,
            }
        );
        await db.SaveChangesAsync(stop);
        return TypedResults.Created(
            $"/api/connections/{id}",
            (await rows.ReadAsync(db.Connections.Where(c => c.Id == id), stop))[0]
        );
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RenameAsync(
        Guid connectionId,
        ConnectionName named,
        AppDb db,
        CancellationToken stop
    )
    {
        var connection = await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop);
        if (connection is null)
            return Problems.No("connection");
        var name = (named.Name ?? "").Trim();
        if (name.Length is 0 or > 80)
            return Problems.Bad("name", "Give it a name of at most 80 characters.");
        connection.Name = name;
        await db.SaveChangesAsync(stop);
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(
        Guid connectionId,
        AppDb db,
        ConnectionRows rows,
        CancellationToken stop
    )
    {
        var connection = await db.Connections.SingleOrDefaultAsync(c => c.Id == connectionId, stop);
        if (connection is null)
            return Problems.No("connection");
        var ids = await db.Sources.Where(s => s.ConnectionId == connectionId).Select(s => s.Id).ToListAsync(stop);
        var forms = await db
            .Forms.Where(f => ids.Contains(f.SourceId) && f.State != FormState.Offered)
            .Select(f => f.Name)
            .ToListAsync(stop);
        var fuses = await rows.FusesAsync(connection, stop);
        var files = await db
            .NightlyFiles.Where(f => f.ConnectionId == connectionId)
            .OrderBy(f => f.Name)
            .Select(f => f.Name)
            .ToListAsync(stop);
        // All of them at once: who mends one does not want to meet the next.
        var uses = new[]
        {
            forms.Count > 0 ? $"These forms are fetched through it: {string.Join(", ", forms)}." : null,
            fuses.Count > 0
                ? $"Armed fuses send through it: {string.Join(", ", fuses)}. Disarm them, or let them go through another connection."
                : null,
            files.Count > 0
                ? $"These files go out through it every night: {string.Join(", ", files)}. Take them out first."
                : null,
        }
            .OfType<string>()
            .ToList();
        if (uses.Count > 0)
            return Problems.StillUsed.Because(string.Join(" ", uses));
        if (await db.Deliveries.AnyAsync(d => d.ConnectionId == connectionId, stop))
            return Problems.StillUsed.Because("Deliveries went through it, and their record names it.");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await db.SourceNotices.Where(n => ids.Contains(n.SourceId)).ExecuteDeleteAsync(stop);
        await db.Forms.Where(f => ids.Contains(f.SourceId)).ExecuteDeleteAsync(stop);
        await db.Sources.Where(s => ids.Contains(s.Id)).ExecuteDeleteAsync(stop);
        db.Connections.Remove(connection);
        await db.SaveChangesAsync(stop);
        await transaction.CommitAsync(stop);
        return TypedResults.NoContent();
    }
}
