using System.Globalization;
using LitFuse.Core.Drift;
using LitFuse.Core.Fields;
using LitFuse.Core.Figures;
using LitFuse.Core.Guards;
using NodaTime;

namespace LitFuse.Core.Continuity;

internal sealed partial class LineMaking(LineForm form, IReadOnlyList<FuseLine> all, Instant now)
{
    /// <summary>
    /// A visit without answers now and then is a person who came by the back button; this share is not.
    /// </summary>
    private const double MostEmpty = 0.5;

    private const int LeastVisits = 4;

    private readonly IReadOnlyList<FuseLine> armed = all.All(f => f.Standing == FuseStanding.Armed)
        ? all
        : [.. all.Where(f => f.Standing == FuseStanding.Armed)];
    private readonly List<Joint> joints = new(10);
    private readonly List<Cut> cuts = [];

    private Mend AtSource(string words) => new(words, MendPlace.Source, form.SourceId.ToString());

    private Mend AtForm(string words, string? part = null) =>
        new(words, MendPlace.Form, form.Id.ToString(), Part: part);

    public void Arrivals()
    {
        var found = new List<Cut>();
        if (form.Missing > 0)
            found.Add(
                new(
                    "missing",
                    JointKind.Arrivals,
                    $"{form.Network} has {Many(form.Missing, "submission", "submissions")} that we have not.",
                    AtSource("Compare with its own list now")
                )
            );
        if (form.Silent is { } silent)
            found.Add(
                new(
                    "silent",
                    JointKind.Arrivals,
                    silent,
                    AtForm("Prove the line, or look at the form where it stands", "prove")
                )
            );
        if (found.Count > 0)
            Put(JointKind.Arrivals, "arrivals", found, "");
    }

    public void Map()
    {
        var mend = new Mend("Look at the map and confirm", MendPlace.Map, form.Id.ToString());
        Put(
            JointKind.Map,
            "map",
            form.MapVersion is not null
                ? []
                :
                [
                    new(
                        "map",
                        JointKind.Map,
                        form.Waiting > 0
                            ? $"Nobody has confirmed the map, and {Many(form.Waiting, "submission waits", "submissions wait")}."
                            : "Nobody has confirmed the map: whatever comes will wait.",
                        mend
                    ),
                ],
            form.MapVersion is { } version
                ? string.Create(CultureInfo.InvariantCulture, $"Version {version} is confirmed.")
                : ""
        );
    }

    public void Fields()
    {
        // Without a map nothing is filled, and that is said already.
        if (form.MapVersion is null)
            return;
        var found = new List<Cut>();
        var rare = new List<string>();
        foreach (
            var need in armed
                .SelectMany(f => f.Needs.Where(Doubtful).Select(n => (Fuse: f, Need: n)))
                .GroupBy(n => n.Need.Field, StringComparer.Ordinal)
        )
            OfNeed(need.Key, [.. need], found, rare);
        OfAsks(found);
        Put(
            JointKind.Fields,
            "fields",
            found,
            rare.Count == 0
                ? "What the steps need is mapped."
                : $"What the steps need is mapped, and filled seldom: {string.Join(", ", rare)}."
        );
    }

    // What a step needs, and where it has none.
    private void OfNeed(
        string field,
        IReadOnlyList<(FuseLine Fuse, FieldNeed Need)> needs,
        List<Cut> found,
        List<string> rare
    )
    {
        var (fuse, first) = needs[0];
        var who =
            needs.Count == 1
                ? $"“{first.StepName}” of “{fuse.Name}”"
                : $"“{first.StepName}” of “{fuse.Name}”, and {Many(needs.Count - 1, "other step", "other steps")},";
        var words = LeadField.WordsOf(field);
        var drift = DriftOf(field);
        if (!form.Fills.Contains(field))
            found.Add(
                new(
                    "field." + field,
                    JointKind.Fields,
                    $"No field goes to {words}, and {who} {first.Why}.",
                    new("Map a field to it, or give the step a condition", MendPlace.Map, form.Id.ToString())
                )
            );
        else if (drift is not null)
            found.Add(
                new(
                    $"drift.{drift.Key}",
                    JointKind.Fields,
                    $"{drift.Words.TrimEnd('.')}; {who} {first.Why}.",
                    AtForm(drift.Mend, "drift")
                )
            );
        else if (form.Filled[field] is var filled && filled.Stopped)
            found.Add(
                new(
                    "field." + field,
                    JointKind.Fields,
                    $"{Capital(words)} was empty in the last {(filled.Times == 0 ? filled.Of : filled.EmptyLately)} submissions, and {who} {first.Why}.",
                    new("Look at the map", MendPlace.Map, form.Id.ToString())
                )
            );
        else
            rare.Add(string.Create(CultureInfo.InvariantCulture, $"{words} in {100.0 * filled.Times / filled.Of:0} %"));
    }

