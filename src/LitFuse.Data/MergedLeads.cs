using Microsoft.EntityFrameworkCore;

namespace LitFuse.Data;

/// <summary>Leads that turned out to be another.</summary>
public static class MergedLeads
{
    /// <summary>
    /// The lead that one turned out to be; itself where it did not. Says nothing of whether it may be seen.
    /// </summary>
    public static async Task<Guid> KeptInsteadAsync(this AppDb db, Guid leadId, CancellationToken stop) =>
        await db
            .Leads.IgnoreQueryFilters()
            .Where(l => l.Id == leadId)
            .Select(l => l.MergedInto)
            .SingleOrDefaultAsync(stop)
        ?? leadId;
}
