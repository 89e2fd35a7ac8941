using LitFuse.Core.Forms;
using LitFuse.Core.Junk;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Features.OwnForms;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>One field of a form, and where it goes.</summary>
/// <param name="Seen">It came in a submission; the form itself has not told of it.</param>
public sealed record FormFieldRow(
    string Name,
    string Label,
    FormFieldType Type,
    bool Required,
    IReadOnlyList<string> Choices,
    string? LeadField,
    bool Seen
);

/// <summary>One submission as it came.</summary>
/// <param name="LateSeconds">From the person's press to us; <c>null</c> where the sender tells no time.</param>
/// <param name="ToldSeconds">From the person's press until its network told us.</param>
/// <param name="Paths">What there is to pick, for hooks.</param>
public sealed record FormSample(
    Guid Id,
    Instant ReceivedAt,
    Instant? SentAt,
    double? LateSeconds,
    double? ToldSeconds,
    SubmissionStatus Status,
    string? Reason,
    Guid? LeadId,
    bool Test,
    string ContentType,
    string Raw,
    string Via,
    string? From,
    string? Agent,
    string? Page,
    string? Person,
    int Junk,
    IReadOnlyList<string> JunkBecause,
    IReadOnlyList<AnswerLine> Answers,
    IReadOnlyList<AnswerLine> Paths
);

/// <summary>Pieces to paste.</summary>
/// <param name="Script">The form by script.</param>
/// <param name="Html">The form as HTML.</param>
/// <param name="Hosted">The address of the page we host.</param>
/// <param name="Capture">The script that captures a page's own form.</param>
/// <param name="PassThrough">The address to send visitors through.</param>
public sealed record FormPieces(string? Script, string? Html, string? Hosted, string? Capture, string? PassThrough);

/// <summary>How a form did over the last thirty days.</summary>
public sealed record FormFigures(int Fields, int Views, int Starts, int Sends, int EmptyVisits, int PassedThrough);

/// <summary>A form, whole.</summary>
public sealed record FormDetail(
    FormRow Form,
    IReadOnlyList<FormFieldRow> Fields,
    int? MapVersion,
    string? ConfirmedBy,
    Instant? ConfirmedAt,
    bool MapByItsMaker,
    string PostTo,
    FormPieces Pieces,
    string? ThankYouUrl,
    string? PageUrl,
    string? ProofKind,
    string? ProofUser,
    IReadOnlyList<Pick> Picks,
    FormFigures Figures,
    IReadOnlyList<FormNews> News,
    bool TakesPosts,
    IReadOnlyList<FormSample> Samples,
    HoldRule Hold,
    OptInLetter? OptIn,
    IReadOnlyDictionary<string, string> Means
);

/// <summary>Reads a form whole.</summary>
public sealed class FormDetailReader(AppDb db, SourceKinds kinds, PublicAddress address, TimeProvider time)
{
    private const int Samples = 20;
    private const int MostRaw = 20_000;

    /// <summary>The form, or <c>null</c> when it is not there for who asks.</summary>
    public async Task<FormDetail?> ReadAsync(Guid formId, CancellationToken stop)
    {
        var form = await db.Forms.AsNoTracking().SingleOrDefaultAsync(f => f.Id == formId, stop);
        if (form is null)
            return null;
        var row = (await db.RowsAsync(db.Forms.Where(f => f.Id == formId), time.Now(), stop))[0];
        var map = await db
            .FormMaps.AsNoTracking()
            .Where(m => m.FormId == formId)
            .OrderByDescending(m => m.Version)
            .FirstOrDefaultAsync(stop);
        var people = await db.PeopleAsync([map?.ConfirmedBy], stop);
        var kind = kinds.Of(row.SourceKind);
        var samples = await SamplesAsync(form, kind, stop);
        return new(
            row,
            FieldsOf(form, map?.Map, samples),
            map?.Version,
            PeopleNames.Of(people, map?.ConfirmedBy),
            map?.ConfirmedAt,
            map is { ConfirmedBy: null, Status: MapStatus.Confirmed },
            $"{address.Url}/in/{form.Key}",
            PiecesOf(form, kind),
            form.ThankYouUrl,
            form.PageUrl,
            form.Proof?.Kind,
            form.Proof?.User,
            form.Picks,
            await FiguresAsync(form, stop),
            form.News,
            kind is not INetwork && kind.Card.MakesForms,
            samples,
            form.Hold ?? HoldRule.Usual,
            form.OptIn,
            form.Fields.Where(f => f.Means is not null).ToDictionary(f => f.Name, f => f.Means!, StringComparer.Ordinal)
        );
    }

    /// <summary>
    /// What came lately, read; nothing else of the form. <c>null</c> when it is not there for who asks.
    /// </summary>
    public async Task<(Form Form, IReadOnlyList<FormSample> Samples)?> SamplesAsync(Guid formId, CancellationToken stop)
    {
        var form = await db.Forms.AsNoTracking().SingleOrDefaultAsync(f => f.Id == formId, stop);
        if (form is null)
            return null;
        var kind = await db.Sources.Where(s => s.Id == form.SourceId).Select(s => s.Kind).SingleAsync(stop);
        return (form, await SamplesAsync(form, kinds.Of(kind), stop));
    }

