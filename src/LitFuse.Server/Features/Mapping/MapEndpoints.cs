using LitFuse.Core.Fields;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Sources;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Mapping;

/// <summary>Where fields go, as a person confirms it.</summary>
/// <param name="Version">The version that was looked at; 0 where there was none.</param>
public sealed record MapToConfirm(IReadOnlyList<MapRow>? Rows, string? Locale, int Version);

/// <summary>A map to be tried.</summary>
public sealed record MapToTry(IReadOnlyList<MapRow>? Rows, string? Locale);

/// <summary>What a row gives for a sample.</summary>
/// <param name="Value"><c>null</c> where it gives nothing.</param>
public sealed record TriedRow(string? Value, string? Fault);

/// <summary>What a map gives for a sample: its rows in order, and the lead that it would be.</summary>
/// <param name="Reachable">It names an email or a telephone number to know them by.</param>
public sealed record TriedSample(
    Guid Id,
    IReadOnlyList<TriedRow> Rows,
    string Name,
    string? Email,
    IReadOnlyList<string> Phones,
    bool Reachable
);

/// <summary>What a map gives for the samples.</summary>
public sealed record TriedMap(IReadOnlyList<TriedSample> Samples);

/// <summary>A confirmed version.</summary>
public sealed record ConfirmedVersion(int Version, int Released);