    // What a band waits for, and no form offers any more.
    private void OfAsks(List<Cut> found)
    {
        foreach (var (fuse, ask) in armed.SelectMany(f => f.Asks.Select(a => (Fuse: f, Ask: a))))
        {
            if (!form.Offers.TryGetValue(ask.Field, out var offered) || offered.Count == 0)
                continue;
            foreach (var value in ask.Values.Where(v => !offered.Any(o => Guard.Same(o, v))))
            {
                found.Add(
                    new(
                        $"value.{fuse.Id:N}.{ask.BandId}.{value}",
                        JointKind.Fields,
                        $"“{value}” is no choice of {LeadField.WordsOf(ask.Field)} any more, and “{ask.Band}” of “{fuse.Name}” waits for it.",
                        new("Change the rule of the band", MendPlace.Fuse, fuse.Id.ToString(), Part: ask.BandId)
                    )
                );
            }
        }
    }

    // Most needs are met, on most lines: those are passed over before a word is made.
    private bool Doubtful(FieldNeed need) =>
        !form.Fills.Contains(need.Field)
        || DriftOf(need.Field) is not null
        || (
            form.Filled.TryGetValue(need.Field, out var filled)
            && (filled.Stopped || (filled.Of >= Filled.Least && filled.Times * 2 < filled.Of))
        );

    private DriftFinding? DriftOf(string field)
    {
        foreach (var drift in form.Drift)
            if (drift.LeadField == field && drift.Kind is not (DriftKind.Fresh or DriftKind.Choices))
                return drift;
        return null;
    }

    public void Fuse()
    {
        if (armed.Count > 0)
        {
            Put(
                JointKind.Fuse,
                "fuse",
                [],
                armed.Count == 1 ? $"It lights “{armed[0].Name}”." : $"It lights {armed.Count} fuses."
            );
            return;
        }

        // One that any form lights was made for none in particular: whoever disarmed it did not mean each of them.
        var other = all.Where(f => !f.ByAnyForm)
            .OrderByDescending(f => f.Standing == FuseStanding.Disarmed)
            .FirstOrDefault();
        var cause =
            other is null ? "No fuse is lit by it: nothing happens when somebody sends it."
            : other.Standing == FuseStanding.Draft ? $"No armed fuse is lit by it: “{other.Name}” is a draft."
            : $"No armed fuse is lit by it: “{other.Name}” is disarmed.";
        Put(
            JointKind.Fuse,
            "fuse",
            [
                new(
                    "fuse",
                    JointKind.Fuse,
                    cause,
                    other is null
                        ? new("Make a fuse for it", MendPlace.NewFuse, form.Key)
                        : new($"Arm “{other.Name}”", MendPlace.Fuse, other.Id.ToString())
                ),
            ],
            ""
        );
    }

    public void Services(IReadOnlyDictionary<string, LineConnection> connections)
    {
        var services = new List<(FuseService Service, List<Cut> Cuts)>(4);
        foreach (var fuse in armed)
        {
            foreach (var service in fuse.Services)
            {
                var place = services.FindIndex(a => a.Service.Name == service.Name);
                if (place < 0)
                {
                    place = services.Count;
                    services.Add((service, []));
                }

                // A service that is down is one cut, however many steps go through it.
                var known = services[place].Cuts;
                foreach (var through in service.Connections)
                    if (connections.TryGetValue(through, out var connection))
                        Add(known, connection.Cuts);
                Add(known, service.Cuts);
            }
        }

        foreach (var (service, found) in services)
            Put(JointKind.Service, service.Name, found, service.Whole);
    }

