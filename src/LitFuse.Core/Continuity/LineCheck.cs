using System.Globalization;
using LitFuse.Core.Drift;
using LitFuse.Core.Figures;
using LitFuse.Core.Guards;
using NodaTime;

namespace LitFuse.Core.Continuity;

/// <summary>
/// Says of one form whether its line is whole, from what is known. Each joint is judged by itself, so that a break
/// further on is told too; the first one is the first in the order in which a lead passes.
/// </summary>
public static class LineCheck
{
    /// <summary>A visit without answers now and then is a person who came by the back button; this share is not.</summary>
    private const double MostEmpty = 0.5;

    private const int LeastVisits = 4;

    /// <summary>How long a proof counts when nothing was changed.</summary>
    public static readonly Duration ProofGood = Duration.FromDays(30);

    /// <summary>Judges one line.</summary>
    /// <param name="form">The form.</param>
    /// <param name="fuses">The client's fuses that a submission on it can light, armed ones and others.</param>
    /// <param name="connections">The client's connections, by id.</param>
    /// <param name="client">The client.</param>
    /// <param name="now">The present moment.</param>
    public static FormLine Of(
        LineForm form,
        IReadOnlyList<FuseLine> fuses,
        IReadOnlyDictionary<string, LineConnection> connections,
        LineClient client,
        Instant now
    )
    {
        var making = new LineMaking(form, fuses, now);
        making.Access();
        making.Standing();
        making.Thanks();
        making.Arrivals();
        making.Map();
        making.Fields();
        making.Fuse();
        making.Services(connections);
        making.Hours(client);
        return making.Done();
    }

    /// <summary>The same line where a connection is another and nothing else: many lines hang on one.</summary>
    internal static FormLine Served(
        FormLine line,
        LineForm form,
        IReadOnlyList<FuseLine> fuses,
        IReadOnlyDictionary<string, LineConnection> connections
    )
    {
        var making = new LineMaking(form, fuses, default);
        making.Take(line, kind => kind < JointKind.Service);
        making.Services(connections);
        making.Take(line, kind => kind > JointKind.Service);
        return making.AsJudged() with { Fuses = line.Fuses, Waits = line.Waits, Lived = line.Lived };
    }

    private sealed class LineMaking(LineForm form, IReadOnlyList<FuseLine> all, Instant now)
    {
        private readonly IReadOnlyList<FuseLine> armed = all.All(f => f.Standing == FuseStanding.Armed)
            ? all
            : [.. all.Where(f => f.Standing == FuseStanding.Armed)];
        private readonly List<Joint> joints = new(10);
        private readonly List<Cut> cuts = [];

        private Mend AtSource(string words) => new(words, MendPlace.Source, form.SourceId.ToString());

        private Mend AtForm(string words, string? part = null) =>
            new(words, MendPlace.Form, form.Id.ToString(), Part: part);

        public void Access()
        {
            if (form.Refused is { } refused)
            {
                Put(
                    JointKind.Access,
                    form.Network,
                    refused.Cuts
                        ?
                        [
                            new(
                                "refused",
                                JointKind.Access,
                                $"What is sent here is refused again and again, and nothing was taken in between: {refused.Detail} If {form.Network} sends it, it does not show what it must; if not, somebody is trying the address.",
                                AtSource("See what a sender must show, and copy it there")
                            ),
                        ]
                        : [],
                    $"{Many(refused.Times, "submission was", "submissions were")} refused: {refused.Detail} Leads go on; should it go on with nothing good in between, that is a cut.",
                    form.Proof is null ? LineState.Unproven : LineState.Whole
                );
            }

            if (form is { Access: null, NeedsAccess: false })
                return;
            if (form.Access is not { } access)
            {
                Put(
                    JointKind.Access,
                    form.Network,
                    [
                        new(
                            "access",
                            JointKind.Access,
                            $"{form.Source} is not connected to {form.Network} any more.",
                            AtSource($"Connect {form.Network}")
                        ),
                    ],
                    ""
                );
                return;
            }

            var why = access.Standing switch
            {
                AccessStanding.RanOut => $"The access to {form.Network} ran out.",
                AccessStanding.TakenBack => $"The access was taken back at {form.Network}.",
                AccessStanding.Unreachable => access.Fault ?? $"{form.Network} does not answer.",
                _ => null,
            };
            var mend =
                access.Standing == AccessStanding.Unreachable
                    ? AtSource($"Look at {form.Network}, and ask again")
                    : AtSource($"Connect {form.Network} again; what came meanwhile is fetched then");
            Put(
                JointKind.Access,
                form.Network,
                why is null ? [] : [new("access." + access.Standing, JointKind.Access, why, mend)],
                $"{form.Network} lets us in."
            );
            Put(
                JointKind.Permissions,
                "permissions",
                [
                    .. (access.Missing ?? []).Select(m => new Cut(
                        "permission." + m.Name,
                        JointKind.Permissions,
                        $"“{m.Name}” was not given: {m.Without}.",
                        AtSource($"Connect {form.Network} again and leave it ticked")
                    )),
                ],
                access.Missing is null
                    ? $"{form.Network} has not been asked yet what we may do."
                    : "Every permission it needs was given.",
                access.Missing is null ? LineState.Unproven : LineState.Whole
            );
        }

