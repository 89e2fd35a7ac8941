using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways.Kinds.ByHand;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>A lead that a person types in or a program sends.</summary>
/// <param name="Client">The client's key; not needed with an API key, which belongs to one.</param>
/// <param name="Fields">By lead field: <c>full_name</c> or <c>first_name</c> and <c>last_name</c>, <c>email</c>,
/// <c>phone</c>, <c>company</c>, <c>message</c>, and any field of the client's own.</param>
/// <param name="Id">The sender's own id: the same id with the same fields has one effect, with other fields it is an
/// update.</param>
/// <param name="SentAt">When the person asked; now, where it is left out.</param>
/// <param name="LightsFuses">False keeps it from lighting any fuse; true where it is left out.</param>
/// <param name="Test">Only a test.</param>
public sealed record LeadToAdd(
    string? Client,
    IReadOnlyDictionary<string, string?>? Fields,
    string? Id,
    Instant? SentAt,
    bool? LightsFuses,
    bool? Test
);

/// <summary>Proof that it is on disk.</summary>
/// <param name="Double">The same one was there before, and nothing more happens.</param>
public sealed record LeadReceipt(Guid Receipt, bool Double);

/// <summary><c>POST /api/leads</c>: by hand, or by API key.</summary>
public static class AddLead
{
    private const int MostFields = 100;
    private const int LongestValue = 4000;

    /// <summary>Maps it.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/api/leads", AddAsync)
            .Needs(Act.TouchLeads)
            .TakesKeys()
            .WithTags("Leads")
            .WithSummary("Add a lead: by hand, or with an API key")
            .WithDescription(
                "Authorization: Bearer with an API key, or a signed-in person's cookie. Answers 202 with a receipt once it is on disk; the lead is there milliseconds later. Idempotent by `id` or by the Idempotency-Key header: the same id with the same fields has one effect, with other fields it updates. Without an id, the same fields within ten minutes are one submission."
            );

