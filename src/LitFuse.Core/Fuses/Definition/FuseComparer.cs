using System.Globalization;
using LitFuse.Core.Guards;

namespace LitFuse.Core.Fuses.Definition;

/// <summary>How two versions of a fuse differ in one place.</summary>
/// <param name="BandId">In which band; <c>null</c> for the fuse itself.</param>
/// <param name="StepId">At which step; <c>null</c> for the band itself.</param>
/// <param name="Where">The place in words: <c>“Text them”</c>.</param>
/// <param name="What">What of it: <c>words</c>, <c>when it is done</c>; <c>null</c> where it is there only in one of
/// them.</param>
/// <param name="Before">As it was; <c>null</c> where it was not there.</param>
/// <param name="After">As it is; <c>null</c> where it is not there any more.</param>
public sealed record FuseDifference(
    string? BandId,
    string? StepId,
    string Where,
    string? What,
    string? Before,
    string? After
);

/// <summary>
/// Compares two versions of a fuse by what they do, place by place, in the order in which they are read.
/// </summary>
public static class FuseComparer
{
    /// <summary>
    /// Compares. Bands and steps are the same where their ids are; a step may have moved to another band.
    /// </summary>
    public static IReadOnlyList<FuseDifference> Compare(
        FuseDefinition before,
        FuseDefinition after,
        StepCatalog catalog,
        EventCatalog events
    )
    {
        var found = new List<FuseDifference>();
        void Add(string? band, string? step, string where, string? what, string? was, string? now)
        {
            if (was != now)
                found.Add(new(band, step, where, what, was, now));
        }

        OfItself(before, after, events, (what, was, now) => Add(null, null, "The fuse", what, was, now));
        OfBands(before, after, catalog, Add);
        return found;
    }

    private static void OfItself(
        FuseDefinition before,
        FuseDefinition after,
        EventCatalog events,
        Action<string, string?, string?> add
    )
    {
        add("name", before.Name, after.Name);
        add(
            "what lights it",
            Said(before.LitBy.Select(l => FuseSentence.SayLitBy(l, events))),
            Said(after.LitBy.Select(l => FuseSentence.SayLitBy(l, events)))
        );
        add("relighting", Relit(before), Relit(after));
        add(
            "what stops it",
            Said(before.StopOn.Select(s => Stopped(s, events))),
            Said(after.StopOn.Select(s => Stopped(s, events)))
        );
        add("age limit", Hours(before.AgeLimitHours), Hours(after.AgeLimitHours));
        add("how long it listens", Days(before.HearsForDays), Days(after.HearsForDays));
        add("bands whose rules hold", Chosen(before.BandChoice), Chosen(after.BandChoice));
        var (orderBefore, orderAfter) = Order(before, after);
        add("order of bands", orderBefore, orderAfter);
    }

    private static void OfBands(
        FuseDefinition before,
        FuseDefinition after,
        StepCatalog catalog,
        Action<string?, string?, string, string?, string?, string?> add
    )
    {
        string Placed(Step step, Band band) => $"{KindOf(step, catalog)} {step.Moment.Say()}, in “{band.Name}”";
        var stepsBefore = before
            .Bands.SelectMany(b => b.Steps.Select(s => (Band: b, Step: s)))
            .GroupBy(s => s.Step.Id, StringComparer.Ordinal)
            .ToDictionary(s => s.Key, s => s.First(), StringComparer.Ordinal);
        var stepsAfter = after.Bands.SelectMany(b => b.Steps).Select(s => s.Id).ToHashSet(StringComparer.Ordinal);
        foreach (var band in after.Bands)
        {
            var was = before.Bands.FirstOrDefault(b => b.Id == band.Id);
            var where = $"“{band.Name}”";
            if (was is null)
            {
                add(band.Id, null, where, null, null, FuseSentence.SayEntry(band.Entry, after));
            }
            else
            {
                add(band.Id, null, where, "name", was.Name, band.Name);
                add(
                    band.Id,
                    null,
                    where,
                    "when it is entered",
                    FuseSentence.SayEntry(was.Entry, before),
                    FuseSentence.SayEntry(band.Entry, after)
                );
                add(band.Id, null, where, "how often it is entered", Often(was), Often(band));
            }

            foreach (var step in band.Steps)
            {
                if (stepsBefore.TryGetValue(step.Id, out var old))
                    OfStep((before, old.Band, old.Step), (after, band, step), catalog, add);
                else
                    add(band.Id, step.Id, $"“{step.Name}”", null, null, Placed(step, band));
            }

            foreach (var step in was?.Steps.Where(s => !stepsAfter.Contains(s.Id)) ?? [])
                add(band.Id, null, $"“{step.Name}”", null, Placed(step, was!), null);
        }

        foreach (var gone in before.Bands.Where(b => after.Bands.All(x => x.Id != b.Id)))
        {
            add(null, null, $"“{gone.Name}”", null, FuseSentence.SayEntry(gone.Entry, before), null);
            foreach (var step in gone.Steps.Where(s => !stepsAfter.Contains(s.Id)))
                add(null, null, $"“{step.Name}”", null, Placed(step, gone), null);
        }
    }

