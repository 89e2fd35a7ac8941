using System.Globalization;
using LitFuse.Core.Calling;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Fuses.Rehearsal;
using LitFuse.Core.Hours;
using LitFuse.Core.Payloads;
using LitFuse.Core.Words;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A fuse to be run dry: one lead through it on a virtual clock; nothing leaves.</summary>
/// <param name="Definition">As it stands on the sheet, armed or not.</param>
/// <param name="LeadId">Whose answers; <c>null</c>: those of <paramref name="Answers"/>.</param>
/// <param name="Form">Key of the form that the answers were typed for.</param>
/// <param name="Answers">By field of that form.</param>
/// <param name="At">When they ask, on the client's clock (<c>2026-11-25T22:30</c>); <c>null</c>: now.</param>
/// <param name="Reactions">What the lead, the team and the services do.</param>
public sealed record DryRunToMake(
    FuseDefinition? Definition,
    Guid? LeadId,
    string? Form,
    IReadOnlyDictionary<string, string>? Answers,
    string? At,
    IReadOnlyList<DryReaction>? Reactions
);

/// <summary>Something that happens during a dry run.</summary>
/// <param name="What">A key of an event; or <c>down</c>: a service is in trouble all along.</param>
/// <param name="AfterSeconds">How long after they asked.</param>
/// <param name="Detail">What they wrote; how the call ended; which service is down.</param>
public sealed record DryReaction(string What, int AfterSeconds, string? Detail);

/// <summary>A message as it would go out.</summary>
/// <param name="Through">The connection that would carry it.</param>
/// <param name="Size">Of a text.</param>
public sealed record DryMessage(
    Lane Lane,
    string StepKind,
    string? Through,
    IReadOnlyDictionary<string, string> Settings,
    TextSize? Size
);

/// <summary>One moment of a dry run.</summary>
/// <param name="Kind">As the story names it, or the key of the event that happened.</param>
public sealed record DryMoment(
    Instant At,
    string Kind,
    string? BandId,
    string? StepId,
    string Words,
    DryMessage? Message
);

/// <summary>A fuse run dry.</summary>
/// <param name="Lead">Who, by name.</param>
/// <param name="Zone">The lead's own.</param>
/// <param name="ZoneBecause">How it is known.</param>
/// <param name="Note">What is different from how it would be lit, or <c>null</c>.</param>
/// <param name="Moments">In time order.</param>
/// <param name="Status">Where the burn stands at the end of what was looked at.</param>
public sealed record DryRunTold(
    Guid? LeadId,
    string Lead,
    Instant LitAt,
    string Zone,
    string? ZoneBecause,
    string ClientZone,
    string? Note,
    IReadOnlyList<DryMoment> Moments,
    BurnStatus Status,
    int Texts,
    int Segments
);

/// <summary>Runs a fuse dry. The engine is the one that burns; only the clock and the outside are made up.</summary>
public static class DryRun
{
    private const int MostReactions = 40;
    private const int MostMoments = 1000;
    private const string Down = "down";
    private static readonly Duration Soon = Duration.FromMilliseconds(300);
    private static readonly Duration LookedAt = Duration.FromDays(400);

    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/api/fuses/{fuseId}/dry-run", RunAsync)
            .Needs(Act.SeeFuses)
            .WithTags("Fuses")
            .WithSummary("One lead through a fuse on a virtual clock; nothing leaves");

    private sealed record Asked(Lead Lead, LeadFacts Facts, Form Form, LeadEvent Sent);

