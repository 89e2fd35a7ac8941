using System.Diagnostics;
using System.Globalization;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Hours;
using LitFuse.Core.Kits;
using LitFuse.Core.Words;
using NodaTime;

namespace LitFuse.Bench;

/// <summary>What one decision costs, early and late in a burn that hears ten thousand events.</summary>
public static class DecideCost
{
    private const int Events = 10_000;
    private const int Window = 100;

    /// <summary>Measures, and prints the median of several burns.</summary>
    public static void Run()
    {
        var fuse = CompiledFuse.From(
            StarterKits.Find("pick-a-slot")!.Build(new(["f"], [], ["#ride-desk"], ["imke.sandoval"], [], []))
        );
        Live(fuse); // the runtime compiles meanwhile
        var lives = Enumerable.Range(0, 7).Select(_ => Live(fuse)).ToList();
        double Median(Func<(double Early, double Late, int Bytes), double> of) =>
            lives.Select(of).Order().ElementAt(lives.Count / 2);
        var (early, late) = (Median(l => l.Early), Median(l => l.Late));
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"deciding: {early:0.0} µs an event from the 10th on, {late:0.0} µs to the 10,000th: {late / early:0.00} of it; the state is {lives[0].Bytes} bytes of JSON"
            )
        );
    }

    private static (double Early, double Late, int Bytes) Live(CompiledFuse fuse)
    {
        var now = Instant.FromUtc(2026, 11, 24, 12, 0);
        var zone = DateTimeZoneProviders.Tzdb["Europe/London"];
        var fields = new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["first_name"] = "Ines",
            ["name"] = "Ines Calloway",
            ["link"] = "x",
        };
        var lead = new LeadFacts(
            fields,
            new WordFacts(fields, fields, fields, [new("How many bikes?", "25+")]),
            true,
            false,
            zone,
            new OpenHours(new(0, 0), new(23, 59), OpenHours.EveryDay)
        )
        {
            HasEmail = true,
        };
        var state = BurnState.New(Guid.Parse("01a20fdf-9ae5-78c5-bc7b-b98a165a069e"), now, now);
        double early = 0,
            late = 0;
        void Decide(BurnEvent what) => state = Decider.Decide(fuse, state, what, lead, now).State;
        Decide(new BurnEvent.Lit());
        for (var n = 0; n < Events; n++)
        {
            now += Duration.FromSeconds(1);
            var began = Stopwatch.GetTimestamp();
            Decide(
                new BurnEvent.Happened(
                    LeadEvent.Of(EventKeys.Replied, now, "they replied", ("text", "How much is it?")) with
                    {
                        Key = string.Create(CultureInfo.InvariantCulture, $"text-{n}"),
                    }
                )
            );
            foreach (var sent in state.Steps.Where(s => s.Status == StepStatus.Sent).ToList())
                Decide(new BurnEvent.StepEnded(sent.StepId, StepStatus.Done, "took it"));
            var took = Stopwatch.GetElapsedTime(began).TotalMicroseconds;
            if (n is >= 10 and < 10 + Window)
                early += took / Window;
            if (n >= Events - Window)
                late += took / Window;
        }

        return (early, late, System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(state, Core.CoreJson.Options).Length);
    }
}