        public void Standing()
        {
            var found = new List<Cut>();
            void Cut(string key, string cause, Mend mend) => found.Add(new("form." + key, JointKind.Form, cause, mend));
            switch (form.Standing)
            {
                case FormStanding.NotChosen:
                    Cut(
                        "not-chosen",
                        "The form is not chosen: what it sends is left where it is.",
                        AtSource("Choose the form")
                    );
                    break;
                case FormStanding.NotPublished:
                    Cut("not-published", "The form is being built and is not published.", AtForm("Publish it"));
                    break;
                case FormStanding.Paused:
                    Cut(
                        "paused",
                        form.Waiting > 0
                            ? $"The form is paused, and {Many(form.Waiting, "submission waits", "submissions wait")}."
                            : "The form is paused: whatever comes will wait.",
                        AtForm("Resume it; what waits goes on, in order")
                    );
                    break;
                default:
                    break;
            }

            if (form.ArchivedAt is not null)
                Cut(
                    "archived",
                    $"The form is archived at {form.Network}: nobody can fill it in.",
                    AtSource("Choose the form that took its place, or bring it back there")
                );
            if (form.AdState is "stopped")
                Cut(
                    "ad-stopped",
                    $"Its ad is stopped at {form.Network}: nobody is shown it.",
                    AtSource($"Start the ad at {form.Network}, then look again")
                );
            if (form.AdState is "waiting")
                Cut(
                    "ad-waiting",
                    $"Its ad waits for approval at {form.Network}: nobody is shown it yet.",
                    AtSource($"See to the approval at {form.Network}, then look again")
                );
            Put(
                JointKind.Form,
                "form",
                found,
                form.AdState is "running" ? "It receives, and its ad runs." : "It receives."
            );
        }

        public void Thanks()
        {
            if (form.Thanks is { } thanks)
            {
                Put(
                    JointKind.ThankYou,
                    "thank-you",
                    thanks.Fault is null
                        ? []
                        :
                        [
                            new(
                                "thank-you",
                                JointKind.ThankYou,
                                $"The address people are sent on to does not answer: it {thanks.Fault}.",
                                AtForm("Look at the address", "ways")
                            ),
                        ],
                    thanks.AskedAt is null
                        ? "Its thank-you address has not been asked yet."
                        : "Its thank-you address answers.",
                    thanks.Fault is null && thanks.AskedAt is null ? LineState.Unproven : LineState.Whole
                );
            }

            if (form.Visits is not var (with, empty))
                return;
            var bad = empty >= LeastVisits && empty >= MostEmpty * (with + empty);
            Put(
                JointKind.Visits,
                "answers",
                bad
                    ?
                    [
                        new(
                            "visits",
                            JointKind.Visits,
                            $"Visitors are sent through without their answers: {empty} of {with + empty} this week.",
                            AtForm("See how the form must send them", "ways")
                        ),
                    ]
                    : [],
                with == 0 ? "Nobody has been sent through yet." : "Visitors bring their answers.",
                with == 0 ? LineState.Unproven : LineState.Whole
            );
        }

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
            {
                var (fuse, first) = need.First();
                var who =
                    need.Count() == 1
                        ? $"“{first.StepName}” of “{fuse.Name}”"
                        : $"“{first.StepName}” of “{fuse.Name}”, and {Many(need.Count() - 1, "other step", "other steps")},";
                var words = Guard.FieldWords(need.Key);
                var drift = DriftOf(need.Key);
                if (!form.Fills.Contains(need.Key))
                    found.Add(
                        new(
                            "field." + need.Key,
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
                else if (form.Filled[need.Key] is var filled && filled.Stopped)
                    found.Add(
                        new(
                            "field." + need.Key,
                            JointKind.Fields,
                            $"{Capital(words)} was empty in the last {(filled.Times == 0 ? filled.Of : filled.EmptyLately)} submissions, and {who} {first.Why}.",
                            new("Look at the map", MendPlace.Map, form.Id.ToString())
                        )
                    );
                else
                    rare.Add(
                        string.Create(
                            CultureInfo.InvariantCulture,
                            $"{words} in {100.0 * filled.Times / filled.Of:0} %"
                        )
                    );
            }

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
                            $"“{value}” is no choice of {Guard.FieldWords(ask.Field)} any more, and “{ask.Band}” of “{fuse.Name}” waits for it.",
                            new("Change the rule of the band", MendPlace.Fuse, fuse.Id.ToString(), Part: ask.BandId)
                        )
                    );
                }
            }

            Put(
                JointKind.Fields,
                "fields",
                found,
                rare.Count == 0
                    ? "What the steps need is mapped."
                    : $"What the steps need is mapped, and filled seldom: {string.Join(", ", rare)}."
            );
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
                : now - proof.At > ProofGood ? $"It is more than {ProofGood.Days} days since {kind} went all the way."
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
    }

    private static string Many(int count, string one, string several) =>
        string.Create(CultureInfo.InvariantCulture, $"{count} {(count == 1 ? one : several)}");

    private static string Capital(string words) => char.ToUpperInvariant(words[0]) + words[1..];
}
