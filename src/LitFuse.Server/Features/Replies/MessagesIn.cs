using LitFuse.Connectors;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Identity;
using LitFuse.Core.Replies;
using LitFuse.Core.Stories;
using LitFuse.Core.Texts;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Replies;

/// <summary>
/// Takes texts and letters that people write to us: into the story, to the burns that wait for them, and out of all
/// messages where they say stop. What is from nobody we know lies in the tray.
/// </summary>
public sealed class MessagesIn(AppDb db, LeadEventRouter events, TimeProvider time)
{
    private const int Longest = 8000;

    private static readonly HashSet<string> StartWords = new(StringComparer.OrdinalIgnoreCase)
    {
        "start",
        "unstop",
        "yes start",
        "restart",
    };

    /// <summary>Takes a text.</summary>
    /// <returns>True, also for one that was there before.</returns>
    public async Task<bool> ReceiveAsync(Connection connection, ServiceNotice.IncomingText text, CancellationToken stop)
    {
        var country = await db.Clients.Where(c => c.Id == connection.ClientId).Select(c => c.Country).SingleAsync(stop);
        var from = PhoneReader.Read(text.From, country).Phone?.E164 ?? text.From;
        var message = MessageOf(connection, MessageWay.Text, text.Reference, from, text.To, text.Words, text.At);
        await FileAsync(
            message,
            await LeadOfAsync(connection.ClientId, ContactKind.Phone, from, StepKinds.Text, stop),
            connection,
            stop
        );
        return true;
    }

    /// <summary>
    /// Takes a letter: whose it is, the letter says that it answers; else the address that it comes from.
    /// </summary>
    /// <returns>True, also for one that was there before.</returns>
    public async Task<bool> ReceiveAsync(
        Connection connection,
        ServiceNotice.IncomingLetter letter,
        CancellationToken stop
    )
    {
        var answered =
            letter.Answers.Count == 0
                ? null
                : await db
                    .Deliveries.Where(d => d.ConnectionId == connection.Id && letter.Answers.Contains(d.Reference!))
                    .OrderByDescending(d => d.MadeAt)
                    .Select(d => (Guid?)d.LeadId)
                    .FirstOrDefaultAsync(stop);
        var message = MessageOf(
            connection,
            MessageWay.Email,
            letter.Reference,
            letter.From,
            letter.To,
            letter.Words,
            letter.At
        );
        (message.Subject, message.Automatic, message.Fault, message.Raw) = (
            letter.Subject,
            letter.Automatic,
            letter.Fault,
            letter.Raw
        );
        var leadId = answered is { } sent
            ? await db.KeptInsteadAsync(sent, stop)
            : await LeadOfAsync(connection.ClientId, ContactKind.Email, letter.From, StepKinds.Email, stop);
        await FileAsync(message, leadId, connection, stop);
        return true;
    }

    /// <summary>Takes news that a letter did not arrive: the address is marked, and the burn hears of it.</summary>
    /// <returns>False when no letter of ours is meant.</returns>
    public async Task<bool> ReceiveAsync(
        Connection connection,
        ServiceNotice.Bounced bounced,
        BurnService burns,
        CancellationToken stop
    )
    {
        var now = time.Now();
        var found = await db
            .Deliveries.AsNoTracking()
            .Where(d => d.ConnectionId == connection.Id && d.Reference == bounced.Reference)
            .FirstOrDefaultAsync(stop);
        if (found is null)
            return false;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (
            await HeldLead.OfAsync(
                db,
                () => db.Deliveries.Where(d => d.Id == found.Id).Select(d => d.LeadId).ToListAsync(stop),
                stop
            )
            is not [var held]
        )
            return true;
        var lead = held.Lead;
        var delivery = await db
            .Deliveries.FromSql($"select * from deliveries where id = {found.Id} for update")
            .SingleAsync(stop);
        if (delivery.ReceiptAt is not null)
            return true;
        var words = bounced.Final
            ? $"did not arrive at {bounced.To}: {bounced.Reason}"
            : $"has not arrived at {bounced.To} yet: {bounced.Reason}";
        db.AddStory(delivery, bounced.Final ? StoryKind.Bounced : StoryKind.StepWaits, words, now);
        if (bounced.Final)
        {
            delivery.ReceiptAt = now;
            delivery.Reason = $"{connection.Name}: {words}";
            // A copy to a colleague says nothing of the lead's own address.
            if (
                delivery.Lane == Lane.Lead
                && lead.Email is { } email
                && email.Equals(bounced.To, StringComparison.OrdinalIgnoreCase)
            )
                (lead.EmailBouncedAt, lead.EmailBouncedBecause) = (now, bounced.Reason);
            if (delivery is { BurnId: { } burnId, StepId: { } stepId })
                await burns.BringAsync(
                    burnId,
                    held,
                    new BurnEvent.Happened(
                        LeadEvent.Of(EventKeys.DeliveryFailed, now, $"“{delivery.Step}” {words}", ("step", stepId)) with
                        {
                            Key = $"failed.{delivery.Id:N}",
                        }
                    ),
                    now,
                    stop
                );
        }

        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return true;
    }

