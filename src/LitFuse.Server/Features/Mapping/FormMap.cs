using LitFuse.Core.Mapping;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Mapping;

/// <summary>Confirms maps.</summary>
public static class Confirming
{
    /// <summary>
    /// Adds the next version of a form's map, confirmed, within the caller's transaction. The caller saves, and
    /// releases what waits: what lacks a field that is lost all the same goes on waiting for that.
    /// </summary>
    /// <returns>The version.</returns>
    public static async Task<int> ConfirmAsync(
        this AppDb db,
        Form form,
        FieldMap map,
        Guid? by,
        Instant now,
        CancellationToken stop
    )
    {
        await db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(hashtextextended({"map" + form.Id.ToString("N")}, 0))",
            stop
        );
        var version = (await db.FormMaps.Where(m => m.FormId == form.Id).MaxAsync(m => (int?)m.Version, stop) ?? 0) + 1;
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
        db.NoteChange(form.ClientId, ChangeKind.Form, form.Id);
        return version;
    }
}
