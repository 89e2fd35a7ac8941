using LitFuse.Data;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Engine;

/// <summary>Gives submissions that were set aside back to the engine.</summary>
public static class SubmissionRelease
{
    /// <summary>
    /// All of a form that stand so, in the order in which they came: the engine goes by due time, then id, and ids are
    /// in the order of arrival.
    /// </summary>
    /// <returns>How many.</returns>
    public static async Task<int> ReleaseAsync(
        this AppDb db,
        Guid formId,
        CancellationToken stop,
        params SubmissionStatus[] statuses
    )
    {
        var words = statuses.Select(s => Words.Of(s)).ToArray();
        var released = await db.Database.ExecuteSqlAsync(
            $"update submissions set status = 'received', reason = null, attempts = 0, due_at = received_at where form_id = {formId} and status = any({words})",
            stop
        );
        await db.WakeAsync("submissions", stop);
        return released;
    }
}