    private static async Task<Results<Ok<DryRunTold>, ProblemHttpResult>> RunAsync(
        Guid fuseId,
        DryRunToMake make,
        AppDb db,
        ClientConfigCache setups,
        StepCatalog catalog,
        EventCatalog events,
        PublicAddress address,
        SubmissionReader reader,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var fuse = await db.Fuses.AsNoTracking().SingleOrDefaultAsync(f => f.Id == fuseId, stop);
        if (fuse is null)
            return Problems.No("fuse");
        if (make.Definition is not { } definition || FusesEndpoints.Oversized(definition) is not null)
            return Problems.Bad("definition", "Say which fuse, and none larger than any fuse can be.");
        var setup = await setups.ReadAsync(db, fuse.ClientId, stop);
        var zone = setup.Client.DateTimeZone();
        if (MomentOf(make.At, zone, time.Now()) is not { } at)
            return Problems.Bad("at", "Write the moment as 2026-11-25T22:30.");
        var reactions = make.Reactions ?? [];
        if (ReactionFault(reactions, events) is { } odd)
            return Problems.Bad("reactions", odd);
        CompiledFuse compiled;
        try
        {
            compiled = CompiledFuse.From(definition, catalog);
        }
        catch (ArgumentException e)
        {
            return Problems.Bad("definition", CannotRun(e));
        }

        var asked = make.LeadId is { } leadId
            ? await OfLeadAsync(db, reader, setup, leadId, address, at, stop)
            : OfAnswers(setup, make, address, at);
        if (asked is null)
            return make.LeadId is null
                ? Problems.Bad("answers", "Choose a form whose map is confirmed, and answer it.")
                : Problems.NotThere.Because("There is no such lead of this client.");
        var facts = FactsAt(asked.Facts, at, definition.Name, address.OfFuse(fuseId));
        var (by, not) = compiled.LitByAny([asked.Sent], facts.ForGuards(at));
        DryRunTold Told(string? note, IReadOnlyList<DryMoment> moments, BurnStatus status) =>
            DryRun.Told(make.LeadId, asked.Lead, facts.Zone, zone, at, note, moments, status);
        if (not is not null)
            return TypedResults.Ok(
                Told(
                    null,
                    [new(at, Words.Of(Core.Stories.StoryKind.FuseNotLit), null, null, "not lit, because " + not, null)],
                    BurnStatus.Ended
                )
            );

        var (rehearsed, never) = Rehearse(compiled, facts, asked.Lead, reactions, setup, catalog, events, at);
        return TypedResults.Ok(
            Told(
                by is null ? $"{asked.Form.Name} does not light it; it is run as if lit by hand." : null,
                [
                    .. rehearsed
                        .Moments.Where(m => m.Effect is not BurnEffect.Deliver d || !never.Contains(d.Key))
                        .Select(m => Tell(m, setup, catalog, events))
                        .OfType<DryMoment>()
                        .Take(MostMoments),
                ],
                rehearsed.State.Status
            )
        );
    }

    private static DryRunTold Told(
        Guid? leadId,
        Lead lead,
        DateTimeZone theirs,
        DateTimeZone ours,
        Instant at,
        string? note,
        IReadOnlyList<DryMoment> moments,
        BurnStatus status
    ) =>
        new(
            leadId,
            lead.ShownName(),
            at,
            theirs.Id,
            lead.ZoneBecause,
            ours.Id,
            note,
            moments,
            status,
            moments.Count(m => m.Message?.Size is not null && m.Message.Lane == Lane.Lead),
            moments.Sum(m => m.Message is { Lane: Lane.Lead } said ? said.Size?.Segments ?? 0 : 0)
        );

    private static Instant? MomentOf(string? asked, DateTimeZone zone, Instant now) =>
        string.IsNullOrWhiteSpace(asked) ? now
        : LocalDateTimePattern
            .CreateWithInvariantCulture("yyyy-MM-ddTHH:mm")
            .Parse(asked)
            .TryGetValue(default, out var local)
            ? zone.Shows(local)
        : null;

    private static string? ReactionFault(IReadOnlyList<DryReaction> reactions, EventCatalog events) =>
        reactions.Count > MostReactions || reactions.Any(r => r.AfterSeconds is < 0 or > Step.LatestSeconds)
            ? $"At most {MostReactions} reactions, within 400 days."
        : reactions.FirstOrDefault(r => r.What != Down && events.Find(r.What) is null) is { } unknown
            ? $"Nothing is known of “{unknown.What}”."
        : null;