/// <summary>The field map of a form.</summary>
public static class MapEndpoints
{
    private const int MostRows = 500;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var maps = app.MapGroup("/api/forms/{formId}/map").WithTags("Field maps");
        maps.MapGet("/", GetAsync).Needs(Act.SeeSources).WithSummary("A form's map, with suggestions and samples");
        maps.MapPost("/try", TryAsync).Needs(Act.SeeSources).WithSummary("What each row gives for each sample");
        maps.MapGet("/from/{otherId}", FromAsync)
            .Needs(Act.SeeSources)
            .WithSummary("The map of a similar form, for this one's fields");
        maps.MapPut("/", ConfirmAsync)
            .Needs(Act.EditSources)
            .WithSummary("Confirm where its fields go; what waits is released in order");
    }

    private static async Task<Results<Ok<MapDetail>, ProblemHttpResult>> GetAsync(
        Guid formId,
        MapDetailReader maps,
        CancellationToken stop
    ) => await maps.ReadAsync(formId, stop) is { } whole ? TypedResults.Ok(whole) : Problems.No("form");

    private static async Task<Results<Ok<FieldMap>, ProblemHttpResult>> FromAsync(
        Guid formId,
        Guid otherId,
        MapDetailReader maps,
        CancellationToken stop
    ) =>
        await maps.FromAsync(formId, otherId, stop) is { } map
            ? TypedResults.Ok(map)
            : Problems.No("form with a confirmed map");

    private static async Task<Results<Ok<TriedMap>, ProblemHttpResult>> TryAsync(
        Guid formId,
        MapToTry tried,
        AppDb db,
        FormDetailReader forms,
        CancellationToken stop
    )
    {
        // Asked with every change of a draft: only what came is read, not the form's counts.
        if (await forms.SamplesAsync(formId, stop) is not var (form, samples))
            return Problems.No("form");
        var fields = await db.FieldsAsync(form.ClientId, stop);
        if (Fault(tried.Rows, tried.Locale, fields) is { } fault)
            return fault;
        var country = await db.Clients.Where(c => c.Id == form.ClientId).Select(c => c.Country).SingleAsync(stop);
        IReadOnlyList<LeadField> own =
        [
            .. fields.Where(f => f.Own).Select(f => new LeadField(f.Key, f.Label, f.Type, f.Choices)),
        ];
        var all = CompiledMap.From(new(tried.Rows!, tried.Locale), country, own);
        // Each row by itself too: two that go to one field each show what they would give.
        var single = tried.Rows!.Select(r => CompiledMap.From(new([r], tried.Locale), country, own)).ToList();
        return TypedResults.Ok(
            new TriedMap([
                .. samples
                    .Where(s => s.Answers.Count > 0)
                    .Select(s =>
                    {
                        IReadOnlyList<Answer> answers = [.. s.Answers.Select(a => new Answer(a.Question, a.Answer))];
                        var lead = all.Read(answers);
                        var rows = tried.Rows!.Select((r, i) => Of(single[i], r, answers)).ToList();
                        return new TriedSample(
                            s.Id,
                            rows,
                            Core.Identity.PersonNames.Join(
                                lead.Values.GetValueOrDefault("first_name"),
                                lead.Values.GetValueOrDefault("last_name")
                            ) ?? "",
                            lead.Email,
                            [.. lead.Phones.Select(p => p.E164)],
                            lead.Keys().Count > 0
                        );
                    }),
            ])
        );
    }

    private static TriedRow Of(CompiledMap map, MapRow row, IReadOnlyList<Answer> answers)
    {
        if (row.LeadField is null)
            return new(null, null);
        var given = map.Read([.. answers.Where(a => row.Fields().Contains(a.Field))]);
        var value = row.LeadField switch
        {
            "full_name" => string.Join(
                " · ",
                new[]
                {
                    given.Values.GetValueOrDefault("first_name"),
                    given.Values.GetValueOrDefault("last_name"),
                }.OfType<string>()
            ),
            "phone" when given.Phones.Count > 1 => string.Join(", ", given.Phones.Select(p => p.E164)),
            "email" when given.Emails.Count > 1 => string.Join(", ", given.Emails),
            _ => given.Values.GetValueOrDefault(row.LeadField),
        };
        return new(string.IsNullOrEmpty(value) ? null : value, given.Faults.Values.FirstOrDefault());
    }

    private static async Task<Results<Ok<ConfirmedVersion>, ProblemHttpResult>> ConfirmAsync(
        Guid formId,
        MapToConfirm confirm,
        HttpContext http,
        AppDb db,
        MapDetailReader maps,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await maps.ReadAsync(formId, stop) is not { } whole)
            return Problems.No("form");
        if (Fault(confirm.Rows, confirm.Locale, whole.LeadFields) is { } fault)
            return fault;
        var form = await db.Forms.SingleAsync(f => f.Id == formId, stop);
        if (form.State == FormState.Offered)
            return Problems.NotNow.Because("The form is not chosen.");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        await db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(hashtextextended({"map" + formId.ToString("N")}, 0))",
            stop
        );
        var last = await db.FormMaps.Where(m => m.FormId == formId).MaxAsync(m => (int?)m.Version, stop) ?? 0;
        if (last != confirm.Version && whole.Version != confirm.Version)
            return Problems.NotNow.Because("Somebody else confirmed this map after you opened it.");
        var version = await db.ConfirmAsync(
            form,
            new(confirm.Rows!, Clean(confirm.Locale)),
            ClientAccess.UserId(http.User),
            time.Now(),
            stop
        );
        await db.SaveAndNotifyAsync(stop);
        var released =
            form.State == FormState.Receiving ? await db.ReleaseAsync(formId, stop, SubmissionStatus.Waiting) : 0;
        await transaction.CommitAsync(stop);
        return TypedResults.Ok(new ConfirmedVersion(version, released));
    }

    /// <summary>What is wrong with a map that somebody sent, or <c>null</c>.</summary>
    internal static ProblemHttpResult? Fault(
        IReadOnlyList<MapRow>? rows,
        string? locale,
        IReadOnlyList<LeadFieldRow> fields
    )
    {
        if (rows is not { Count: > 0 and <= MostRows })
            return Problems.Bad("rows", $"A map has between one row and {MostRows}.");
        if (locale is { Length: > 12 })
            return Problems.Bad("locale", "Write a language and a country, as in de-AT.");
        foreach (var row in rows)
        {
            if (OddAbout(row) is { } why)
                return Problems.Bad("rows", $"The row “{row.FormField}” → “{row.LeadField}” {why}");
            if (row.FormField.Length == 0 && row.Constant is null)
                return Problems.Bad("rows", $"The row to “{row.LeadField}” reads no field and holds no value.");
            if (row.FormField.Length > 0 && row.Constant is not null)
                return Problems.Bad("rows", $"“{row.FormField}” cannot be a field and a fixed value at once.");
        }

        var read = rows.SelectMany(r => r.Fields())
            .GroupBy(f => f, StringComparer.Ordinal)
            .FirstOrDefault(g => g.Count() > 1);
        if (read is not null)
            return Problems.Bad("rows", $"“{read.Key}” stands twice.");
        // A custom field is asked for by its key, so that a slip of the pen does not make a new one unseen.
        var known = fields.Select(f => f.Key).Concat(ObviousMap.Tracking).ToHashSet(StringComparer.Ordinal);
        return rows.FirstOrDefault(r => r.LeadField is { } to && to != r.FormField && !known.Contains(to)) is { } odd
            ? Problems.Bad("rows", $"There is no lead field “{odd.LeadField}”. Make it first, or choose another.")
            : null;
    }

    private static string? OddAbout(MapRow row) =>
        row switch
        {
            { FormField.Length: > 300 } => "names a field of more than 300 characters.",
            { LeadField.Length: 0 } => "goes to no lead field: leave leadField out to drop the answer, or name one.",
            { LeadField.Length: > 100 } => "goes to a lead field with a name of more than 100 characters.",
            { With.Count: 0 } => "joins its field with none: leave with out, or name the fields that are joined to it.",
            { With.Count: > 10 } => "joins more than 10 fields to its own.",
            { Joiner.Length: > 10 } => "puts more than 10 characters between what it joins.",
            { Constant.Length: 0 } => "holds an empty fixed value: leave constant out, or write what it is.",
            { Constant.Length: > 500 } => "holds a fixed value of more than 500 characters.",
            { Choices.Count: > 200 } => "rewrites more than 200 choices.",
            _ => null,
        };

    private static string? Clean(string? locale) => string.IsNullOrWhiteSpace(locale) ? null : locale.Trim();
}
