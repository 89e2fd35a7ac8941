using LitFuse.Core.Fields;
using LitFuse.Core.Figures;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Junk;
using LitFuse.Core.Mapping;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>
/// Turns received submissions into leads and lights fuses: a batch in one transaction, which holds the rows (SKIP
/// LOCKED) and calls nothing outside. A process killed in the middle leaves them as they were.
/// </summary>
public sealed partial class SubmissionProcessor(
    AppDb db,
    LeadEventRouter events,
    OptInAsker optIns,
    ClientConfigCache setups,
    SubmissionReader reader,
    SameWordsCounter sameWords,
    TimeProvider time
)
{
    /// <summary>How many are done at once.</summary>
    public const int MostAtOnce = 100;

    /// <summary>After so many failures a submission is set aside.</summary>
    public const int MostAttempts = 5;

    private readonly BatchLeadLookup people = new(db);
    private IReadOnlyDictionary<Guid, ClientConfig> around = null!;

    /// <summary>True when a burn that was lit wants waking later.</summary>
    public bool Wakes => events.Wakes;

    /// <summary>Does up to <paramref name="most"/> submissions.</summary>
    /// <returns>How many were claimed.</returns>
    public async Task<int> RunAsync(int most, CancellationToken stop)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var now = time.Now();
        var claimed = await db
            .Submissions.FromSql(
                $"select * from submissions where status = 'received' and due_at <= {now} order by due_at, id limit {most} for update skip locked"
            )
            .ToListAsync(stop);
        if (claimed.Count == 0)
            return 0;

        // Who changes a setup waits for this batch: what it sets aside as waiting is then there to be released. Without
        // that, a submission on its way while its form was resumed or its map confirmed would wait for ever.
        Guid[] clients = [.. claimed.Select(s => s.ClientId).Distinct().Order()];
        await db.Database.ExecuteSqlAsync(
            $"select 1 from clients where id = any({clients}) order by id for share",
            stop
        );
        around = await setups.ReadAsync(db, clients, stop);
        var read = new List<ReadSubmission>();
        foreach (var submission in claimed.OrderBy(s => s.ReceivedAt).ThenBy(s => s.Id))
        {
            var setup = around[submission.ClientId];
            var form = setup.Forms[submission.FormId];
            var payload = await reader.ReadAsync(setup, submission);
            var mapped =
                form.State == FormState.Receiving && setup.Maps.TryGetValue(submission.FormId, out var map)
                    ? map.Compiled.Read(payload.Answers)
                    : null;
            read.Add(new(submission, payload, mapped, Envelope.Read(submission.Envelope)));
        }

        await people.ReadAsync(read, stop);
        events.Know(around);
        await events.ReadBurnsAsync(people.AllHeld, stop);
        foreach (var one in read)
            await ProcessAsync(one, time.Now(), stop);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return claimed.Count;
    }

    /// <summary>
    /// After a batch failed: counts the failure against the first submission due, and sets it aside after the last try.
    /// </summary>
    public async Task SetBackAsync(string reason, CancellationToken stop)
    {
        var now = time.Now();
        await db.Database.ExecuteSqlAsync(
            $"""
            update submissions set attempts = attempts + 1, reason = {reason}, due_at = {now} + interval '1 second' * power(2, attempts),
                   status = case when attempts + 1 >= {MostAttempts} then 'stuck' else status end
            where id = (select id from submissions where status = 'received' and due_at <= {now} order by due_at, id limit 1 for update skip locked)
            """,
            stop
        );
    }

    private async Task ProcessAsync(ReadSubmission one, Instant now, CancellationToken stop)
    {
        var (submission, payload, mapped, envelope) = one;
        db.NoteChange(submission.ClientId, ChangeKind.Form, submission.FormId);
        if (payload.Unreadable is { } fault)
        {
            (submission.Status, submission.Reason) = (SubmissionStatus.Unreadable, fault);
            return;
        }

        var waits = mapped is null ? Unmapped(submission) : WaitsFor(submission, mapped, now);
        if (mapped is null || waits is not null)
        {
            (submission.Status, submission.Reason) = (SubmissionStatus.Waiting, waits);
            return;
        }

        submission.MapVersion = SetupOf(submission).Maps[submission.FormId].Version;
        if (
            submission.ConfirmedAt is { } confirmedAt
            && submission.LeadId is { } waited
            && people.ById(waited) is { } confirmed
        )
        {
            (submission.Status, submission.Reason) = (SubmissionStatus.Processed, null);
            await GoOnAsync(confirmed, one, confirmedAt, now, stop);
            return;
        }

        if (EditedLead(submission, envelope) is { } before)
        {
            await EditAsync(before, one, now, stop);
            return;
        }

        if (Hold(one) is { } why)
        {
            (submission.Status, submission.Reason, submission.HeldAt) = (
                SubmissionStatus.Held,
                why,
                submission.HeldAt ?? now
            );
            db.NoteChange(submission.ClientId, ChangeKind.Pen, submission.FormId);
            return;
        }

        (submission.Status, submission.Reason) = (SubmissionStatus.Processed, null);
        await BecomeLeadAsync(one, mapped, now, stop);
    }

    private string Unmapped(Submission submission) =>
        FormOf(submission).State switch
        {
            FormState.Paused => "the form is paused",
            FormState.Offered => "the form is not chosen",
            _ => "the form's field map is not confirmed",
        };

    // What a step cannot do without is worth the wait until its new name is known; what has it goes on.
    private string? WaitsFor(Submission submission, MappedLead mapped, Instant now) =>
        FormOf(submission)
            .WaitsFor.FirstOrDefault(w =>
                !HowItCame.Has(mapped, w.Field)
                && w.Keeps(mapped.Values, now.InZone(SetupOf(submission).Client.DateTimeZone()).Date)
            )
            is { } missing
            ? $"{LeadField.WordsOf(missing.Field)} does not come any more, and a step needs it"
            : null;

    private async Task EditAsync(Lead before, ReadSubmission one, Instant now, CancellationToken stop)
    {
        var (submission, _, _, envelope) = one;
        (submission.Status, submission.Reason) = (SubmissionStatus.Processed, null);
        submission.LeadId = before.Id;
        Tell(
            before,
            submission,
            StoryKind.SubmissionEdited,
            submission.ReceivedAt,
            envelope?.AmendsReceipt is not null ? "they amended their answers" : "sent again with other answers",
            now
        );
        // Whose answers these are is known; a number or an address among them that is new is a contact like any
        // other.
        var changes = await KnowAsync(before, one, MatchOf(one, before), now, fresh: false, stop);
        db.NoteChange(submission.ClientId, ChangeKind.Lead, before.Id);
        if (!submission.Quiet)
            await HappenAsync(
                before,
                one,
                [What(one, EventKeys.Edited, submission.AskedAt, "by other answers on"), .. changes],
                now,
                stop
            );
    }

    // Scored once it can be read; what a person has approved, or typed in, waits no more.
    private string? Hold(ReadSubmission one)
    {
        var (submission, payload, mapped, envelope) = one;
        var words = submission.Quiet || envelope?.Via is "hand" or "import" ? null : JunkScore.OwnWords(payload);
        var junk = JunkScore.OfAnswers(
            new(envelope?.Junk ?? 0, envelope?.JunkBecause ?? []),
            payload,
            mapped!,
            words is null ? 0 : sameWords.Count(submission.FormId, words, mapped!.Email ?? mapped.Phone?.E164 ?? "")
        );
        (submission.Junk, submission.JunkBecause) = (junk.Score, junk.Because.Count == 0 ? null : junk.Because);
        if (submission.Quiet || submission.DecidedAt is not null || envelope?.Via is "hand" or "import")
            return null;
        var form = FormOf(submission);
        if ((form.Hold ?? HoldRule.Usual).Why(junk, mapped!.Values) is { } why)
            return why;
        return form.OptIn is not null && mapped.Email is null
            ? "there is no email address that could be asked to confirm"
            : null;
    }

    private async Task BecomeLeadAsync(ReadSubmission one, MappedLead mapped, Instant now, CancellationToken stop)
    {
        var (submission, payload, _, envelope) = one;
        var match = MatchOf(one, null);
        var lead = match.Lead ?? MakeLead(one, now);
        submission.LeadId = lead.Id;
        if (submission.OwnId is { } own)
            people.Sent(submission.FormId, own, lead);
        var asks = optIns.Asks(FormOf(submission), submission, mapped, email =>
            people.HasConfirmed(lead.Id, submission.FormId, email)
        );
        if (match.Lead is null)
            lead.Quiet |= asks;
        else
            lead.TimesAsked++;
        if (match.Lead is not null && !asks)
            AskAgain(lead, submission, submission.AskedAt);

        TellArrival(lead, submission, envelope, now);
        Tell(
            lead,
            submission,
            match.Lead is null ? StoryKind.LeadMade : StoryKind.LeadMatched,
            now,
            match.Because,
            now
        );
        var changes = await KnowAsync(lead, one, match, now, fresh: match.Lead is null, stop);
        Consented(lead, one, now);
        if (
            payload.Answers.FirstOrDefault(a => a.Field == "visitor_id") is
            { Value: { Length: > 0 and <= 100 } visitor }
        )
            KnowVisitor(lead, visitor, now);
        db.NoteChange(submission.ClientId, ChangeKind.Lead, lead.Id);
        if (asks)
            optIns.Ask(lead, submission, FormOf(submission), mapped.Email!, SetupOf(submission), now);
        else if (!submission.Quiet)
        {
            var what = new List<LeadEvent>
            {
                What(one, EventKeys.Submission, submission.AskedAt, "by the submission on"),
            };
            if (match.Lead is null)
                what.Add(What(one, EventKeys.LeadMade, submission.AskedAt, "by a new lead, through"));
            if (submission.DecidedAt is not null)
                what.Add(What(one, EventKeys.Approved, submission.AskedAt, "by the approval of a submission on"));
            await HappenAsync(lead, one, [.. what, .. changes], now, stop);
        }
    }

    // How it came, when it was safe, and how long it was held.
    private void TellArrival(Lead lead, Submission submission, Envelope? envelope, Instant now)
    {
        Tell(
            lead,
            submission,
            StoryKind.Submitted,
            submission.AskedAt,
            HowItCame.Say(
                FormOf(submission),
                submission,
                envelope,
                SetupOf(submission).SourceNames.GetValueOrDefault(submission.FormId)
            ),
            envelope?.ToldAt ?? submission.ReceivedAt
        );
        Tell(
            lead,
            submission,
            StoryKind.Acknowledged,
            submission.ReceivedAt,
            "on disk, and its sender was told",
            submission.ReceivedAt
        );
        if (submission.DecidedAt is { } decided)
            Tell(
                lead,
                submission,
                StoryKind.Approved,
                decided,
                $"after {Spans.Say(decided - (submission.HeldAt ?? decided))} in the holding pen",
                now
            ).UserId = submission.DecidedBy;
    }

    // All that one submission brings happens at one moment: a fuse that two of them would light is lit once.
    private Task HappenAsync(
        Lead lead,
        ReadSubmission one,
        IReadOnlyList<LeadEvent> what,
        Instant now,
        CancellationToken stop
    )
    {
        events.Know(one.Submission, FormOf(one.Submission), one.Payload.Answers);
        return events.HappenAsync(people.Held(lead), what, one.Submission.Id, now, stop);
    }

    private LeadEvent What(ReadSubmission one, string key, Instant at, string how)
    {
        var form = FormOf(one.Submission);
        return LeadFactsReader.Sent(
            key,
            form,
            one.Payload.Answers,
            SetupOf(one.Submission).SourceNames.GetValueOrDefault(form.Id) ?? "",
            at,
            how,
            one.Envelope?.Page
        ) with
        {
            Key = $"{key}.{one.Submission.Id:N}",
        };
    }

    // They confirmed their address: from now on they are in the air, and the clock runs from their confirming.
    private async Task GoOnAsync(
        Lead lead,
        ReadSubmission one,
        Instant confirmedAt,
        Instant now,
        CancellationToken stop
    )
    {
        var submission = one.Submission;
        // Where they are in the air already the clock runs on; and who took the lead meanwhile, or reached out, has.
        var (by, at) = lead.FirstTouchAt is null ? (lead.TakenBy, lead.TakenAt) : (null, null);
        if (lead.FirstTouchAt is { } touched && touched >= submission.AskedAt)
            lead.Quiet = false;
        else
            AskAgain(lead, submission, confirmedAt);
        if (by is not null)
            (lead.TakenBy, lead.TakenAt) = (by, at);
        db.NoteChange(submission.ClientId, ChangeKind.Lead, lead.Id);
        if (!submission.Quiet)
            await HappenAsync(
                lead,
                one,
                [
                    What(one, EventKeys.Submission, confirmedAt, "by the submission on"),
                    What(one, EventKeys.OptInConfirmed, confirmedAt, "by their confirming of the address given on"),
                ],
                now,
                stop
            );
    }

    // Sent again with its own id, or amended by its signed link.
    private Lead? EditedLead(Submission submission, Envelope? envelope)
    {
        if (envelope?.AmendsReceipt is { } receipt && people.Amended(receipt) is { } amended)
            return amended;
        return submission.OwnId is { } ownId ? people.Sent(submission.FormId, ownId) : null;
    }

    private void KnowVisitor(Lead lead, string visitor, Instant now)
    {
        var known = db.Visitors.Local.FirstOrDefault(v => v.ClientId == lead.ClientId && v.VisitorId == visitor)
            ?? db.Visitors.Find(lead.ClientId, visitor);
        if (known is null)
            db.Visitors.Add(
                new()
                {
                    ClientId = lead.ClientId,
                    VisitorId = visitor,
                    LeadId = lead.Id,
                    SeenAt = now,
                }
            );
        else
            known.LeadId = lead.Id;
    }

    private Lead MakeLead(ReadSubmission one, Instant now)
    {
        var submission = one.Submission;
        var client = ClientOf(submission);
        var lead = new Lead
        {
            Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
            ClientId = client.Id,
            FormId = submission.FormId,
            Zone = client.Zone,
            AskedAt = submission.AskedAt,
            TargetAt = client.TargetFor(submission.AskedAt),
            Test = submission.Test,
            Quiet = submission.Quiet,
            OnlyTo = one.Envelope?.OnlyTo,
            ImportId = submission.ImportId,
            Stage = client.Stages.Count > 0 ? client.Stages[0] : "New",
        };
        events.KnowNew(lead.Id);
        db.Leads.Add(lead);
        return lead;
    }

    private void AskAgain(Lead lead, Submission submission, Instant at)
    {
        if (submission.Quiet || (lead.FirstTouchAt is null && !lead.Quiet))
            return;
        lead.Quiet = false;
        lead.FormId = submission.FormId;
        lead.AskedAt = at;
        lead.TargetAt = ClientOf(submission).TargetFor(at);
        (lead.TakenBy, lead.TakenAt, lead.AutoTouchAt, lead.FirstTouchAt, lead.FirstTouchBy, lead.ReachedAt) = (
            null,
            null,
            null,
            null,
            null,
            null
        );
    }

    private void Consented(Lead lead, ReadSubmission one, Instant now)
    {
        var submission = one.Submission;
        var said = one.Mapped!.Values.GetValueOrDefault("consent");
        var text = one.Payload.Signs.TryGetValue("consent", out var mark) ? people.Text(submission.FormId, mark) : null;
        if (text is null && said is null)
            return;
        text ??= people.TextFor(submission, FormOf(submission).LabelOf(FieldOf(one, "consent") ?? "consent"), now);
        var how =
            said is null ? ConsentHow.Shown
            : ValueReader.YesNo(said) == false ? ConsentHow.Declined
            : ConsentHow.Ticked;
        var page = one.Envelope?.Page is { } p ? $", {p}" : "";
        db.Consents.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                ClientId = lead.ClientId,
                LeadId = lead.Id,
                SubmissionId = submission.Id,
                TextId = text.Id,
                How = how,
                At = submission.AskedAt,
                FromAddress = one.Envelope?.From,
                Source = FormOf(submission).Name + page,
            }
        );
        Tell(
            lead,
            submission,
            StoryKind.Consented,
            submission.AskedAt,
            how switch
            {
                ConsentHow.Declined => "they did not agree: ",
                ConsentHow.Shown => "the words beside the button: ",
                _ => "they agreed: ",
            } + $"“{text.Words}” (version {text.Version})",
            now
        );
    }

    private string? FieldOf(ReadSubmission one, string leadField) =>
        SetupOf(one.Submission)
            .Maps[one.Submission.FormId]
            .Map.Rows.FirstOrDefault(r => r.LeadField == leadField)
            ?.FormField;

    private StoryEvent Tell(
        Lead lead,
        Submission submission,
        StoryKind kind,
        Instant at,
        string words,
        Instant knownAt
    ) => db.AddStory(lead, kind, words, knownAt, at, submissionId: submission.Id);

    private ClientConfig SetupOf(Submission submission) => around[submission.ClientId];

    private Client ClientOf(Submission submission) => SetupOf(submission).Client;

    private Form FormOf(Submission submission) => SetupOf(submission).Forms[submission.FormId];
}