    private static async Task<Results<Accepted<LeadReceipt>, ProblemHttpResult>> AddAsync(
        LeadToAdd add,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        FormDirectory directory,
        IntakeWriter writer,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var holder = http.Features.Get<KeyHolder>();
        Guid clientId;
        if (holder is not null)
            clientId = holder.ClientId;
        else if (!string.IsNullOrWhiteSpace(add.Client) && await db.ChosenAsync(scope, add.Client, stop) is [var only])
            clientId = only;
        else
            return Problems.Bad("client", "Say for which client.");
        if (Fault(add, time.Now()) is var (field, fault))
            return Problems.Bad(field, fault);
        var answers = add.Fields!.Where(f => !string.IsNullOrWhiteSpace(f.Value))
            .Select(f => new Answer(f.Key, f.Value!))
            .ToList();
        var mapped = MapReader.Apply(
            Straight(answers),
            answers,
            (await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop)).Country
        );
        if (mapped.Keys().Count == 0)
            return Unreachable(mapped);
        var person = holder?.Name
            ?? (await db.PeopleAsync([ClientAccess.UserId(http.User)], stop)).Values.FirstOrDefault();
        var form = await FormAsync(
            db,
            directory,
            clientId,
            holder is null ? ByHandKind.Kind : ByKeyKind.Kind,
            time.Now(),
            stop
        );
        await MapOnceAsync(db, form.FormId, clientId, time.Now(), stop);
        var payload = Payload.FromAnswers(answers);
        var raw = JsonSerializer.SerializeToUtf8Bytes(add.Fields, CoreJson.Options);
        var key = add.Id ?? http.Request.Headers["Idempotency-Key"].FirstOrDefault()?.Trim().Trim('"');
        var arrival = new Arrival(
            clientId,
            form.FormId,
            "application/json",
            raw,
            payload,
            string.IsNullOrEmpty(key) ? null : key
        )
        {
            SentAt = add.SentAt ?? time.Now(),
            Test = add.Test == true,
            Quiet = add.LightsFuses == false,
            Envelope = new Envelope(
                holder is null ? "hand" : "api",
                http.Connection.RemoteIpAddress?.ToString(),
                Person: person
            ).Write(),
        };
        if (!writer.TryQueue(arrival))
            return Problems.Busy.Because();
        var stored = await arrival.Done.Task;
        return TypedResults.Accepted((string?)null, new LeadReceipt(stored.Receipt, stored.Double));
    }

    private static ProblemHttpResult Unreachable(MappedLead mapped) =>
        Problems.Bad(
            mapped.Faults.Keys.FirstOrDefault() ?? "fields.email",
            mapped.Faults.Values.FirstOrDefault() is { } why
                ? $"Nobody could be reached: {why}."
                : "Give an email address or a telephone number."
        );

    private static (string Field, string Fault)? Fault(LeadToAdd add, Instant now)
    {
        if (add.Fields is not { Count: > 0 } fields)
            return ("fields", "Give at least an email address or a telephone number.");
        if (fields.Count > MostFields)
            return ("fields", $"Give at most {MostFields} fields.");
        if (
            fields.FirstOrDefault(f =>
                f.Key.Length is 0 or > 100
                || f.Key.StartsWith(Payload.OwnPrefix, StringComparison.Ordinal)
                || f.Key is "id"
                || f.Key.Contains('\0', StringComparison.Ordinal)
            ) is
            { Key: { } odd }
        )
            return ("fields", $"“{odd}” is no name for a field.");
        if (fields.FirstOrDefault(f => f.Value?.Length > LongestValue) is { Key: { } wide })
            return ($"fields.{wide}", $"At most {LongestValue} characters.");
        if (
            add.Id is { Length: 0 or > Payload.LongestOwnId }
            || add.Id?.Contains('\0', StringComparison.Ordinal) == true
        )
            return ("id", $"An id has between 1 and {Payload.LongestOwnId} characters.");
        return add.SentAt > now + Duration.FromMinutes(5) ? ("sentAt", "That is in the future.") : null;
    }

    private static FieldMap Straight(IEnumerable<Answer> answers) =>
        new([.. answers.Select(a => new MapRow(a.Field, a.Field))]);

    // One form for all that is typed in, and one for all that comes by key, made when first needed.
    private static async Task<FormAddress> FormAsync(
        AppDb db,
        FormDirectory directory,
        Guid clientId,
        string kind,
        Instant now,
        CancellationToken stop
    )
    {
        async Task<string?> Find() =>
            await db
                .Sources.Where(s => s.ClientId == clientId && s.Kind == kind)
                .Join(db.Forms, s => s.Id, f => f.SourceId, (_, f) => f.Key)
                .FirstOrDefaultAsync(stop);
        var key = await Find();
        if (key is null)
        {
            await using var transaction = await db.Database.BeginTransactionAsync(stop);
            await db.Database.ExecuteSqlAsync(
                $"select pg_advisory_xact_lock(hashtextextended({clientId + kind}, 0))",
                stop
            );
            key = await Find();
            if (key is null)
            {
                var name = kind == ByHandKind.Kind ? "By hand" : "By API key";
                var source = new Source
                {
                    Id = Guid.CreateVersion7(),
                    ClientId = clientId,
                    Kind = kind,
                    Name = name,
                    MadeAt = now,
                };
                var form = FormsFound.Fresh(
                    clientId,
                    source.Id,
                    kind == ByHandKind.Kind ? "Typed in" : "Sent with a key",
                    [],
                    now
                );
                db.AddRange(source, form);
                db.NoteChange(clientId, ChangeKind.Source, source.Id);
                await db.SaveAndNotifyAsync(stop);
                key = form.Key;
            }

            await transaction.CommitAsync(stop);
            await directory.ReadAgainAsync(stop);
        }

        return (await directory.FindAsync(key, stop))!;
    }

    // Its fields are lead fields by name, so that its map is never a guess; what else comes is kept under its own name.
    private static async Task MapOnceAsync(AppDb db, Guid formId, Guid clientId, Instant now, CancellationToken stop)
    {
        if (await db.FormMaps.AnyAsync(m => m.FormId == formId, stop))
            return;
        await db.Database.ExecuteSqlAsync(
            $"insert into form_maps (id, client_id, form_id, version, status, map, made_at, confirmed_at) values ({Guid.CreateVersion7()}, {clientId}, {formId}, 1, 'confirmed', {JsonSerializer.Serialize(new FieldMap([.. FieldMap.StandardFields.Select(f => new MapRow(f, f))]), CoreJson.Options)}::jsonb, {now}, {now}) on conflict do nothing",
            stop
        );
    }
}
