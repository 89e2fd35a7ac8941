using System.Diagnostics;
using System.Globalization;
using LitFuse.Core.Continuity;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using NodaTime;

namespace LitFuse.Bench;

/// <summary>What judging lines costs: all of a large client's, and after one change.</summary>
internal static class Lines
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 9, 41);
    private static readonly DateTimeZone London = DateTimeZoneProviders.Tzdb["Europe/London"];

    /// <summary>
    /// Prints the figures for so many forms and fuses; each fuse has six steps and is lit by 16 forms.
    /// </summary>
    public static void Run(int forms, int fuses)
    {
        var around = new FuseSurroundings(
            [.. Enumerable.Range(0, forms).Select(n => $"form-{n}")],
            [
                new("email", []),
                new("phone", []),
                new("first_name", []),
                new("fleet_size", ["1–3", "4–9", "10–24", "25+"]),
            ],
            ["#ride-desk"],
            ["imke.sandoval"],
            ["ridgeboard", "copperline", "pillarpost"]
        )
        {
            Connections =
            [
                new("chat", "ridgeboard", "Ridgeboard"),
                new("phone", "copperline", "Copperline"),
                new("mail", "pillarpost", "Pillarpost"),
            ],
        };
        var hours = new LineHours(
            new(new(8, 0), new(20, 0), OpenHours.EveryDay),
            new(new(8, 0), new(18, 0), [.. OpenHours.EveryDay.Take(5)]),
            London,
            "GB"
        );
        var definitions = Enumerable.Range(0, fuses).Select(n => Definition(n, forms)).ToList();
        FuseLine Line(int n) =>
            FuseLine.Of(IdOf(9, n), IdOf(8, n), FuseStanding.Armed, definitions[n], around, hours, Now);
        LineForm Form(int n, bool paused = false) =>
            new(IdOf(7, n), $"form-{n}", $"Form {n}", Guid.Empty, $"Source {n % 20}", "Plaza")
            {
                NeedsAccess = true,
                Access = new(AccessStanding.Whole, []),
                Standing = paused ? FormStanding.Paused : FormStanding.Receiving,
                MapVersion = 1,
                Fills = new HashSet<string>(StringComparer.Ordinal) { "email", "phone", "first_name", "fleet_size" },
                Proof = new(
                    Now - Duration.FromHours(1),
                    false,
                    Guid.Empty,
                    null,
                    1,
                    1,
                    [.. Enumerable.Range(0, fuses).Select(f => IdOf(8, f)).Take(4)]
                ),
            };

        for (var run = 0; run < 3; run++)
        {
            var watch = Stopwatch.StartNew();
            var board = new LineBoard();
            foreach (var c in around.Connections)
                board.Put(new LineConnection(c.Id, c.Name));
            for (var n = 0; n < fuses; n++)
                board.Put(Line(n));
            for (var n = 0; n < forms; n++)
                board.Put(Form(n));
            var first = board.All(Now).Count;
            var all = watch.Elapsed.TotalMilliseconds;
            string One(Action change)
            {
                var times = new List<double>();
                for (var t = 0; t < 20; t++)
                {
                    watch.Restart();
                    change();
                    board.Changed(Now);
                    times.Add(watch.Elapsed.TotalMilliseconds);
                }

                times.Sort();
                return string.Create(CultureInfo.InvariantCulture, $"{times[9]:0.00} ms (19th {times[18]:0.00})");
            }

            var turn = 0;
            var form = One(() => board.Put(Form(turn++ % forms, turn % 2 == 0)));
            var fuse = One(() => board.Put(Line(turn++ % fuses)));
            var service = One(() =>
                board.Put(new LineConnection("chat", "Ridgeboard", turn++ % 2 == 0 ? null : "Ridgeboard answered 500."))
            );
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{forms} forms, {fuses} fuses, {first} lines: read and judged {all:0} ms; after a change of a form {form}, of a fuse {fuse}, of the one connection that all go through {service}; the tenth of 20, in order of their length"
                )
            );
        }
    }

    private static FuseDefinition Definition(int n, int forms)
    {
        Step Step(string id, string kind, params (string, string)[] settings) =>
            new(
                id,
                id,
                kind,
                StepMoment.AtOnce,
                settings.ToDictionary(s => s.Item1, s => s.Item2, StringComparer.Ordinal)
            );
        var always = new Band(
            "always",
            "Always",
            new(EntryKind.Always),
            [
                Step(
                    "post",
                    StepKinds.ChannelPost,
                    ("channel", "#ride-desk"),
                    ("words", "{{ lead.first_name }} asked.")
                ),
                Step("text", StepKinds.Text, ("words", "{{ lead.first_name }}, we have it.")),
                Step("letter", StepKinds.Email, ("subject", "Yours"), ("words", "Hello {{ lead.first_name }}")),
            ]
        );
        var large = new Band(
            "large",
            "Large",
            new(EntryKind.When, new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])])),
            [
                Step("person", StepKinds.DirectPost, ("person", "imke.sandoval"), ("words", "{{ lead.fleet_size }}")),
                Step("tag", StepKinds.Tag, ("tag", "large")),
                Step("later", StepKinds.Text, ("words", "Still there, {{ lead.first_name }}?")),
            ]
        );
        return new()
        {
            Name = $"Fuse {n}",
            LitBy =
            [
                new(
                    EventKeys.Submission,
                    new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal)
                    {
                        ["form"] = [.. Enumerable.Range(0, 16).Select(k => $"form-{((n * 4) + (k * 131)) % forms}")],
                    }
                ),
            ],
            Bands = [always, large],
        };
    }

    private static Guid IdOf(int kind, int n) =>
        Guid.Parse(string.Create(CultureInfo.InvariantCulture, $"01a20fdf-0000-7000-{kind}000-{n:x12}"));
}
