using LitFuse.Data;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Engine;

/// <summary>
/// A lead whose row the transaction under way holds, so that two happenings to one lead come one after the other.
/// Whoever changes what burns of a lead do takes one of these, and only the methods here make them: each locks. Rows of
/// several leads are locked in the order of their ids, and burns only through their leads, so that no two transactions
/// wait for one another. A test holds that nothing else in the server locks leads or burns.
/// </summary>
public sealed class HeldLead
{
    private const string Before = "before_lead";
    private const int MostTries = 4;

    private HeldLead(Lead lead) => Lead = lead;

    /// <summary>The lead; tracked.</summary>
    public Lead Lead { get; }

    /// <summary>Which.</summary>
    public Guid Id => Lead.Id;

    /// <summary>Holds one, as far as whoever asks may see it.</summary>
    /// <returns><c>null</c>: there is none by this id for them.</returns>
    public static async Task<HeldLead?> OneAsync(AppDb db, Guid id, CancellationToken stop) =>
        (await ManyAsync(db, [id], stop)).SingleOrDefault();

    /// <summary>Holds several, in the order of their ids.</summary>
    /// <param name="db">With a transaction under way.</param>
    /// <param name="ids">Which; those that are not there are left out.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="mergedToo">Also those that turned out to be another, of any client: for what goes on
    /// behind.</param>
    public static Task<IReadOnlyList<HeldLead>> ManyAsync(
        AppDb db,
        IEnumerable<Guid> ids,
        CancellationToken stop,
        bool mergedToo = false
    )
    {
        var wanted = ids.Distinct().Order().ToArray();
        return HoldAsync(
            db,
            db.Leads.FromSql($"select * from leads where id = any({wanted}) order by id for update"),
            mergedToo,
            stop
        );
    }

    /// <summary>Holds those that nobody else holds at this moment.</summary>
    public static Task<IReadOnlyList<HeldLead>> FreeAsync(AppDb db, IEnumerable<Guid> ids, CancellationToken stop)
    {
        var wanted = ids.Distinct().Order().ToArray();
        return HoldAsync(
            db,
            db.Leads.FromSql($"select * from leads where id = any({wanted}) order by id for update skip locked"),
            mergedToo: true,
            stop
        );
    }

    /// <summary>Holds a client's next leads after one, in the order of their ids.</summary>
    /// <param name="db">With a transaction under way.</param>
    /// <param name="clientId">Whose.</param>
    /// <param name="after">The last of the page before.</param>
    /// <param name="most">How many.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="field">Only those whose lead field of this name holds <paramref name="value"/>.</param>
    /// <param name="value">As it is kept.</param>
    public static Task<IReadOnlyList<HeldLead>> PageAsync(
        AppDb db,
        Guid clientId,
        Guid after,
        int most,
        CancellationToken stop,
        string? field = null,
        string? value = null
    ) =>
        HoldAsync(
            db,
            field is null
                ? db.Leads.FromSql(
                    $"select * from leads where client_id = {clientId} and id > {after} and merged_into is null order by id limit {most} for update"
                )
                : db.Leads.FromSql(
                    $"select * from leads where client_id = {clientId} and id > {after} and merged_into is null and fields ->> {field} = {value} order by id limit {most} for update"
                ),
            mergedToo: false,
            stop
        );

    /// <summary>
    /// Holds the leads that some things are about, as they stand once the leads are held: while one waited for a lead,
    /// what it is about may have moved to another, as two leads became one.
    /// </summary>
    /// <param name="db">With a transaction under way.</param>
    /// <param name="whose">Asks the database whose the things are now.</param>
    /// <param name="stop">Cancels.</param>
    /// <exception cref="DbUpdateConcurrencyException">They moved again and again.</exception>
    public static async Task<IReadOnlyList<HeldLead>> OfAsync(
        AppDb db,
        Func<Task<List<Guid>>> whose,
        CancellationToken stop
    )
    {
        var transaction = Transaction(db);
        for (var i = 0; i < MostTries; i++)
        {
            await transaction.CreateSavepointAsync(Before, stop);
            var ids = await whose();
            var held = await ManyAsync(db, ids, stop, mergedToo: true);
            if ((await whose()).ToHashSet().SetEquals(ids))
                return held;
            await transaction.RollbackToSavepointAsync(Before, stop);
            foreach (var one in held)
                db.Entry(one.Lead).State = EntityState.Detached;
        }

        throw new DbUpdateConcurrencyException("The leads were merged again and again meanwhile.");
    }

    /// <summary>One that this transaction makes: nobody else can see it yet.</summary>
    /// <exception cref="InvalidOperationException">It is there already.</exception>
    public static HeldLead Made(AppDb db, Lead lead) =>
        db.Entry(lead).State == EntityState.Added
            ? new(lead)
            : throw new InvalidOperationException(
                $"Lead {lead.Id} is there already, and this transaction does not hold it."
            );

    /// <summary>These burns of leads that are held, locked.</summary>
    public static Task<List<Burn>> BurnsAsync(
        AppDb db,
        IEnumerable<HeldLead> leads,
        IEnumerable<Guid> burns,
        CancellationToken stop
    )
    {
        Guid[] ids = [.. leads.Select(l => l.Id)],
            wanted = [.. burns.Distinct().Order()];
        return db
            .Burns.FromSql(
                $"select * from burns where id = any({wanted}) and lead_id = any({ids}) order by id for update"
            )
            .IgnoreQueryFilters()
            .ToListAsync(stop);
    }

    /// <summary>All burns of leads that are held and that still hear what happens, locked.</summary>
    public static Task<List<Burn>> HearingAsync(AppDb db, IEnumerable<HeldLead> leads, CancellationToken stop)
    {
        Guid[] ids = [.. leads.Select(l => l.Id).Order()];
        return db
            .Burns.FromSql(
                $"select * from burns where lead_id = any({ids}) and status in ('burning', 'listening') order by id for update"
            )
            .IgnoreQueryFilters()
            .ToListAsync(stop);
    }

    private static async Task<IReadOnlyList<HeldLead>> HoldAsync(
        AppDb db,
        IQueryable<Lead> rows,
        bool mergedToo,
        CancellationToken stop
    )
    {
        Transaction(db);
        return (await (mergedToo ? rows.IgnoreQueryFilters() : rows).ToListAsync(stop)).ConvertAll(l => new HeldLead(
            l
        ));
    }

    private static Microsoft.EntityFrameworkCore.Storage.IDbContextTransaction Transaction(AppDb db) =>
        db.Database.CurrentTransaction
        ?? throw new InvalidOperationException("A lead is held by a transaction, and none is under way.");
}
