using System.Diagnostics;
using System.Globalization;
using LitFuse.Core.Fields;
using LitFuse.Core.Identity;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;

namespace LitFuse.Bench;

/// <summary>Normalise, map and match, on one core.</summary>
public static class Throughput
{
    /// <summary>Runs it for so many seconds and prints the rate.</summary>
    public static void Run(double seconds)
    {
        var random = new Random(7);
        var submissions = Enumerable
            .Range(0, 20_000)
            .Select(i =>
                Payload
                    .FromPairs(
                        new Dictionary<string, string>(StringComparer.Ordinal)
                        {
                            ["name"] = (i % 3) switch
                            {
                                0 => "Ines van der Calloway",
                                1 => "Dr. Bram Tillotson",
                                _ => "Perpetua Lindqvist",
                            },
                            ["email"] = string.Create(CultureInfo.InvariantCulture, $" Person{i % 9000}@Example.com"),
                            ["phone"] = (i % 4) switch
                            {
                                0 => string.Create(CultureInfo.InvariantCulture, $"07700 900{random.Next(1000):000}"),
                                1 => string.Create(
                                    CultureInfo.InvariantCulture,
                                    $"+44 113 496 0{random.Next(1000):000}"
                                ),
                                2 => string.Create(CultureInfo.InvariantCulture, $"(416) 555-01{random.Next(100):00}"),
                                _ => string.Create(
                                    CultureInfo.InvariantCulture,
                                    $"+49 30 {random.Next(1000000, 9999999)}"
                                ),
                            },
                            ["fleet size"] = "10-24",
                            ["start"] = "14/3/2027",
                            ["budget"] = "£1,200",
                            ["notes"] = "We run parcels out of two depots and would like to try a bike for a week.",
                            ["utm_campaign"] = "spring",
                        }
                    )
                    .Answers
            )
            .ToList();
        var own = new LeadField[]
        {
            new("fleet_size", "Fleet size", LeadFieldType.Choice, ["1–3", "4–9", "10–24", "25+"]),
            new("start", "Start", LeadFieldType.Date, []),
            new("budget", "Budget", LeadFieldType.Money, []),
        };
        var map = CompiledMap.From(
            new([
                new("name", "full_name"),
                new("email", "email"),
                new("phone", "phone"),
                new("fleet size", "fleet_size"),
                new("start", "start"),
                new("budget", "budget"),
                new("notes", "message"),
            ]),
            "GB",
            own
        );
        PersonSketch Nobody = new(null, null, null);
        var known = new Dictionary<ContactKey, string>();
        for (var round = 0; round < 2; round++)
        {
            var (done, clock) = (0, Stopwatch.StartNew());
            while (clock.Elapsed.TotalSeconds < (round == 0 ? Math.Min(2, seconds) : seconds))
            {
                foreach (var answers in submissions)
                {
                    var mapped = map.Read(answers);
                    var match = LeadMatcher.Match<string>(
                        mapped.Keys(),
                        new(
                            mapped.Values.GetValueOrDefault("first_name"),
                            mapped.Values.GetValueOrDefault("last_name"),
                            mapped.Email
                        ),
                        k => known.TryGetValue(k, out var lead) ? [lead] : [],
                        _ => Nobody
                    );
                    foreach (var key in match.NewKeys)
                        known[key] = match.Lead ?? "lead";
                    done++;
                }
            }

            var rate = done / clock.Elapsed.TotalSeconds;
            if (round == 1)
                Console.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"normalise, map and match: {rate:0}/s on one core ({1e6 / rate:0.0} µs each), {Hashes():0}/s SHA-256 of 1 KB beside it: {rate / Hashes():0.000} of that"
                    )
                );
        }
    }

    // The baseline of the same minute: what this machine does of something everybody knows.
    private static double Hashes()
    {
        var block = new byte[1024];
        var (done, clock) = (0, Stopwatch.StartNew());
        while (clock.Elapsed.TotalSeconds < 1)
        {
            for (var i = 0; i < 1000; i++)
                System.Security.Cryptography.SHA256.HashData(block);
            done += 1000;
        }

        return done / clock.Elapsed.TotalSeconds;
    }
}
