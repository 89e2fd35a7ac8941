using LitFuse.Core.Hours;
using LitFuse.Core.Texts;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Hours;

/// <summary>
/// When a client's leads may be written to and when its team works, and how much they may be written to.
/// </summary>
/// <param name="WorkDays">ISO numbers, Monday = 1.</param>
/// <param name="TargetMinutes">From submission to first touch, in working hours.</param>
/// <param name="MostADay">Automatic messages to a lead within a day; 0: any number.</param>
/// <param name="SegmentPrice">Of a text, in the currency's minor unit.</param>
public sealed record ClientHours(
    TimeOnly SendFrom,
    TimeOnly SendTo,
    TimeOnly WorkFrom,
    TimeOnly WorkTo,
    IReadOnlyList<int> WorkDays,
    int TargetMinutes,
    IReadOnlyList<Holiday> Holidays,
    int MostADay,
    decimal? SegmentPrice
);

/// <summary>The same, with what it comes to.</summary>
/// <param name="Segments">Of texts that went out since the first of the month.</param>
/// <param name="Laws">What no fuse goes beyond, by the country of a lead's number.</param>
public sealed record ClientHoursTold(
    ClientHours Hours,
    string Zone,
    string Currency,
    int Segments,
    IReadOnlyList<LawTold> Laws
);

/// <summary>Hours that a law names, or that are our own.</summary>
/// <param name="Country"><c>null</c>: every other one.</param>
public sealed record LawTold(string? Country, string For, string Name, string Source, string Hours);

/// <summary>A client's hours, holidays and limits.</summary>
public static class HoursEndpoints
{
    private const int MostHolidays = 200;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var hours = app.MapGroup("/api/clients/{clientId}/hours").WithTags("Clients");
        hours.MapGet("/", GetAsync).Needs(Act.SeeSources).WithSummary("Hours, holidays and limits");
        hours.MapPut("/", PutAsync).Needs(Act.EditFuses).WithSummary("Set them, for whatever comes due from now on");
    }

    private static async Task<Results<Ok<ClientHoursTold>, ProblemHttpResult>> GetAsync(
        Guid clientId,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (!scope.Ids.Contains(clientId))
            return Problems.No("client");
        return TypedResults.Ok(
            await ToldAsync(
                await db.Clients.AsNoTracking().SingleAsync(c => c.Id == clientId, stop),
                db,
                time.Now(),
                stop
            )
        );
    }

    private static async Task<Results<Ok<ClientHoursTold>, ProblemHttpResult>> PutAsync(
        Guid clientId,
        ClientHours hours,
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (!scope.Ids.Contains(clientId))
            return Problems.No("client");
        if (hours.SendFrom >= hours.SendTo)
            return Problems.Bad("sendTo", "Send hours end after they begin.");
        if (hours.WorkFrom >= hours.WorkTo)
            return Problems.Bad("workTo", "Working hours end after they begin.");
        if (hours.WorkDays.Count == 0 || hours.WorkDays.Any(d => d is < 1 or > 7))
            return Problems.Bad("workDays", "Choose at least one working day.");
        if (hours.TargetMinutes is < 1 or > 10_080)
            return Problems.Bad("targetMinutes", "The target is between one minute and a week.");
        if (hours.MostADay is < 0 or > 50)
            return Problems.Bad("mostADay", "At most 50 a day; 0 means any number.");
        if (hours.SegmentPrice is < 0 or > 10_000)
            return Problems.Bad("segmentPrice", "That is no price of a segment.");
        if (hours.Holidays.Count > MostHolidays)
            return Problems.Bad("holidays", $"At most {MostHolidays} days.");
        var client = await db.Clients.SingleAsync(c => c.Id == clientId, stop);
        (client.SendFrom, client.SendTo, client.WorkFrom, client.WorkTo) = (
            hours.SendFrom,
            hours.SendTo,
            hours.WorkFrom,
            hours.WorkTo
        );
        client.WorkDays = [.. hours.WorkDays.Distinct().Order()];
        client.TargetSeconds = hours.TargetMinutes * 60;
        client.Holidays =
        [
            .. hours
                .Holidays.DistinctBy(h => h.Day)
                .OrderBy(h => h.Day)
                .Select(h => h with { Name = PlainText.Line(h.Name ?? "", 80) }),
        ];
        (client.MostADay, client.SegmentPrice) = (hours.MostADay, hours.SegmentPrice);
        db.NoteChange(client.Id, ChangeKind.Client, client.Id);
        await db.SaveAndNotifyAsync(stop);
        return TypedResults.Ok(await ToldAsync(client, db, time.Now(), stop));
    }

    private static async Task<ClientHoursTold> ToldAsync(Client client, AppDb db, Instant now, CancellationToken stop)
    {
        var today = now.InZone(client.DateTimeZone()).Date;
        var month = client.DateTimeZone().AtStartOfDay(new LocalDate(today.Year, today.Month, 1)).ToInstant();
        var segments = await db
            .Deliveries.Where(d => d.ClientId == client.Id && d.MadeAt >= month && d.SentAt != null)
            .SumAsync(d => d.Segments ?? 0, stop);
        return new(
            new(
                client.SendFrom,
                client.SendTo,
                client.WorkFrom,
                client.WorkTo,
                client.WorkDays,
                client.TargetSeconds / 60,
                client.Holidays,
                client.MostADay,
                client.SegmentPrice
            ),
            client.Zone,
            client.Currency,
            segments,
            [
                .. HoursLaw.Texts.Select(l => Of(l.Key, "texts", l.Value)),
                Of(null, "texts", HoursLaw.DecentTexts),
                .. HoursLaw.Calls.Select(l => Of(l.Key, "calls", l.Value)),
                Of(null, "calls", HoursLaw.DecentCalls),
            ]
        );
    }

    private static LawTold Of(string? country, string what, HoursLaw law) =>
        new(country, what, law.Name, law.Source, string.Join("; ", law.Hours.Select(Say)));

    private static string Say(OpenHours hours)
    {
        var days = hours.Days.Count == 7 ? "" : $"{hours.Days[0]} to {hours.Days[^1]} ";
        if (hours.Days.Count == 1)
            days = $"{hours.Days[0]} ";
        return string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"{days}{hours.From.Hour:00}:{hours.From.Minute:00}–{hours.To.Hour:00}:{hours.To.Minute:00}"
        );
    }
}