    private FormPieces PiecesOf(Form form, SourceKind kind)
    {
        var how = new FormRendering(address.Url, form.Key);
        var own = kind.Card.Kind == "website" && form.Draft is null;
        return form.Design is { } design
            ? new(
                $"<script src=\"{address.Url}/f/{form.Key}.js\" defer></script>\n",
                FormHtml.ToPaste(design, how),
                $"{address.Url}/f/{form.Key}",
                null,
                null
            )
            : new(
                null,
                null,
                null,
                own ? EmbedScripts.CaptureTag(address.Url, form.Key) : null,
                own || kind.Card.Kind == "formbench" ? $"{address.Url}/through/{form.Key}" : null
            );
    }

    // What came and the form did not tell of stands below what it did tell of.
    private static List<FormFieldRow> FieldsOf(Form form, FieldMap? map, IReadOnlyList<FormSample> samples)
    {
        string? Target(string field) => map?.Rows.FirstOrDefault(r => r.FormField == field)?.LeadField;
        var rows = form
            .Fields.Select(f => new FormFieldRow(
                f.Name,
                f.Label,
                f.Type,
                f.Required,
                f.Choices,
                Target(f.Name),
                Seen: false
            ))
            .ToList();
        var known = rows.Select(r => r.Name).ToHashSet(StringComparer.Ordinal);
        foreach (var answer in samples.SelectMany(s => s.Answers))
        {
            if (rows.Count < Payload.MostAnswers && known.Add(answer.Question))
                rows.Add(
                    new(
                        answer.Question,
                        answer.Question,
                        FormFieldType.Text,
                        false,
                        [],
                        Target(answer.Question),
                        Seen: true
                    )
                );
        }

        return rows;
    }

    private async Task<IReadOnlyList<FormSample>> SamplesAsync(Form form, SourceKind kind, CancellationToken stop)
    {
        // Two questions, each with an index of its own: what has been read, and what is about to be.
        var all = db.Submissions.AsNoTracking().Where(s => s.FormId == form.Id);
        var came = (
            await all.Where(s => s.Status == SubmissionStatus.Received)
                .OrderByDescending(s => s.DueAt)
                .Take(Samples)
                .ToListAsync(stop)
        )
            .Concat(
                await all.Where(s => s.Status != SubmissionStatus.Received)
                    .OrderByDescending(s => s.ReceivedAt)
                    .Take(Samples)
                    .ToListAsync(stop)
            )
            .OrderByDescending(s => s.ReceivedAt)
            .Take(Samples)
            .ToList();
        var samples = new List<FormSample>(came.Count);
        foreach (var s in came)
        {
            var payload = await kind.ReadAsync(form.Picks, s.ContentType, s.Raw);
            var envelope = Envelope.Read(s.Envelope);
            var raw = System.Text.Encoding.UTF8.GetString(s.Raw.AsSpan(0, Math.Min(s.Raw.Length, MostRaw)));
            samples.Add(
                new(
                    s.Id,
                    s.ReceivedAt,
                    s.SentAt,
                    Seconds(s.SentAt, s.ReceivedAt),
                    Seconds(s.SentAt, envelope?.ToldAt),
                    s.Status,
                    s.Reason,
                    s.LeadId,
                    s.Test,
                    s.ContentType,
                    raw,
                    envelope?.Via ?? "door",
                    envelope?.From,
                    envelope?.Agent,
                    envelope?.Page,
                    envelope?.Person,
                    Math.Max(s.Junk, envelope?.Junk ?? 0),
                    s.JunkBecause ?? envelope?.JunkBecause ?? [],
                    [.. payload.Answers.Select(a => new AnswerLine(a.Field, a.Value))],
                    kind.Card.Kind == "hook" && RawBody.IsJson(s.ContentType, s.Raw)
                        ? [.. Picks.Paths(s.Raw).Select(p => new AnswerLine(p.Field, p.Value))]
                        : []
                )
            );
        }

        return samples;
    }

    private async Task<FormFigures> FiguresAsync(Form form, CancellationToken stop)
    {
        var now = time.Now();
        var today = now.InUtc().Date;
        var since = new DateOnly(today.Year, today.Month, today.Day).AddDays(-30);
        var days = await db.FormDays.AsNoTracking().Where(d => d.FormId == form.Id && d.Day > since).ToListAsync(stop);
        var month = now - Duration.FromDays(30);
        var through = await db.Submissions.CountAsync(
            s => s.FormId == form.Id && s.ReceivedAt > month && s.Envelope!.Contains("passed-through"),
            stop
        );
        return new(
            (form.Design?.AsFields() ?? form.Fields).Count(f => f.Type != FormFieldType.Hidden),
            days.Sum(d => d.Views),
            days.Sum(d => d.Starts),
            days.Sum(d => d.Sends),
            days.Sum(d => d.EmptyVisits),
            through
        );
    }

    private static double? Seconds(Instant? from, Instant? to) =>
        from is { } a && to is { } b ? Math.Max(0, (b - a).TotalSeconds) : null;
}
