using LitFuse.Connectors;
using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Stories;
using LitFuse.Core.Words;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Leads;

/// <summary>Leads: the list, one whole, and what people do with them.</summary>
public static class LeadsEndpoints
{
    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var leads = app.MapGroup("/api/leads").WithTags("Leads");
        leads.MapGet("/{leadId}", GetAsync).Needs(Act.SeeLeads).WithSummary("A lead with its story");
        leads.MapPost("/{leadId}/touch", TouchAsync).Needs(Act.TouchLeads).WithSummary("Mark that you reached out");
        leads.MapPost("/{leadId}/texts", TextAsync).Needs(Act.TouchLeads).WithSummary("Write them a text");
        leads
            .MapPost("/text-size", SizeOf)
            .Needs(Act.TouchLeads)
            .WithSummary("How a text would be cut for the air, as it is billed");
        leads
            .MapPost("/{leadId}/email-works", EmailWorksAsync)
            .Needs(Act.TouchLeads)
            .WithSummary("Letters to their address may be tried again")
            .WithDescription(
                "After a letter came back, nothing automatic is written to that address until somebody says so, or they give another."
            );
        leads.MapPost("/{leadId}/opt-out", OptOutAsync).Needs(Act.TouchLeads).WithSummary("They want no texts");
    }

    private static async Task<Results<Ok<LeadDetail>, ProblemHttpResult>> GetAsync(
        Guid leadId,
        AppDb db,
        ClientScope scope,
        SubmissionReader reader,
        LeadContextReader around,
        StepCatalog steps,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var lead = await db.Leads.AsNoTracking().SingleOrDefaultAsync(l => l.Id == leadId, stop);
        if (lead is null)
        {
            var kept = await db
                .Leads.IgnoreQueryFilters()
                .Where(l => l.Id == leadId && scope.Ids.Contains(l.ClientId))
                .Select(l => l.MergedInto)
                .SingleOrDefaultAsync(stop);
            return kept is null
                ? Problems.No("lead")
                : Problems.NotThere.Because(
                    "It turned out to be the same person as another lead.",
                    new Dictionary<string, object?>(StringComparer.Ordinal) { ["mergedInto"] = kept }
                );
        }

        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == lead.ClientId, stop);
        var row = (await db.RowsAsync(db.Leads.Where(l => l.Id == leadId), stop))[0];
        var submissions = await SubmissionsAsync(db, reader, leadId, stop);
        var gate = GateFor(lead, client, time.Now());
        return TypedResults.Ok(
            new LeadDetail(
                row,
                client.Key,
                lead.Zone,
                lead.ZoneBecause,
                lead.Stage,
                client.Stages,
                gate is not GateAnswer.Never,
                gate switch
                {
                    GateAnswer.Never never => never.Reason,
                    GateAnswer.Wait wait => wait.Reason,
                    _ => null,
                },
                gate is GateAnswer.Wait until ? until.Until : null,
                client.HeldAt,
                lead.OptedOutAt,
                lead.EmailBouncedAt,
                lead.EmailBouncedBecause,
                submissions,
                await StoryAsync(db, lead, submissions, stop),
                await BurnsAsync(db, leadId, steps, stop),
                await around.ReadAsync(lead, stop)
            )
        );
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> TouchAsync(
        Guid leadId,
        TouchMade made,
        HttpContext http,
        AppDb db,
        FirstTouch touch,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var how = made.How switch
        {
            "spoke" => "spoke to them",
            "called" => "called them",
            "wrote" => "wrote to them",
            _ => null,
        };
        if (how is null)
            return Problems.Bad("how", "Say how: spoke, called or wrote.");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await HeldLead.OneAsync(db, leadId, stop) is not { } held)
            return Problems.No("lead");
        await touch.MarkAsync(held, ClientAccess.UserId(http.User)!.Value, time.Now(), how, stop);
        return await CommitAsync(db, held.Lead, transaction, stop);
    }

    private static Ok<TextSize> SizeOf(TextToWrite text) =>
        TypedResults.Ok(TextSegments.Count((text.Words ?? "").Trim()));

    private static async Task<Results<Accepted, ProblemHttpResult>> TextAsync(
        Guid leadId,
        TextToWrite text,
        HttpContext http,
        AppDb db,
        ConnectorKinds connectors,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var words = (text.Words ?? "").Trim();
        if (words.Length == 0)
            return Problems.Bad("words", "Write the text first.");
        var size = TextSegments.Count(words);
        if (size.Segments > TextSegments.Most)
            return Problems.Bad(
                "words",
                $"That is {size.Segments} segments; at most {TextSegments.Most} go out in one text."
            );
        var me = ClientAccess.UserId(http.User)!.Value;
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await HeldLead.OneAsync(db, leadId, stop) is not { Lead: var lead } held)
            return Problems.No("lead");
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == lead.ClientId, stop);
        var now = time.Now();
        if (GateFor(lead, client, now) is GateAnswer.Never never)
            return Problems.NotNow.Because($"No text was sent: {never.Reason}.");
        var connection = await db
            .Connections.AsNoTracking()
            .FirstOrDefaultAsync(c => c.ClientId == lead.ClientId && connectors.ThatText.Contains(c.Kind), stop);
        if (connection is null)
            return Problems.NotNow.Because("This client has no connection that sends texts.");

        var id = Guid.CreateVersion7();
        db.Deliveries.Add(
            new()
            {
                Id = id,
                ClientId = lead.ClientId,
                LeadId = lead.Id,
                ConnectionId = connection.Id,
                Kind = StepKinds.Text,
                Lane = Lane.Lead,
                Key = $"text.{id:N}",
                Settings = new Dictionary<string, string>(StringComparer.Ordinal) { ["words"] = words },
                PlannedAt = now,
                AgeLimitHours = 24,
                WrittenBy = me,
                Status = DeliveryStatus.Due,
                MadeAt = now,
                DueAt = now,
                Segments = size.Segments,
            }
        );
        db.AddStory(lead, StoryKind.TextWritten, "wrote a text", now, by: me).DeliveryId = id;
        await db.SaveAndNotifyAsync(stop);
        await db.WakeAsync("deliveries", stop);
        await transaction.CommitAsync(stop);
        signals.Deliveries.Pulse();
        return TypedResults.Accepted((string?)null);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> OptOutAsync(
        Guid leadId,
        HttpContext http,
        AppDb db,
        LeadEventRouter events,
        TimeProvider time,
        CancellationToken stop
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await HeldLead.OneAsync(db, leadId, stop) is not { Lead: var lead } held)
            return Problems.No("lead");
        if (lead.OptedOutAt is not null)
            return TypedResults.NoContent();
        var now = time.Now();
        lead.OptedOutAt = now;
        db.AddStory(lead, StoryKind.OptedOut, "wants no texts", now, by: ClientAccess.UserId(http.User));
        await events.HappenAsync(held, [LeadEvent.Of(EventKeys.OptedOut, now, "they want no texts")], null, now, stop);
        return await CommitAsync(db, lead, transaction, stop);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> EmailWorksAsync(
        Guid leadId,
        HttpContext http,
        AppDb db,
        TimeProvider time,
        CancellationToken stop
    )
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        if (await HeldLead.OneAsync(db, leadId, stop) is not { Lead: var lead } held)
            return Problems.No("lead");
        if (lead.EmailBouncedAt is null)
            return TypedResults.NoContent();
        (lead.EmailBouncedAt, lead.EmailBouncedBecause) = (null, null);
        db.AddStory(
            lead,
            StoryKind.FieldSet,
            "letters may be written to their address again",
            time.Now(),
            by: ClientAccess.UserId(http.User)
        );
        return await CommitAsync(db, lead, transaction, stop);
    }

    internal static async Task<NoContent> CommitAsync(
        AppDb db,
        Lead lead,
        Microsoft.EntityFrameworkCore.Storage.IDbContextTransaction transaction,
        CancellationToken stop
    )
    {
        db.NoteChange(lead.ClientId, ChangeKind.Lead, lead.Id);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return TypedResults.NoContent();
    }

    private static GateAnswer GateFor(Lead lead, Client client, Instant now) =>
        ContactPolicy.Ask(LeadFactsReader.Bare(lead, client), now, Duration.FromHours(24), now);

    private static async Task<IReadOnlyList<LeadSubmission>> SubmissionsAsync(
        AppDb db,
        SubmissionReader reader,
        Guid leadId,
        CancellationToken stop
    )
    {
        var rows = await db
            .Submissions.AsNoTracking()
            .Where(s => s.LeadId == leadId)
            .OrderBy(s => s.ReceivedAt)
            .Join(db.Forms, s => s.FormId, f => f.Id, (s, f) => new { Submission = s, Form = f })
            .Join(
                db.Sources,
                r => r.Form.SourceId,
                s => s.Id,
                (r, s) =>
                    new
                    {
                        r.Submission,
                        r.Form,
                        s.Kind,
                    }
            )
            .ToListAsync(stop);
        var list = new List<LeadSubmission>(rows.Count);
        foreach (var row in rows)
        {
            var payload = await reader.ReadAsync(row.Kind, row.Form.Picks, row.Submission);
            var tracked = payload.Answers.ToLookup(a =>
                Core.Mapping.ObviousMap.Tracking.Contains(a.Field) || a.Field is "page"
            );
            var envelope = Envelope.Read(row.Submission.Envelope);
            list.Add(
                new(
                    row.Submission.Id,
                    row.Form.Id,
                    row.Form.Name,
                    row.Submission.AskedAt,
                    row.Submission.ReceivedAt,
                    row.Submission.Test,
                    row.Submission.Junk,
                    envelope?.Via ?? "door",
                    envelope?.Page,
                    [.. tracked[false].Select(a => new AnswerLine(row.Form.LabelOf(a.Field), a.Value))],
                    [.. tracked[true].Select(a => new AnswerLine(LeadField.WordsOf(a.Field), a.Value))]
                )
            );
        }

        return list;
    }

    private static async Task<IReadOnlyList<StoryLine>> StoryAsync(
        AppDb db,
        Lead lead,
        IReadOnlyList<LeadSubmission> submissions,
        CancellationToken stop
    )
    {
        var lines = await db
            .Story.AsNoTracking()
            .Where(s => s.LeadId == lead.Id)
            .OrderBy(s => s.At)
            .ThenBy(s => s.Id)
            .Take(2000)
            .ToListAsync(stop);
        var deliveries = await db
            .Deliveries.AsNoTracking()
            .Where(d => d.LeadId == lead.Id)
            .ToDictionaryAsync(d => d.Id, stop);
        var answers = (
            await db
                .DeliveryTries.AsNoTracking()
                .Where(t => db.Deliveries.Any(d => d.Id == t.DeliveryId && d.LeadId == lead.Id))
                .OrderBy(t => t.BeganAt)
                .Select(t => new { t.DeliveryId, t.Exchanges })
                .ToListAsync(stop)
        )
            .GroupBy(t => t.DeliveryId)
            .ToDictionary(g => g.Key, g => g.Last().Exchanges.LastOrDefault()?.Answer);
        var people = await db.PeopleAsync(lines.Select(l => l.UserId), stop);
        return lines.ConvertAll(line =>
        {
            var asked = submissions.Where(s => s.AskedAt <= line.At).Select(s => (Instant?)s.AskedAt).LastOrDefault()
                ?? lead.AskedAt;
            var delivery = line.DeliveryId is { } id ? deliveries.GetValueOrDefault(id) : null;
            var showsSent = line.Kind is StoryKind.StepSent or StoryKind.TextWritten or StoryKind.OptInAsked;
            var showsAnswer = line.Kind is StoryKind.StepDone or StoryKind.StepFailed or StoryKind.StepRetries;
            return new StoryLine(
                line.Id,
                line.Kind,
                line.At,
                line.KnownAt,
                (line.At - asked).TotalSeconds,
                line.Words,
                line.Fuse,
                line.Band,
                line.Step,
                PeopleNames.Of(people, line.UserId),
                showsSent && delivery is not null ? SentOf(delivery, lead) : null,
                showsAnswer && delivery is not null ? answers.GetValueOrDefault(delivery.Id) : null
            );
        });
    }

    private static StorySent SentOf(OutboxDelivery delivery, Lead lead) =>
        new(
            delivery.Kind,
            // Of a call, the words are what the team hears.
            delivery.Kind == StepKinds.RingThrough
                ? null
                : delivery.Settings.GetValueOrDefault("to")
                    ?? (
                        delivery.Lane == Lane.Lead
                            ? delivery.Kind is StepKinds.Email or StepKinds.OptInEmail
                                ? lead.Email
                                : lead.Phone
                            : delivery.Settings.GetValueOrDefault("channel")
                    )
                    ?? delivery.Settings.GetValueOrDefault("person"),
            delivery.Settings.GetValueOrDefault("words") ?? "",
            delivery.Attempts,
            delivery.Status,
            delivery.Segments
        );

    private static async Task<IReadOnlyList<LeadBurn>> BurnsAsync(
        AppDb db,
        Guid leadId,
        StepCatalog steps,
        CancellationToken stop
    )
    {
        var rows = await db
            .Burns.AsNoTracking()
            .Where(b => b.LeadId == leadId)
            .OrderBy(b => b.LitAt)
            .Join(db.FuseVersions, b => b.FuseVersionId, v => v.Id, (b, v) => new { Burn = b, Version = v })
            .ToListAsync(stop);
        var fuses = rows.ConvertAll(r => r.Burn.FuseId);
        var armed = await db
            .Fuses.Where(f => fuses.Contains(f.Id) && f.State == FuseState.Armed)
            .Select(f => f.Id)
            .ToListAsync(stop);
        return rows.ConvertAll(r => new LeadBurn(
            r.Burn.Id,
            r.Burn.FuseId,
            StoryWriter.NameOf(r.Version),
            r.Burn.Status,
            r.Burn.LitAt,
            r.Burn.State.Held,
            r.Burn.State.Stop,
            r.Burn.SetAsideBecause,
            r.Burn.State.Hears,
            armed.Contains(r.Burn.FuseId),
            [
                .. r
                    .Burn.State.Steps.Where(s =>
                        s.Status is StepStatus.Waiting or StepStatus.Failed or StepStatus.Cancelled
                    )
                    .OrderBy(s => s.DueAt)
                    .Select(s => StepOf(s, r.Version.Definition, steps)),
            ],
            [
                .. r.Burn.State.Silences.Select(s => new LeadBurnSilence(
                    r.Version.Definition.Bands.FirstOrDefault(b => b.Id == s.BandId)?.Name ?? s.BandId,
                    s.Until
                )),
            ]
        ));
    }

    private static LeadBurnStep StepOf(BurnStep state, FuseDefinition fuse, StepCatalog steps)
    {
        var band = fuse.Bands.FirstOrDefault(b => b.Steps.Any(s => s.Id == state.StepId));
        var step = band?.Steps.First(s => s.Id == state.StepId);
        return new(
            state.StepId,
            step?.Name ?? state.StepId,
            band?.Name ?? "",
            steps.Find(step?.Kind ?? "")?.Lane ?? Lane.Silent,
            state.Status,
            state.DueAt,
            state.Reason
        );
    }
}
