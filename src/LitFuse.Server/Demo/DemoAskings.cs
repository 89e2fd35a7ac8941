using System.Globalization;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Forms;
using LitFuse.Core.Hours;
using NodaTime;

namespace LitFuse.Server.Demo;

/// <summary>One person sending one form at one moment.</summary>
public sealed record DemoAsking(DemoAsker Who, DemoForm Form, Instant At, byte[] Body);

/// <summary>Who asks when: by the hour of the week, in the client's own time.</summary>
public sealed class DemoAskings(Random chance, DemoClient client, double share)
{
    // As programs send it: dashes and accents as they are.
    private static readonly JsonSerializerOptions Readable = new(CoreJson.Options)
    {
        Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private static readonly double[] ByHour =
    [
        1,
        0.5,
        0.3,
        0.2,
        0.2,
        0.5,
        1.5,
        3,
        5,
        6,
        5,
        4.5,
        5.5,
        6,
        5.5,
        5,
        4.5,
        4,
        4.5,
        5.5,
        6,
        5,
        3.5,
        2,
    ];
    private static readonly double[] ByDay = [1.1, 1.15, 1.1, 1.05, 0.95, 0.6, 0.55];

    /// <summary>
    /// All askings of the client in the <paramref name="days"/> before <paramref name="now"/>, oldest first, and a few
    /// in the last minutes. The people are the same whenever it is: everything is drawn for everybody, and only then
    /// are those left out who would come on a quiet weekday or after now.
    /// </summary>
    public IReadOnlyList<DemoAsking> Make(Instant now, int days, IReadOnlyList<Duration> lately)
    {
        var people = new DemoPeople(chance, client.Client.Country);
        var zone = client.Client.DateTimeZone();
        var today = now.InZone(zone).Date;
        var quiet = now - (lately.Count == 0 ? Duration.FromMinutes(5) : lately.Max() + Duration.FromMinutes(2));
        var askings = lately.Select(ago => Ask(people.Next(), now - ago)).ToList();
        for (var candidates = client.People * share / (ByDay.Average() / ByDay.Max()); candidates > 0; candidates--)
        {
            var date = today.PlusDays(-chance.Next(days));
            var at = zone.Shows(date + new LocalTime(Hour(), chance.Next(60), chance.Next(60)));
            var asking = Ask(people.Next(), at);
            // One in twenty-five comes back with another question some days later.
            var again = Ask(asking.Who, at + Duration.FromHours(24 + (chance.NextDouble() * 400)));
            var (comesBack, comes) = (
                chance.NextDouble() < 0.04,
                chance.NextDouble() * ByDay.Max() < ByDay[(int)date.DayOfWeek - 1]
            );
            if (!comes || at > quiet)
                continue;
            askings.Add(asking);
            if (comesBack && again.At < quiet)
                askings.Add(again);
        }

        return [.. askings.OrderBy(a => a.At)];
    }

    private int Hour()
    {
        var pick = chance.NextDouble() * ByHour.Sum();
        return Math.Max(0, Array.FindIndex(ByHour, weight => (pick -= weight) <= 0));
    }

    private DemoAsking Ask(DemoAsker who, Instant at)
    {
        var pick = chance.NextDouble() * client.Forms.Sum(f => f.Share);
        var form = client.Forms.First(f => (pick -= f.Share) <= 0 || f == client.Forms[^1]);
        var answers = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var field in form.Fields)
        {
            var answer = Answer(field, who, at);
            if (answer is not null)
                answers[field.Name] = answer;
        }

        answers["campaign"] = form.Campaign;
        return new(who, form, at, JsonSerializer.SerializeToUtf8Bytes(answers, Readable));
    }

    private string? Answer(FormField field, DemoAsker who, Instant at) =>
        field.Name switch
        {
            "first_name" => who.First,
            "last_name" => who.Last,
            "full_name" => $"{who.First} {who.Last}",
            "email" => who.Email,
            "phone" => who.Phone,
            "company" => chance.NextDouble() < 0.8 ? who.Company : null,
            "depot_postcode" => string.Create(
                CultureInfo.InvariantCulture,
                $"QX{chance.Next(1, 20)} {chance.Next(1, 10)}ZX"
            ),
            "event_date" => (at + Duration.FromDays(chance.Next(20, 240)))
                .InUtc()
                .Date.ToString("d MMMM", CultureInfo.InvariantCulture),
            "fleet_size" => Weighted(field.Choices, [0.34, 0.33, 0.21, 0.12]),
            _ when !field.Required && chance.NextDouble() < 0.2 => null,
            _ => field.Choices.Count > 0 ? field.Choices[chance.Next(field.Choices.Count)] : null,
        };

    private string Weighted(IReadOnlyList<string> choices, double[] weights)
    {
        var pick = chance.NextDouble() * weights.Sum();
        for (var i = 0; i < weights.Length; i++)
        {
            pick -= weights[i];
            if (pick <= 0)
                return choices[i];
        }

        return choices[^1];
    }
}
