using LitFuse.Core.Identity;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Replies;

/// <summary>A message from nobody we know.</summary>
/// <param name="LeadId">Who has its number or address by now: a lead that was made of them since.</param>
public sealed record TrayMessage(
    Guid Id,
    Guid ClientId,
    string Client,
    MessageWay Way,
    string From,
    string To,
    string? Subject,
    string Words,
    Instant At,
    bool Automatic,
    Guid? LeadId,
    string? Lead,
    string? Fault
);

/// <summary>What lies in the tray.</summary>
/// <param name="Total">Of how many these are the newest.</param>
public sealed record TrayList(IReadOnlyList<TrayMessage> Messages, int Total);

/// <summary>Whose a message is.</summary>
public sealed record MessageGiven(Guid LeadId);

/// <summary>The tray: texts and letters from nobody we know, until somebody says whose they are.</summary>
public static class TrayEndpoints
{
    private const int Most = 100;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var tray = app.MapGroup("/api/tray").WithTags("Replies");
        tray.MapGet("/", ListAsync).Needs(Act.SeeLeads).WithSummary("Messages from nobody we know, newest first");
        tray.MapPost("/{messageId}/give", GiveAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("Say whose it is: it joins their story, and their fuses hear of it");
        tray.MapPost("/{messageId}/dismiss", DismissAsync).Needs(Act.TouchLeads).WithSummary("It is nobody's");
    }

    private static async Task<Results<Ok<TrayList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        var lying = db.IncomingMessages.Where(m =>
            clients.Contains(m.ClientId) && m.LeadId == null && m.DismissedAt == null
        );
        var messages = await lying
            .OrderByDescending(m => m.At)
            .Take(Most)
            .Select(m => new
            {
                Message = m,
                Client = db.Clients.Where(c => c.Id == m.ClientId).Select(c => c.ShortName).First(),
                Lead = db.Leads.FirstOrDefault(l =>
                    db.LeadContacts.Any(c => c.LeadId == l.Id && c.ClientId == m.ClientId && c.Value == m.From)
                ),
            })
            .ToListAsync(stop);
        return TypedResults.Ok(
            new TrayList(
                [
                    .. messages.Select(m => new TrayMessage(
                        m.Message.Id,
                        m.Message.ClientId,
                        m.Client,
                        m.Message.Way,
                        m.Message.From,
                        m.Message.To,
                        m.Message.Subject,
                        m.Message.Words,
                        m.Message.At,
                        m.Message.Automatic,
                        m.Lead?.Id,
                        m.Lead?.ShownName(),
                        m.Message.Fault
                    )),
                ],
                await lying.CountAsync(stop)
            )
        );
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> GiveAsync(
        Guid messageId,
        MessageGiven given,
        AppDb db,
        MessagesIn messages,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await HeldLead.OneAsync(db, given.LeadId, stop) is not { } held)
            return Problems.No("lead");
        if (
            await db
                .IncomingMessages.FromSql($"select * from incoming_messages where id = {messageId} for update")
                .SingleOrDefaultAsync(stop)
                is not { } message
            || message.ClientId != held.Lead.ClientId
        )
            return Problems.No("message");
        if (message.LeadId is not null)
            return Problems.NotNow.Because("Somebody has said already whose it is.");
        var now = time.Now();
        // The next one from there is theirs without a question.
        var kind = message.Way == MessageWay.Text ? ContactKind.Phone : ContactKind.Email;
        await db.KnowContactAsync(held.Id, new(kind, message.From), stop);
        var connection = await db.Connections.SingleAsync(c => c.Id == message.ConnectionId, stop);
        await messages.GiveAsync(message, held, connection, now, stop);
        db.NoteChange(message.ClientId, ChangeKind.Tray, message.Id);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        signals.Deliveries.Pulse();
        signals.Burns.Pulse();
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> DismissAsync(
        Guid messageId,
        HttpContext http,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (
            await db.IncomingMessages.SingleOrDefaultAsync(m => m.Id == messageId && m.LeadId == null, stop)
            is not { } message
        )
            return Problems.No("message");
        (message.DismissedAt, message.DismissedBy) = (
            message.DismissedAt ?? time.Now(),
            ClientAccess.UserId(http.User)
        );
        db.NoteChange(message.ClientId, ChangeKind.Tray, message.Id);
        await db.SaveAndNotifyAsync(stop);
        return TypedResults.NoContent();
    }
}