    private static void Add(List<Cut> known, IReadOnlyList<Cut> more)
    {
        foreach (var cut in more)
            if (!known.Exists(k => k.Key == cut.Key))
                known.Add(cut);
    }

    public void Hours(LineClient client)
    {
        var found = new List<Cut>();
        if (client.HeldAt is not null)
            found.Add(
                new(
                    "held",
                    JointKind.Hours,
                    $"Everything is held for {client.Name}{(client.HeldBy is { } by ? $", by {by}" : "")}: nothing goes out.",
                    new("Let it go on", MendPlace.Held)
                )
            );
        foreach (var cut in armed.SelectMany(f => f.ShutHours))
            found.Add(cut);
        if (armed.Count > 0 || found.Count > 0)
            Put(JointKind.Hours, "hours", found, "The hours it keeps open some time.");
    }

    public FormLine Done()
    {
        var proof = ProofOf(out var words);
        joints.Add(new(JointKind.Proof, "proof", proof, words));
        return AsJudged() with { Fuses = [.. armed.Select(f => f.Id)], Waits = Waits(), Lived = form.Lived };
    }

    private IReadOnlyList<FieldWait> Waits()
    {
        var lost = form
            .Drift.Where(d => d.Lost && DriftOf(d.LeadField ?? "") == d)
            .Select(d => d.LeadField!)
            .ToHashSet(StringComparer.Ordinal);
        return lost.Count == 0 || form.MapVersion is null ? [] : FieldWait.Of(lost, armed.SelectMany(f => f.Needs));
    }

    // What is cut proves nothing; what only was not shown yet does not cut.
    public FormLine AsJudged() =>
        new(
            form.Id,
            cuts.Count > 0 ? LineState.Cut
                : joints[^1].State == LineState.Unproven ? LineState.Unproven
                : LineState.Whole,
            joints,
            cuts
        );

    public void Take(FormLine line, Func<JointKind, bool> of)
    {
        foreach (var joint in line.Joints)
            if (of(joint.Kind))
                joints.Add(joint);
        foreach (var cut in line.Cuts)
            if (of(cut.Joint))
                cuts.Add(cut);
    }

    private LineState ProofOf(out string words)
    {
        if (form.Proof is not { } proof)
        {
            words = "No lead has gone all the way yet.";
            return LineState.Unproven;
        }

        var kind = proof.Test ? "a test" : "a lead";
        var versions = armed.Select(f => f.VersionId).OfType<Guid>().ToList();
        words =
            proof.MapVersion != form.MapVersion ? $"The map was changed since {kind} last went all the way."
            : versions.Count > 0 && !versions.Exists(proof.Versions.Contains)
                ? $"The fuse was changed since {kind} last went all the way."
            : form.MendedAt > proof.At ? $"It was mended since {kind} last went all the way."
            : now - proof.At > LineCheck.ProofGood
                ? $"It is more than {LineCheck.ProofGood.Days} days since {kind} went all the way."
            : "";
        if (words.Length > 0)
            return LineState.Unproven;
        words =
            $"{Capital(kind)} went all the way{(proof.NetworkSeconds is { } network ? $": {Spans.Say(Duration.FromSeconds(network))} at the network, {Spans.Say(Duration.FromSeconds(proof.OurSeconds))} with us" : $" in {Spans.Say(Duration.FromSeconds(proof.OurSeconds))}")}.";
        return LineState.Whole;
    }

    private void Put(
        JointKind kind,
        string name,
        IReadOnlyList<Cut> found,
        string whole,
        LineState otherwise = LineState.Whole
    )
    {
        joints.Add(
            new(kind, name, found.Count > 0 ? LineState.Cut : otherwise, found.Count > 0 ? found[0].Cause : whole)
        );
        cuts.AddRange(found);
    }

    private static string Many(int count, string one, string several) =>
        string.Create(CultureInfo.InvariantCulture, $"{count} {(count == 1 ? one : several)}");

    private static string Capital(string words) => char.ToUpperInvariant(words[0]) + words[1..];
}
