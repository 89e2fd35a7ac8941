using LitFuse.Core.Forms;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Texts;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Intake;

/// <summary>Makes forms: by a person, at a network, or because a submission of a form nobody knows has come.</summary>
public sealed class FormsFound(IServiceScopeFactory scopes, FormDirectory directory, TimeProvider time)
{
    // What its sender names no form for still has a place to be kept and seen.
    private static readonly SentForm Nameless = new("", "Without a form's name");

    /// <summary>
    /// The form of a source that <paramref name="sent"/> names; it is made where nobody has heard of it.
    /// </summary>
    public async Task<FormAddress> OfAsync(
        SourceAddress source,
        SentForm? sent,
        ReadOnlyMemory<byte> raw,
        CancellationToken stop
    )
    {
        var named = sent is null ? Nameless : new SentForm(Payload.Plain(sent.Id), Payload.Plain(sent.Name));
        if (source.Forms.TryGetValue(named.Id, out var known))
            return known;
        await using (var scope = scopes.CreateAsyncScope())
        {
            scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
            var db = scope.ServiceProvider.GetRequiredService<AppDb>();
            await using var transaction = await db.Database.BeginTransactionAsync(stop);
            await db.Database.ExecuteSqlAsync(
                $"select pg_advisory_xact_lock(hashtextextended({source.SourceId + named.Id}, 0))",
                stop
            );
            if (!await db.Forms.AnyAsync(f => f.SourceId == source.SourceId && f.ExternalId == named.Id, stop))
            {
                var form = Fresh(
                    source.ClientId,
                    source.SourceId,
                    Clip.To(named.Name, 120),
                    source.Kind.Learn(raw),
                    time.Now()
                );
                form.ExternalId = named.Id;
                form.News = [new(time.Now(), "found by its first submission")];
                if (await ChosenElsewhereAsync(db, form, stop) is { } elsewhere)
                {
                    form.State = FormState.Offered;
                    form.News =
                    [
                        .. form.News,
                        new(
                            time.Now(),
                            $"not chosen: it comes through “{elsewhere}” already, and each submission would come twice"
                        ),
                    ];
                }

                db.Forms.Add(form);
                db.NoteChange(source.ClientId, ChangeKind.Form, form.Id);
                await db.SaveAndNotifyAsync(stop);
            }

            await transaction.CommitAsync(stop);
        }

        await directory.ReadAgainAsync(stop);
        return (await directory.SourceAsync(source.SourceId, stop))!.Forms[named.Id];
    }

    /// <summary>
    /// The name of another source of the client through which the same outside form is received already, or
    /// <c>null</c>: received twice, each of its submissions would come twice. Holds the others off until the
    /// transaction ends.
    /// </summary>
    public static async Task<string?> ChosenElsewhereAsync(AppDb db, Form form, CancellationToken stop)
    {
        if (form.ExternalId is not { Length: > 0 } external)
            return null;
        await db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(hashtextextended({$"chosen{form.ClientId:N}{external}"}, 0))",
            stop
        );
        var kind = await db.Sources.Where(s => s.Id == form.SourceId).Select(s => s.Kind).SingleAsync(stop);
        return await db
            .Forms.Where(f =>
                f.ClientId == form.ClientId
                && f.SourceId != form.SourceId
                && f.ExternalId == external
                && f.State == FormState.Receiving
            )
            .Join(db.Sources.Where(s => s.Kind == kind), f => f.SourceId, s => s.Id, (_, s) => s.Name)
            .FirstOrDefaultAsync(stop);
    }

    /// <summary>A form with a key of its own.</summary>
    public static Form Fresh(Guid clientId, Guid sourceId, string name, IReadOnlyList<FormField> fields, Instant now) =>
        new()
        {
            Id = Guid.CreateVersion7(),
            ClientId = clientId,
            SourceId = sourceId,
            Key = Keys.New(),
            Name = name,
            Fields = fields,
            MadeAt = now,
        };

    /// <summary>
    /// Stores the map that the form's own fields say, where they say enough; else its submissions wait.
    /// </summary>
    public static void ConfirmObvious(AppDb db, Form form, Guid? by, Instant now, int version = 1)
    {
        if (ObviousMap.Of(form.Fields) is not { } map)
            return;
        db.FormMaps.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                ClientId = form.ClientId,
                FormId = form.Id,
                Version = version,
                Status = MapStatus.Confirmed,
                Map = map,
                MadeAt = now,
                ConfirmedBy = by,
                ConfirmedAt = now,
            }
        );
    }
}
