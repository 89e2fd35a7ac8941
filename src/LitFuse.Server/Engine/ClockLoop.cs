using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Hours;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Server.Engine;

/// <summary>Lights fuses by the clock: a date that is reached, an hour that comes round.</summary>
public sealed class ClockService(AppDb db, LeadEventRouter events, ClientConfigCache setups, TimeProvider time)
{
    private const int AtOnce = 200;
    private const int MostMissedDays = 31;
    private static readonly LocalTimePattern Hour = LocalTimePattern.CreateWithInvariantCulture("HH:mm");

    /// <summary>Sets the clocks of a version that is being armed, and takes away those of the fuse's others.</summary>
    public static async Task SetAsync(
        AppDb db,
        FuseVersion version,
        DateTimeZone zone,
        Instant now,
        CancellationToken stop
    )
    {
        await db
            .FuseClocks.Where(c => db.FuseVersions.Any(v => v.Id == c.FuseVersionId && v.FuseId == version.FuseId))
            .ExecuteDeleteAsync(stop);
        for (var place = 0; place < version.Definition.LitBy.Count; place++)
        {
            if (version.Definition.LitBy[place].Timer is { } timer && Next(timer, now, zone) is { } next)
                db.FuseClocks.Add(
                    new()
                    {
                        FuseVersionId = version.Id,
                        Place = place,
                        ClientId = version.ClientId,
                        NextAt = next,
                    }
                );
        }
    }

    /// <summary>The next time after <paramref name="after"/> that a timer strikes.</summary>
    public static Instant? Next(FuseTimer timer, Instant after, DateTimeZone zone)
    {
        if (Hour.Parse(timer.At) is not { Success: true, Value: var at })
            return null;
        var date = after.InZone(zone).Date;
        for (var day = 0; day <= 8; day++, date = date.PlusDays(1))
        {
            if (timer.Weekdays is { Count: > 0 } days && !days.Contains((int)date.DayOfWeek))
                continue;
            var next = zone.Shows(date + at);
            if (next > after)
                return next;
        }

        return null;
    }

    /// <summary>Strikes one clock that is due.</summary>
    /// <returns>Whether one was; and when the next is.</returns>
    public async Task<(bool More, Instant? Next)> RunAsync(CancellationToken stop)
    {
        var now = time.Now();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var clock = (
            await db
                .FuseClocks.FromSql(
                    $"select * from fuse_clocks where next_at <= {now} order by next_at limit 1 for update skip locked"
                )
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (clock is null)
            return (false, await db.FuseClocks.MinAsync(c => (Instant?)c.NextAt, stop));
        var setup = await setups.ReadAsync(db, clock.ClientId, stop);
        var zone = setup.Client.DateTimeZone();
        var version = setup.Armed.FirstOrDefault(v => v.Id == clock.FuseVersionId);
        if (version is null)
            db.FuseClocks.Remove(clock);
        else
        {
            var way = version.Definition.LitBy[clock.Place];
            var struck = Struck(way, clock.NextAt, now, zone);
            // Some leads at once, and the next in a transaction of their own: nobody waits for all of a client's leads.
            if (await StrikeAsync(version, way, struck, clock.AfterLead, zone, now, stop) is { } last)
                (clock.NextAt, clock.AfterLead) = (struck, last);
            else if (Next(way.Timer!, struck, zone) is { } next)
                (clock.NextAt, clock.AfterLead) = (next, null);
            else
                db.FuseClocks.Remove(clock);
        }

        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return (true, null);
    }

    /// <summary>
    /// Which time a clock strikes for that is late. An hour that comes round is for whoever is there then: after a
    /// sleep it strikes once, for the latest time. A date is for whoever has that date: each day that was missed is
    /// struck, up to a month back.
    /// </summary>
    public static Instant Struck(LitBy way, Instant due, Instant now, DateTimeZone zone)
    {
        var oldest = now - Duration.FromDays(MostMissedDays);
        while (
            (way.Event != EventKeys.DateReached || due < oldest)
            && Next(way.Timer!, due, zone) is { } next
            && next <= now
        )
            due = next;
        return due;
    }

    // Returns the last lead of this lot; null when there was none left.
    private async Task<Guid?> StrikeAsync(
        FuseVersion version,
        LitBy way,
        Instant struck,
        Guid? after,
        DateTimeZone zone,
        Instant now,
        CancellationToken stop
    )
    {
        var (field, day) = (
            way.Timer!.Field ?? "",
            LocalDatePattern.Iso.Format(struck.InZone(zone).Date.PlusDays(-way.Timer.Days))
        );
        var last = after ?? Guid.Empty;
        var leads =
            way.Event == EventKeys.DateReached
                ? await HeldLead.PageAsync(db, version.ClientId, last, AtOnce, stop, field, day)
                : await HeldLead.PageAsync(db, version.ClientId, last, AtOnce, stop);
        if (leads.Count == 0)
            return null;
        await events.ReadBurnsAsync(leads, stop);
        var because =
            way.Event == EventKeys.DateReached
                ? $"{FuseSentence.SayLitBy(way with { When = null }, EventCatalog.Plain)} ({day})"
                : FuseSentence.SayLitBy(way with { When = null }, EventCatalog.Plain);
        foreach (var lead in leads)
            await events.HappenAsync(
                lead,
                [LeadEvent.Of(way.Event, struck, because)],
                null,
                now,
                stop,
                only: version.FuseId,
                quietly: true
            );
        return leads[^1].Id;
    }
}

/// <summary>Strikes the clocks that light fuses.</summary>
public sealed class ClockLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<ClockLoop> log)
    : EngineLoop(signals.Clocks, scopes, time, log)
{
    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var (more, next) = await services.GetRequiredService<ClockService>().RunAsync(stop);
        if (!more)
            return (false, next);
        signals.Burns.Pulse();
        signals.Deliveries.Pulse();
        return (true, null);
    }
}