    /// <summary>Why a fuse cannot be run, in a sentence.</summary>
    internal static string CannotRun(ArgumentException e) =>
        $"It cannot be run as it is: {e.Message.Split(" (Parameter", 2)[0]}. “What's wrong” says where.";

    /// <summary>What is known of a lead, as it stands at a moment, for a fuse of this name.</summary>
    internal static LeadFacts FactsAt(LeadFacts facts, Instant at, string fuse, string link) =>
        facts with
        {
            Words = facts.Words with
            {
                Now = at,
                Zone = facts.Zone,
                Fuse = new Dictionary<string, string>(StringComparer.Ordinal) { ["name"] = fuse, ["link"] = link },
            },
        };

    // Beside it the keys of what has nobody to carry it, or to go to: it is never handed over.
    private static (Rehearsed Rehearsed, HashSet<string> Never) Rehearse(
        CompiledFuse fuse,
        LeadFacts facts,
        Lead lead,
        IReadOnlyList<DryReaction> reactions,
        ClientConfig setup,
        StepCatalog catalog,
        EventCatalog events,
        Instant at
    )
    {
        var never = new HashSet<string>(StringComparer.Ordinal);
        Reaction Answer(BurnEffect.Deliver deliver)
        {
            var reaction = React(deliver, reactions, setup, catalog, lead);
            if (reaction.Took == Duration.Zero && reaction.Status == StepStatus.Failed)
                never.Add(deliver.Key);
            return reaction;
        }

        var rehearsed = Rehearser.Run(
            fuse,
            BurnState.New(Guid.CreateVersion7(), at, at),
            facts,
            Script(reactions, events, at),
            (d, _) => Answer(d),
            at + LookedAt,
            setup.Fields.GetValueOrDefault,
            (of, who) =>
            {
                if (setup.ColleagueOf(who, lead) is not { } colleague)
                    return of;
                lead.OwnerId = colleague.Id;
                return LeadFactsReader.OwnedBy(of, colleague);
            }
        );
        return (rehearsed, never);
    }

    private static async Task<Asked?> OfLeadAsync(
        AppDb db,
        SubmissionReader reader,
        ClientConfig setup,
        Guid leadId,
        PublicAddress address,
        Instant at,
        CancellationToken stop
    )
    {
        if (
            await db
                .Leads.AsNoTracking()
                .SingleOrDefaultAsync(l => l.Id == leadId && l.ClientId == setup.Client.Id, stop)
            is not { } lead
        )
            return null;
        var submission = await db
            .Submissions.AsNoTracking()
            .Where(s => s.LeadId == leadId)
            .OrderByDescending(s => s.ReceivedAt)
            .FirstOrDefaultAsync(stop);
        if (submission is null)
            return Of(setup, lead, setup.Forms[lead.FormId], [], address, at);
        var (form, answers, sent) = await reader.AskedAsync(setup, submission);
        return Of(setup, lead, form, answers, address, at) with { Sent = sent with { At = at } };
    }

    // As a submission of them would be read, mapped and filled in; nothing of it is kept.
    private static Asked? OfAnswers(ClientConfig setup, DryRunToMake make, PublicAddress address, Instant at)
    {
        if (
            setup.Forms.Values.FirstOrDefault(f => f.Key == make.Form) is not { } form
            || !setup.Maps.TryGetValue(form.Id, out var map)
        )
            return null;
        var answers = (make.Answers ?? new Dictionary<string, string>(StringComparer.Ordinal))
            .Where(a => a.Value.Length is > 0 and <= 2000)
            .Take(Payload.MostAnswers)
            .Select(a => new Answer(a.Key, a.Value))
            .ToList();
        if (answers.Count == 0)
            return null;
        var mapped = map.Compiled.Read(answers);
        var lead = new Lead
        {
            Id = Guid.CreateVersion7(),
            ClientId = setup.Client.Id,
            FormId = form.Id,
            Zone = setup.Client.Zone,
            AskedAt = at,
            Stage = setup.Client.Stages.Count > 0 ? setup.Client.Stages[0] : "New",
        };
        LeadFiller.Fill(lead, mapped.Values, mapped.Phone, setup.Client.Zone);
        return Of(setup, lead, form, answers, address, at);
    }

    private static Asked Of(
        ClientConfig setup,
        Lead lead,
        Form form,
        IReadOnlyList<Answer> answers,
        PublicAddress address,
        Instant at
    )
    {
        var source = setup.SourceNames.GetValueOrDefault(form.Id) ?? "";
        var owner = lead.OwnerId is { } id ? setup.Colleagues.GetValueOrDefault(id) : null;
        return new(
            lead,
            LeadFactsReader.Of(lead, setup.Client, form, answers, address, owner, source, setup.Fields),
            form,
            LeadFactsReader.Sent(EventKeys.Submission, form, answers, source, at)
        );
    }

    private static IEnumerable<Scripted> Script(
        IReadOnlyList<DryReaction> reactions,
        EventCatalog events,
        Instant at
    ) =>
        reactions
            .Where(r => r.What is not (Down or EventKeys.RangThrough))
            .Select(
                (r, i) =>
                {
                    var when = at + Duration.FromSeconds(r.AfterSeconds);
                    var detail = (r.Detail ?? "").Trim();
                    var kind = events.Find(r.What)!;
                    var because = r.What == EventKeys.Replied ? "they replied" : kind.Sentence;
                    (string, string)[] details =
                        r.What == EventKeys.Replied ? [("text", detail)]
                        : kind.Details.Count > 0 && detail.Length > 0 ? [(kind.Details[0].Key, detail)]
                        : [];
                    return new Scripted(
                        when,
                        new BurnEvent.Happened(
                            LeadEvent.Of(r.What, when, because, details) with
                            {
                                Key = string.Create(CultureInfo.InvariantCulture, $"dry.{i}"),
                            }
                        )
                    );
                }
            );

    private static Reaction React(
        BurnEffect.Deliver deliver,
        IReadOnlyList<DryReaction> reactions,
        ClientConfig setup,
        StepCatalog catalog,
        Lead lead
    )
    {
        var service = catalog.Find(deliver.Kind)!.Service!;
        if (StoryWriter.ThroughOf(deliver, service, setup.Connections) is not { } through)
            return new(Duration.Zero, StepStatus.Failed, $"there is no connection to {service} to send through");
        if (StoryWriter.WhyNobody(deliver, setup, lead, out _) is { } nobody)
            return new(Duration.Zero, StepStatus.Failed, nobody);
        if (reactions.Any(r => r.What == Down && r.Detail == service))
        {
            var (took, tries) = (Duration.Zero, 1);
            for (; Trouble.WaitAfter(tries, 0.5, null, deliver.Retry) is { } wait; tries++)
                took += wait;
            return new(
                took,
                StepStatus.Failed,
                string.Create(CultureInfo.InvariantCulture, $"given up after {tries} attempts: {through.Name} is down")
            )
            {
                Retried = true,
            };
        }

        if (deliver.Kind == StepKinds.RingThrough)
        {
            var come = reactions.LastOrDefault(r => r.What == EventKeys.RangThrough)?.Detail;
            return Reaction.Of(
                CallEnding.OutcomeOf(come) is null or CallOutcome.Spoke
                    ? CallEnding.Usual
                    : new(CallEnding.OutcomeOf(come)!.Value, $"in this run it comes to “{come}”")
            );
        }

        // What a service leaves for later steps is only known when it was asked.
        var results = (catalog.Find(deliver.Kind)?.Results ?? []).ToDictionary(
            r => r,
            r => $"‹{r} of “{through.Name}”›",
            StringComparer.Ordinal
        );
        return new(Soon, StepStatus.Done, $"{through.Name} took it", results);
    }

    private static DryMoment? Tell(RehearsedMoment moment, ClientConfig setup, StepCatalog catalog, EventCatalog events)
    {
        DryMoment Moment(
            Core.Stories.StoryKind kind,
            string? band,
            string? step,
            string words,
            DryMessage? message = null
        ) => new(moment.At, Words.Of(kind), band, step, words, message);
        switch (moment.Effect ?? (object?)moment.What)
        {
            case BurnEffect.Deliver d:
                var through = StoryWriter.ThroughOf(d, catalog.Find(d.Kind)!.Service!, setup.Connections)?.Name;
                var text = d.Kind is StepKinds.Text or StepKinds.TeamText
                    ? d.Settings.GetValueOrDefault("words")
                    : null;
                return Moment(
                    Core.Stories.StoryKind.StepSent,
                    d.BandId,
                    d.StepId,
                    through is null ? "would be sent" : "handed to " + through,
                    new(d.Lane, d.Kind, through, d.Settings, text is null ? null : TextSegments.Count(text))
                );
            case BurnEffect.Do d:
                return Moment(
                    Core.Stories.StoryKind.StepDone,
                    d.BandId,
                    d.StepId,
                    moment.Words ?? "done",
                    new(Lane.Silent, d.Kind, null, d.Settings, null)
                );
            case BurnEffect.Notify n:
                return Moment(Core.Stories.StoryKind.Noticed, null, n.StepId, n.Words);
            case BurnEffect.Tell t:
                return Moment(t.Kind, t.BandId, t.StepId, t.Words);
            case BurnEvent.StepEnded e:
                return Moment(
                    e.Status switch
                    {
                        StepStatus.Done => Core.Stories.StoryKind.StepDone,
                        StepStatus.Cancelled => Core.Stories.StoryKind.StepCancelled,
                        _ => Core.Stories.StoryKind.StepFailed,
                    },
                    null,
                    e.StepId,
                    e.Reason
                );
            case BurnEvent.Happened { What: var what }:
                return new(
                    moment.At,
                    what.Event,
                    null,
                    null,
                    what.Event == EventKeys.Replied
                        ? what.Detail("text") ?? ""
                        : events.Find(what.Event)?.Sentence
                            + (what.Details.Count > 0 ? ": " + string.Join(", ", what.Details.Values) : ""),
                    null
                );
            default:
                return null;
        }
    }
}
