using LitFuse.Core.Guards;
using LitFuse.Core.Texts;
using LitFuse.Core.Words;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Fuses;

/// <summary>Words to be seen as a lead would get them.</summary>
/// <param name="Words">The step's words.</param>
/// <param name="Place">Which of the leads, the newest being 0.</param>
/// <param name="Forms">Keys of the forms whose leads are shown.</param>
/// <param name="Rules">Where the step's band has rules: only leads for whom they hold are shown.</param>
/// <param name="Choices">What the step offers.</param>
public sealed record WordsToPreview(
    string Words,
    int Place,
    IReadOnlyList<string> Forms,
    RuleSet? Rules = null,
    IReadOnlyList<string>? Choices = null
);

/// <summary>Words as a lead would get them.</summary>
/// <param name="Rendered">With the fields put in; <c>null</c> where the words cannot be read or there is no
/// lead.</param>
/// <param name="Size">As a text.</param>
/// <param name="Html">As the HTML part of a letter.</param>
/// <param name="Samples">What words can speak of, as it is for this lead, by path: <c>lead.first_name</c>.</param>
public sealed record WordsPreview(
    string? Rendered,
    string? Fault,
    TextSize? Size,
    string? Html,
    IReadOnlyDictionary<string, string> Samples,
    Guid? LeadId,
    string? Lead,
    Instant? AskedAt,
    int Place,
    int Of
);

/// <summary>Words as a real lead would get them.</summary>
public static class WordsPreviewing
{
    private const int MostPreviewed = 500;
    private const int MostSample = 80;

    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/api/fuses/{fuseId}/preview", PreviewAsync)
            .Needs(Act.SeeFuses)
            .WithTags("Fuses")
            .WithSummary("Words as a real lead would get them");

    private static readonly Dictionary<string, string> Nothing = new(StringComparer.Ordinal);

    private sealed record Sample(Guid Id, Instant ReceivedAt, Guid LeadId, IReadOnlyDictionary<string, string> Fields);

    // The last submissions of these forms that the rules hold for, the latest first.
    private static async Task<List<Sample>> ShownAsync(
        AppDb db,
        Guid clientId,
        WordsToPreview preview,
        Instant now,
        CancellationToken stop
    )
    {
        var recent = await db
            .Submissions.AsNoTracking()
            .Where(s => s.ClientId == clientId && s.LeadId != null)
            .Join(db.Forms.Where(f => preview.Forms.Contains(f.Key)), s => s.FormId, f => f.Id, (s, f) => s)
            .OrderByDescending(s => s.ReceivedAt)
            .Take(MostPreviewed)
            .Join(db.Leads, s => s.LeadId, l => l.Id, (s, l) => new Sample(s.Id, s.ReceivedAt, l.Id, l.Fields))
            .ToListAsync(stop);
        var guard = preview.Rules is null ? null : Guard.Compile(preview.Rules).Guard;
        var today = now.InUtc().Date;
        return recent
            .Where(r => guard?.Ask(new GuardFacts(path => r.Fields.GetValueOrDefault(path), today)).Holds ?? true)
            .OrderByDescending(r => r.ReceivedAt)
            .ToList();
    }

    private static async Task<Results<Ok<WordsPreview>, ProblemHttpResult>> PreviewAsync(
        Guid fuseId,
        WordsToPreview preview,
        AppDb db,
        PublicAddress address,
        ClientConfigCache setups,
        SubmissionReader reader,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (preview.Place is < 0 or >= MostPreviewed)
            return Problems.Bad("place", $"Leads are numbered from 0 to {MostPreviewed - 1}.");
        var fuse = await db.Fuses.AsNoTracking().SingleOrDefaultAsync(f => f.Id == fuseId, stop);
        if (fuse is null)
            return Problems.No("fuse");
        var shown = await ShownAsync(db, fuse.ClientId, preview, time.Now(), stop);
        var (words, fault) = MessageWords.Parse(preview.Words ?? "");
        if (preview.Place >= shown.Count)
            return TypedResults.Ok(
                new WordsPreview(null, fault, null, null, Nothing, null, null, null, preview.Place, shown.Count)
            );

        var of = shown.Count;
        var (submissionId, leadId) = (shown[preview.Place].Id, shown[preview.Place].LeadId);
        var submission = await db.Submissions.AsNoTracking().SingleAsync(s => s.Id == submissionId, stop);
        var lead = await db.Leads.AsNoTracking().SingleAsync(l => l.Id == leadId, stop);
        var form = await db.Forms.AsNoTracking().SingleAsync(f => f.Id == submission.FormId, stop);
        var client = await db.Clients.AsNoTracking().SingleAsync(c => c.Id == lead.ClientId, stop);
        var setup = await setups.ReadAsync(db, lead.ClientId, stop);
        var payload = await reader.ReadAsync(setup, submission);
        var facts = LeadFactsReader.Of(
            lead,
            client,
            form,
            payload.Answers,
            address,
            lead.OwnerId is { } owner ? setup.Colleagues.GetValueOrDefault(owner) : null,
            setup.SourceNames.GetValueOrDefault(form.Id) ?? "",
            setup.Fields
        );
        var with = DryRun.FactsAt(facts, time.Now(), fuse.Name, address.OfFuse(fuse.Id)).Words;
        var choices = (preview.Choices ?? [])
            .Take(20)
            .Select(c => MessageWords.Parse(c).Words?.Render(with).Text ?? c)
            .ToList();
        var made = words?.Render(with with { Choices = choices });
        var rendered = made is { Fault: null } said ? said.Text : null;
        if (made?.Fault is { } unsaid)
            fault = $"the words cannot be put together for {lead.ShownName()}: {unsaid}";
        return TypedResults.Ok(
            new WordsPreview(
                rendered,
                fault,
                rendered is null ? null : TextSegments.Count(rendered),
                rendered is null ? null : LetterHtml.Of(new(rendered, "") { From = client.Name }),
                SamplesOf(with),
                lead.Id,
                lead.ShownName(),
                submission.ReceivedAt,
                preview.Place,
                of
            )
        );
    }

    private static Dictionary<string, string> SamplesOf(WordFacts facts)
    {
        var samples = new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["answers"] = string.Join(" · ", facts.Answers.Select(a => $"{a.Key} {a.Value}")),
        };
        foreach (
            var (under, values) in new[]
            {
                ("lead", facts.Lead),
                ("client", facts.Client),
                ("form", facts.Form),
                ("owner", facts.Owner),
                ("fuse", facts.Fuse),
                ("tracking", facts.Tracking),
            }
        )
        {
            foreach (var (key, value) in values)
                samples[$"{under}.{key}"] = Clip.Short(value, MostSample);
        }

        return samples;
    }
}
