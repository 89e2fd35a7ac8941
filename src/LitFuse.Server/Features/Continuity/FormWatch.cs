using LitFuse.Data;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Continuity;

/// <summary>Finds what is kept of lines.</summary>
public static class FormWatches
{
    /// <summary>
    /// What is kept of a form's line, made where there is nothing yet; <c>null</c> where the form is not there for who
    /// asks.
    /// </summary>
    public static async Task<FormWatch?> WatchOfAsync(this AppDb db, Guid formId, CancellationToken stop)
    {
        if (
            await db.Forms.Where(f => f.Id == formId).Select(f => (Guid?)f.ClientId).SingleOrDefaultAsync(stop)
            is not { } client
        )
            return null;
        await db.Database.ExecuteSqlAsync(
            $"insert into form_watches (form_id, client_id) values ({formId}, {client}) on conflict do nothing",
            stop
        );
        return await db.FormWatches.SingleAsync(w => w.FormId == formId, stop);
    }
}