    /// <summary>Says whose a message of the tray is.</summary>
    public async Task GiveAsync(
        IncomingMessage message,
        HeldLead lead,
        Connection connection,
        Instant now,
        CancellationToken stop
    )
    {
        message.LeadId = lead.Id;
        await ReplyAsync(lead, message, connection, now, stop);
    }

    private static IncomingMessage MessageOf(
        Connection connection,
        MessageWay way,
        string reference,
        string from,
        string to,
        string words,
        Instant at
    ) =>
        new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = connection.ClientId,
            ConnectionId = connection.Id,
            Way = way,
            Reference = Clip.To(reference, 500),
            From = PlainText.Line(from, 320),
            To = PlainText.Line(to, 320),
            Words = PlainText.Of(Clip.To(words, Longest)),
            At = at,
        };

    private async Task FileAsync(IncomingMessage message, Guid? leadId, Connection connection, CancellationToken stop)
    {
        var now = time.Now();
        message.KnownAt = now;
        if (message.At == Instant.MinValue || message.At > now)
            message.At = now;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        message.Meaning = ReplyReader.Read(message.Words, []).Meaning;
        var sharers = leadId is { } one ? await SharersAsync(message, one, stop) : [];
        // The leads before all else, as everywhere; then the message, which is there once.
        IReadOnlyList<HeldLead> held = leadId is { } id ? await HeldLead.ManyAsync(db, sharers.Append(id), stop) : [];
        var lead = held.FirstOrDefault(l => l.Id == leadId);
        message.LeadId = lead?.Id;
        var (way, meaning) = (Words.Of(message.Way), Words.Of(message.Meaning));
        var fresh =
            await db.Database.ExecuteSqlAsync(
                $"""
                insert into incoming_messages (id, client_id, connection_id, way, reference, "from", "to", subject, words, automatic, at, known_at, lead_id, meaning, fault, raw)
                values ({message.Id}, {message.ClientId}, {message.ConnectionId}, {way}, {message.Reference}, {message.From}, {message.To}, {message.Subject}, {message.Words}, {message.Automatic}, {message.At}, {now}, {lead?.Id}, {meaning}, {message.Fault}, {message.Raw})
                on conflict (connection_id, reference) do nothing
                """,
                stop
            ) == 1;
        if (fresh && lead is not null)
            await ReplyAsync(lead, message, connection, now, stop);
        foreach (var sharer in fresh ? held.Where(l => l != lead && l.Lead.OptedOutAt is null) : [])
            await OptOutAsync(sharer, lead?.Lead.ShownName(), message, connection, now, stop);
        if (fresh && lead is null)
            db.NoteChange(message.ClientId, ChangeKind.Tray, message.Id);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
    }

    // Who wants no more texts to a number means the number: whoever shares it gets none either.
    private async Task<List<Guid>> SharersAsync(IncomingMessage message, Guid leadId, CancellationToken stop) =>
        message is { Meaning: ReplyMeaning.Stop, Way: MessageWay.Text }
            ? await db
                .LeadContacts.Where(c =>
                    c.ClientId == message.ClientId
                    && c.Kind == ContactKind.Phone
                    && c.Value == message.From
                    && !c.Test
                    && c.LeadId != leadId
                )
                .Select(c => c.LeadId)
                .ToListAsync(stop)
            : [];

    private async Task OptOutAsync(
        HeldLead sharer,
        string? who,
        IncomingMessage message,
        Connection connection,
        Instant now,
        CancellationToken stop
    )
    {
        var other = sharer.Lead;
        other.OptedOutAt = now;
        Tell(
            other,
            StoryKind.OptedOut,
            $"{who}, who shares the number {message.From}, wants no more messages to it",
            message.At,
            now
        );
        await events.HappenAsync(
            sharer,
            [
                LeadEvent.Of(
                    EventKeys.OptedOut,
                    message.At,
                    "somebody who shares their number wants no more messages to it"
                ) with
                {
                    Key = $"{connection.Id:N}.{message.Reference}.out",
                },
            ],
            null,
            now,
            stop
        );
    }

    private async Task ReplyAsync(
        HeldLead held,
        IncomingMessage message,
        Connection connection,
        Instant now,
        CancellationToken stop
    )
    {
        var lead = held.Lead;
        var (words, at) = (message.Words, message.At);
        db.NoteChange(lead.ClientId, ChangeKind.Lead, lead.Id);
        if (message.Automatic)
        {
            Tell(lead, StoryKind.Answered, $"{message.Subject}\n{words}".Trim(), at, now);
            return;
        }

        var reading = ReplyReader.Read(words, []);
        Tell(lead, StoryKind.Replied, words, at, now);
        if (reading.Meaning != ReplyMeaning.Stop)
            lead.ReachedAt ??= at;
        if (message.Way == MessageWay.Email && lead.Email == message.From)
            (lead.EmailBouncedAt, lead.EmailBouncedBecause) = (null, null);
        var key = $"{connection.Id:N}.{message.Reference}";
        var happened = new List<LeadEvent>
        {
            LeadEvent.Of(
                EventKeys.Replied,
                at,
                $"they replied: {reading.Because}",
                ("text", words),
                ("meaning", reading.Meaning.ToString().ToLowerInvariant())
            ) with
            {
                Key = key,
            },
        };
        if (reading.Meaning == ReplyMeaning.Stop && lead.OptedOutAt is null)
        {
            lead.OptedOutAt = now;
            Tell(lead, StoryKind.OptedOut, reading.Because, at, now);
            happened.Add(
                LeadEvent.Of(EventKeys.OptedOut, at, "they wrote that they want no more messages") with
                {
                    Key = key + ".out",
                }
            );
            if (message.Way == MessageWay.Text)
                await ConfirmAsync(lead, connection, message, now, stop);
        }
        else if (lead.OptedOutAt is not null && StartWords.Contains(words.Trim()))
        {
            lead.OptedOutAt = null;
            Tell(lead, StoryKind.OptedIn, "they wrote start", at, now);
        }

        await events.HappenAsync(held, happened, null, now, stop);
    }

    // Once an opt-out, by its key: only who was not out before is told so. The one message that still goes to them.
    private async Task ConfirmAsync(
        Lead lead,
        Connection connection,
        IncomingMessage message,
        Instant now,
        CancellationToken stop
    )
    {
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == lead.ClientId, stop);
        var country = PhoneReader.Read(message.From, client.Country).Phone?.Country ?? client.Country;
        var kind = new StepKind(
            StepKinds.StopConfirmed,
            "Confirmed that texts stop",
            Lane.Lead,
            connection.Kind,
            [],
            []
        );
        var delivery = OutboxDelivery.Of(
            lead,
            connection.Id,
            kind,
            string.Create(
                System.Globalization.CultureInfo.InvariantCulture,
                $"{StepKinds.StopConfirmed}.{lead.Id:N}.{lead.OptedOutAt!.Value.ToUnixTimeTicks()}"
            ),
            new Dictionary<string, string>(StringComparer.Ordinal)
            {
                ["words"] = OptOutConfirmations.Confirmed(country, client.Name),
                ["to"] = message.From,
            },
            now
        );
        delivery.OnlyTo = lead.OnlyTo;
        db.Deliveries.Add(delivery);
        await db.WakeAsync("deliveries", stop);
    }

    // Of two leads with one number, a test and a real one, the message answers whoever was written to last.
    private async Task<Guid?> LeadOfAsync(
        Guid clientId,
        ContactKind kind,
        string from,
        string step,
        CancellationToken stop
    )
    {
        var known = await db
            .LeadContacts.Where(c => c.ClientId == clientId && c.Kind == kind && c.Value == from)
            .Select(c => c.LeadId)
            .ToListAsync(stop);
        if (known.Count < 2)
            return known.Count == 0 ? null : known[0];
        var last = await db
            .Deliveries.Where(d => known.Contains(d.LeadId) && d.Kind == step && d.SentAt != null)
            .OrderByDescending(d => d.SentAt)
            .Select(d => (Guid?)d.LeadId)
            .FirstOrDefaultAsync(stop);
        return last ?? known[0];
    }

    private void Tell(Lead lead, StoryKind kind, string words, Instant at, Instant now) =>
        db.AddStory(lead, kind, words, now, at: at);
}