    private static void OfStep(
        (FuseDefinition Fuse, Band Band, Step Step) was,
        (FuseDefinition Fuse, Band Band, Step Step) now,
        StepCatalog catalog,
        Action<string?, string?, string, string?, string?, string?> add
    )
    {
        var (before, step) = (was.Step, now.Step);
        var where = $"“{step.Name}”";
        void Add(string what, string? from, string? to) => add(now.Band.Id, step.Id, where, what, from, to);
        Add("name", before.Name, step.Name);
        if (was.Band.Id != now.Band.Id)
            Add("band", was.Band.Name, now.Band.Name);
        Add("kind", KindOf(before, catalog), KindOf(step, catalog));
        Add("when it is done", before.Moment.Say(), step.Moment.Say());
        Add(
            "condition",
            before.When is null ? null : Guard.Say(before.When),
            step.When is null ? null : Guard.Say(step.When)
        );
        Add("hours", Printed(before.Hours), Printed(step.Hours));
        Add("when it fails", Printed(before.OnFailure, was.Fuse), Printed(step.OnFailure, now.Fuse));
        Add("choices", Said(before.Choices ?? []), Said(step.Choices ?? []));
        Add("words ready for use", Printed(before.Ready), Printed(step.Ready));
        var labels = catalog.Find(step.Kind)?.Settings.ToDictionary(s => s.Key, s => s.Label, StringComparer.Ordinal)
            ?? [];
        foreach (var key in before.Settings.Keys.Union(step.Settings.Keys, StringComparer.Ordinal))
        {
            Add(
                labels.GetValueOrDefault(key, key.Split('.')[^1].Replace('_', ' ')).ToLowerInvariant(),
                Filled(before.Settings.GetValueOrDefault(key)),
                Filled(step.Settings.GetValueOrDefault(key))
            );
        }
    }

    // Only bands that both have can change places.
    private static (string? Before, string? After) Order(FuseDefinition before, FuseDefinition after)
    {
        static List<Band> Shared(FuseDefinition of, FuseDefinition other) =>
            [.. of.Bands.Where(b => other.Bands.Any(o => o.Id == b.Id))];
        static string Names(List<Band> bands) => string.Join(", ", bands.Select(b => b.Name));
        var (was, now) = (Shared(before, after), Shared(after, before));
        return was.Select(b => b.Id).SequenceEqual(now.Select(b => b.Id)) ? (null, null) : (Names(was), Names(now));
    }

    private static string? Said(IEnumerable<string> parts) =>
        string.Join("; ", parts) is { Length: > 0 } said ? said : null;

    private static string? Filled(string? text) => string.IsNullOrEmpty(text) ? null : text;

    private static string Stopped(StopRule rule, EventCatalog events) =>
        FuseSentence.SayLitBy(new(rule.Event, rule.Only), events);

    private static string Relit(FuseDefinition fuse) =>
        fuse.Relight switch
        {
            Relight.Always => "each time",
            Relight.Once => "never again",
            Relight.OnceInDays => string.Create(CultureInfo.InvariantCulture, $"once in {fuse.RelightDays} days"),
            _ => "only when the last has ended",
        };

    private static string Hours(int hours) => string.Create(CultureInfo.InvariantCulture, $"{hours} h");

    private static string Days(int days) => string.Create(CultureInfo.InvariantCulture, $"{days} days");

    private static string Chosen(BandChoice choice) =>
        choice == BandChoice.First ? "only the first is entered" : "all are entered";

    private static string Often(Band band) => band.EachTime ? "each time" : "once";

    private static string KindOf(Step step, StepCatalog catalog) => catalog.Find(step.Kind)?.Label ?? step.Kind;

    private static string? Printed(StepHours? hours) =>
        hours is null
            ? null
            : (hours.Kind, hours.Outside) switch
            {
                (HoursKind.None, _) => "at any hour",
                (HoursKind.Own, var outside) => $"{hours.From}–{hours.To}{Days(hours.Weekdays)}{Outside(outside)}",
                (HoursKind.Working, var outside) => $"in working hours{Outside(outside)}",
                (_, var outside) => $"in send hours{Outside(outside)}",
            };

    private static string? Printed(ReadyWordsUsed? ready) =>
        ready is null
            ? null
            : string.Create(CultureInfo.InvariantCulture, $"{ready.Key.Replace('_', ' ')}, version {ready.Version}");

    private static string Days(IReadOnlyList<int>? weekdays) =>
        weekdays is { Count: > 0 } ? " on " + string.Join(", ", weekdays.Select(d => (NodaTime.IsoDayOfWeek)d)) : "";

    private static string Outside(OutsideHours outside) =>
        outside switch
        {
            OutsideHours.Skip => ", else left out",
            OutsideHours.Send => ", or all the same",
            _ => "",
        };

    private static string? Printed(StepFailure? failure, FuseDefinition fuse) =>
        failure is null
            ? null
            : $"tried {failure.Retry.ToString().ToLowerInvariant()}, then {failure.Next switch
    {
        FailureThen.Stop => "the fuse stops",
        FailureThen.Tell => $"{(failure.Person is null or "owner" ? "the owner" : failure.Person)} is told",
        FailureThen.Instead => $"“{fuse.Bands.SelectMany(b => b.Steps).FirstOrDefault(s => s.Id == failure.Step)?.Name ?? "a step"}” is done instead",
        _ => "the others go on",
    }}";
}
