using LitFuse.Core.Fields;
using LitFuse.Core.Mapping;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Mapping;

/// <summary>A lead field as it is shown.</summary>
/// <param name="Own">The client's own, rather than one everybody has.</param>
public sealed record LeadFieldRow(
    string Key,
    string Label,
    LeadFieldType Type,
    IReadOnlyList<string> Choices,
    FillRule Rule,
    bool Own
);

/// <summary>Fields of a client.</summary>
public sealed record LeadFieldList(IReadOnlyList<LeadFieldRow> Fields);

/// <summary>A field to be made or changed.</summary>
/// <param name="Key">Left out: made of the label.</param>
public sealed record LeadFieldToSet(
    string? Client,
    string? Key,
    string? Label,
    LeadFieldType? Type,
    IReadOnlyList<string>? Choices,
    FillRule? Rule
);

/// <summary>The lead fields of a client: those that everybody has, and its own.</summary>
public static class LeadFieldsEndpoints
{
    private const int MostOwn = 200;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var fields = app.MapGroup("/api/lead-fields").WithTags("Field maps");
        fields.MapGet("/", ListAsync).Needs(Act.SeeLeads).WithSummary("Lead fields: everybody's and the client's own");
        fields.MapPost("/", MakeAsync).Needs(Act.EditSources).WithSummary("Make a field of the client's own");
        fields
            .MapPut("/{key}", SetAsync)
            .Needs(Act.EditSources)
            .WithSummary("Its label, choices, and what later answers do");
    }

    /// <summary>All fields of a client, everybody's first.</summary>
    public static async Task<IReadOnlyList<LeadFieldRow>> FieldsAsync(
        this AppDb db,
        Guid clientId,
        CancellationToken stop
    )
    {
        var own = await db
            .LeadFields.AsNoTracking()
            .Where(f => f.ClientId == clientId)
            .OrderBy(f => f.Label)
            .ToListAsync(stop);
        return
        [
            .. LeadField.Standard.Select(f => new LeadFieldRow(
                f.Key,
                f.Label,
                f.Type,
                f.Choices,
                own.Find(o => o.Key == f.Key)?.Rule ?? FillRule.NewestWins,
                false
            )),
            .. own.Where(o => !FieldMap.StandardFields.Contains(o.Key))
                .Select(o => new LeadFieldRow(o.Key, o.Label, o.Type, o.Choices, o.Rule, true)),
        ];
    }

    private static async Task<Results<Ok<LeadFieldList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        CancellationToken stop,
        string? client = null
    ) =>
        await db.ChosenAsync(scope, client, stop) is not { } clients
            ? Problems.NotThere.Because($"There is no client '{client}' for you.")
        : clients is not [var only] ? Problems.Bad("client", "Say for which client.")
        : TypedResults.Ok(new LeadFieldList(await db.FieldsAsync(only, stop)));

    private static async Task<Results<Created<LeadFieldRow>, ProblemHttpResult>> MakeAsync(
        LeadFieldToSet make,
        AppDb db,
        ClientScope scope,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(make.Client)
            || await db.ChosenAsync(scope, make.Client, stop) is not [var clientId]
        )
            return Problems.Bad("client", "Say for which client.");
        var label = (make.Label ?? "").Trim();
        if (label.Length is 0 or > 80)
            return Problems.Bad("label", "Give it a name of at most 80 characters.");
        var type = make.Type ?? LeadFieldType.Text;
        if (!LeadField.OwnTypes.Contains(type))
            return Problems.Bad(
                "type",
                "Choose text, long text, number, money, choice, choices, date, yes-no or link."
            );
        if (ChoicesFault(type, make.Choices) is { } fault)
            return Problems.Bad("choices", fault);
        var key = LeadField.KeyFor(string.IsNullOrWhiteSpace(make.Key) ? label : make.Key);
        var there = await db.LeadFields.Where(f => f.ClientId == clientId).Select(f => f.Key).ToListAsync(stop);
        if (there.Contains(key) || FieldMap.StandardFields.Contains(key))
            return Problems.Bad("label", $"There is a field “{LeadField.WordsOf(key)}” already.");
        if (there.Count >= MostOwn)
            return Problems.Bad("client", $"A client has at most {MostOwn} fields of its own.");
        var field = new LeadFieldDef
        {
            ClientId = clientId,
            Key = key,
            Label = label,
            Type = type,
            Choices = Clean(type, make.Choices),
            Rule = make.Rule ?? FillRule.NewestWins,
        };
        db.LeadFields.Add(field);
        await db.SaveChangesAsync(stop);
        return TypedResults.Created(
            $"/api/lead-fields/{key}",
            new LeadFieldRow(key, label, type, field.Choices, field.Rule, true)
        );
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> SetAsync(
        string key,
        LeadFieldToSet set,
        AppDb db,
        ClientScope scope,
        CancellationToken stop
    )
    {
        if (
            string.IsNullOrWhiteSpace(set.Client) || await db.ChosenAsync(scope, set.Client, stop) is not [var clientId]
        )
            return Problems.No("client");
        var field = await db.LeadFields.SingleOrDefaultAsync(f => f.ClientId == clientId && f.Key == key, stop);
        var standard = LeadField.Standard.FirstOrDefault(f => f.Key == key);
        if (field is null && standard is null)
            return Problems.NotThere.Because($"There is no field '{key}'.");
        if (field is null)
            db.LeadFields.Add(
                field = new()
                {
                    ClientId = clientId,
                    Key = key,
                    Label = standard!.Label,
                    Type = standard.Type,
                }
            );
        if (set.Rule is { } rule)
            field.Rule = rule;
        if (standard is null)
        {
            // What a field holds is not changed under values that are there.
            if (set.Type is { } type && type != field.Type)
                return Problems.Bad("type", "What a field holds stays as it is. Make another field.");
            if (set.Label is { } label && label.Trim() is { Length: > 0 and <= 80 } named)
                field.Label = named;
            if (set.Choices is not null)
            {
                if (ChoicesFault(field.Type, set.Choices) is { } fault)
                    return Problems.Bad("choices", fault);
                field.Choices = Clean(field.Type, set.Choices);
            }
        }

        await db.SaveChangesAsync(stop);
        return TypedResults.NoContent();
    }

    private static string? ChoicesFault(LeadFieldType type, IReadOnlyList<string>? choices) =>
        type is not (LeadFieldType.Choice or LeadFieldType.Choices) ? null
        : choices is null || choices.Count(c => !string.IsNullOrWhiteSpace(c)) < 2 ? "Give at least two choices."
        : choices.Count > 200 || choices.Any(c => c.Length > 200) ? "At most 200 choices, of at most 200 characters."
        : null;

    private static IReadOnlyList<string> Clean(LeadFieldType type, IReadOnlyList<string>? choices) =>
        type is LeadFieldType.Choice or LeadFieldType.Choices
            ? [.. choices!.Select(c => c.Trim()).Where(c => c.Length > 0).Distinct(StringComparer.Ordinal)]
            : [];
}
