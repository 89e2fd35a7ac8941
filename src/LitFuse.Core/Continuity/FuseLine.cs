using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Hours;
using LitFuse.Core.Words;
using NodaTime;

namespace LitFuse.Core.Continuity;

/// <summary>Whether a fuse is armed.</summary>
public enum FuseStanding
{
    Armed,
    Draft,
    Disarmed,
}

/// <summary>A lead field that a step cannot do without.</summary>
/// <param name="Field">The lead field's key.</param>
/// <param name="StepId">The step.</param>
/// <param name="StepName">As people call it.</param>
/// <param name="Why">What it is needed for, as in <c>goes to their phone</c>.</param>
/// <param name="AtOnce">The rules under which a submission comes to the step with nothing else happening; <c>null</c>:
/// it comes there later only.</param>
/// <param name="Unless">Rules of other bands, each of which keeps a submission from this one.</param>
public sealed record FieldNeed(
    string Field,
    string StepId,
    string StepName,
    string Why,
    IReadOnlyList<RuleSet>? AtOnce,
    IReadOnlyList<RuleSet> Unless
);

/// <summary>Values that a band waits for.</summary>
/// <param name="Field">The lead field's key.</param>
/// <param name="Band">As people call it.</param>
public sealed record ValueAsk(string Field, IReadOnlyList<string> Values, string BandId, string Band);

/// <summary>A service that steps of a fuse go through, and what is wrong with the steps.</summary>
/// <param name="Name">As people call it.</param>
/// <param name="Connections">Ids of the connections that they go through; none where it is Lit Fuse itself, or nothing
/// is connected.</param>
/// <param name="Cuts">In the order of the steps.</param>
public sealed record FuseService(string Name, IReadOnlyList<string> Connections, IReadOnlyList<Cut> Cuts)
{
    internal string Whole { get; } = $"{Name} is reached, and what is sent there is complete.";
}

/// <summary>A connection, as lines hang on it.</summary>
/// <param name="Fault">Why nothing gets through it, or <c>null</c>.</param>
/// <param name="Paused">Somebody has paused it.</param>
public sealed record LineConnection(string Id, string Name, string? Fault = null, bool Paused = false)
{
    /// <summary>What is cut by it.</summary>
    internal IReadOnlyList<Cut> Cuts =>
        Fault is null && !Paused
            ? []
            :
            [
                .. Fault is null
                    ? Array.Empty<Cut>()
                    :
                    [
                        new(
                            $"connection.{Id}",
                            JointKind.Service,
                            Fault,
                            new($"Look at {Name}", MendPlace.Connection, Id)
                        ),
                    ],
                .. Paused
                    ?
                    [
                        new(
                            $"paused.{Id}",
                            JointKind.Service,
                            $"{Name} is paused: what is to go through it waits.",
                            new($"Resume {Name}", MendPlace.Connection, Id)
                        ),
                    ]
                    : Array.Empty<Cut>(),
            ];
}

/// <summary>The hours that a fuse's client keeps.</summary>
public sealed record LineHours(OpenHours Send, OpenHours Work, DateTimeZone Zone, string Country);

/// <summary>What of a fuse lines depend on, read once and used for every form that lights it.</summary>
/// <param name="Id">The fuse.</param>
/// <param name="VersionId">The version: the armed one, where it is armed.</param>
/// <param name="Name">As people call it.</param>
/// <param name="Standing">Whether it is armed.</param>
public sealed record FuseLine(Guid Id, Guid? VersionId, string Name, FuseStanding Standing)
{
    /// <summary>Keys of forms that light it.</summary>
    public IReadOnlySet<string> Forms { get; private init; } = new HashSet<string>(StringComparer.Ordinal);

    /// <summary>Names of sources all of whose forms light it.</summary>
    public IReadOnlySet<string> Sources { get; private init; } = new HashSet<string>(StringComparer.Ordinal);

    /// <summary>Any form lights it.</summary>
    public bool ByAnyForm { get; private init; }

    /// <summary>Fields that its steps cannot do without.</summary>
    public IReadOnlyList<FieldNeed> Needs { get; private init; } = [];

    /// <summary>
    /// Values that its bands wait for; only of a fuse that one form alone lights, as another form may offer others.
    /// </summary>
    public IReadOnlyList<ValueAsk> Asks { get; private init; } = [];

    /// <summary>The services that its steps go through, in their order.</summary>
    public IReadOnlyList<FuseService> Services { get; private init; } = [];

    /// <summary>Hours that never open.</summary>
    public IReadOnlyList<Cut> ShutHours { get; private init; } = [];

    /// <summary>True when a submission on this form can light it.</summary>
    public bool LitBy(LineForm form) => ByAnyForm || Forms.Contains(form.Key) || Sources.Contains(form.Source);

    /// <summary>Reads a fuse.</summary>
    /// <param name="id">The fuse.</param>
    /// <param name="versionId">The version read.</param>
    /// <param name="standing">Whether it is armed.</param>
    /// <param name="fuse">The version.</param>
    /// <param name="around">What it can refer to, as it is now.</param>
    /// <param name="hours">The client's hours.</param>
    /// <param name="now">The present moment.</param>
    public static FuseLine Of(
        Guid id,
        Guid? versionId,
        FuseStanding standing,
        FuseDefinition fuse,
        FuseSurroundings around,
        LineHours hours,
        Instant now
    )
    {
        var places = fuse
            .LitBy.Where(w =>
                w.Event is EventKeys.Submission or EventKeys.LeadMade or EventKeys.Approved or EventKeys.OptInConfirmed
            )
            .ToList();
        IEnumerable<string> Named(string detail) => places.SelectMany(w => w.Only?.GetValueOrDefault(detail) ?? []);
        var line = new FuseLine(id, versionId, fuse.Name, standing)
        {
            Forms = Named("form").ToHashSet(StringComparer.Ordinal),
            Sources = places
                .Where(w => Given(w, "form").Count == 0)
                .SelectMany(w => Given(w, "source"))
                .ToHashSet(StringComparer.Ordinal),
            // Whether a page or a campaign is meant can be known only as somebody asks: it may be any form.
            ByAnyForm = places.Exists(w => Given(w, "form").Count == 0 && Given(w, "source").Count == 0),
        };
        // What is wrong with a draft is said where it is edited; its lines do not run.
        return standing != FuseStanding.Armed
            ? line
            : line with
            {
                Needs = [.. NeedsOf(fuse, around)],
                Asks = line is { ByAnyForm: false, Forms.Count: 1, Sources.Count: 0 } ? [.. AsksOf(fuse)] : [],
                Services = ServicesOf(id, fuse, around),
                ShutHours = [.. ShutOf(id, fuse, hours, now)],
            };
    }

    private static IReadOnlyList<string> Given(LitBy way, string detail) => way.Only?.GetValueOrDefault(detail) ?? [];

    private static IEnumerable<ValueAsk> AsksOf(FuseDefinition fuse) =>
        fuse.Bands.SelectMany(b =>
            (b.Entry.Rules?.Every ?? [])
                .Where(r => r.Op == RuleOp.OneOf && !r.Field.Contains('.', StringComparison.Ordinal))
                .Select(r => new ValueAsk(r.Field, r.Values, b.Id, b.Name))
        );

    private static IEnumerable<FieldNeed> NeedsOf(FuseDefinition fuse, FuseSurroundings around)
    {
        var others = fuse
            .Bands.Where(b => b.Entry.Kind == EntryKind.When)
            .Select(b => b.Entry.Rules)
            .OfType<RuleSet>()
            .ToList();
        foreach (var band in fuse.Bands)
        {
            IReadOnlyList<RuleSet> unless = band.Entry.Kind == EntryKind.Otherwise ? others : [];
            foreach (var step in band.Steps)
            {
                // A step that asks first whether they gave it does without.
                bool Asked(string field) =>
                    (band.Entry.Rules?.Every ?? [])
                        .Concat(step.When?.Every ?? [])
                        .Concat(fuse.LitBy.SelectMany(w => w.When?.Every ?? []))
                        .Any(r => r.Field == field && r.Op is not (RuleOp.Empty or RuleOp.NotOneOf));
                var reach = step.Kind switch
                {
                    StepKinds.Text or StepKinds.RingThrough => "phone",
                    StepKinds.Email => "email",
                    _ => null,
                };
                var atOnce = band.Entry.Kind is EntryKind.Always or EntryKind.When or EntryKind.Otherwise
                    ? new[] { band.Entry.Rules, step.When }.OfType<RuleSet>().ToList()
                    : null;
                if (reach is not null && !Asked(reach))
                    yield return new(
                        reach,
                        step.Id,
                        step.Name,
                        reach == "phone" ? "goes to their phone" : "goes to their email address",
                        atOnce,
                        unless
                    );
                foreach (var field in Demanded(step, around).Where(f => f != reach && !Asked(f)))
                    yield return new(
                        field,
                        step.Id,
                        step.Name,
                        "has nothing else to put where something is demanded",
                        atOnce,
                        unless
                    );
            }
        }
    }

    // What a service demands and one field alone fills.
    private static IEnumerable<string> Demanded(Step step, FuseSurroundings around)
    {
        foreach (var setting in around.Steps.Find(step.Kind)?.Settings.Where(s => s.Type == SettingType.Columns) ?? [])
        {
            if (!around.Lists.TryGetValue($"{step.Id}.{setting.Key}", out var columns))
                continue;
            foreach (var column in columns.Where(c => c.Required))
            {
                if (
                    step.Settings.TryGetValue($"{setting.Key}.{column.Key}", out var words)
                    && OnlyField(words) is { } field
                )
                    yield return field;
            }
        }
    }

    // {{ lead.email }} and nothing beside it: no words, no default.
    private static string? OnlyField(string words)
    {
        var text = words.Trim();
        if (
            !text.StartsWith("{{", StringComparison.Ordinal)
            || !text.EndsWith("}}", StringComparison.Ordinal)
            || text.Contains("default", StringComparison.Ordinal)
        )
            return null;
        return
            MessageWords.Parse(text).Words?.Uses is { Count: 1 } uses
            && uses.Single() is var use
            && use.StartsWith("lead.", StringComparison.Ordinal)
            && use[5..] is not ("name" or "link" or "stage")
            && text.IndexOf("}}", StringComparison.Ordinal) == text.Length - 2
            ? use[5..]
            : null;
    }

    private static List<FuseService> ServicesOf(Guid id, FuseDefinition fuse, FuseSurroundings around)
    {
        // Whether a connection is in order is looked at when a line is judged: it changes without the fuse.
        var sound = around with { Connections = [.. around.Connections.Select(c => c with { Fault = null })] };
        var faults = FuseFaults
            .Find(fuse, sound)
            .Where(f => f.StepId is not null)
            .ToLookup(f => f.StepId!, StringComparer.Ordinal);
        var services = new List<(string Name, SortedSet<string> Through, List<Cut> Cuts)>();
        foreach (var step in fuse.Bands.SelectMany(b => b.Steps))
        {
            var service = around.Steps.Find(step.Kind)?.Service;
            var through = service is null ? null : ConnectionOf(step, service, around);
            var name = through?.Name ?? service ?? "Lit Fuse";
            var cuts = CutsOf(id, step, service, through, [.. faults[step.Id]]).ToList();
            // What Lit Fuse does itself is a joint only where something is wrong with it.
            if (service is null && cuts.Count == 0)
                continue;
            var place = services.FindIndex(s => s.Name == name);
            if (place < 0)
            {
                place = services.Count;
                services.Add((name, new(StringComparer.Ordinal), []));
            }

            services[place].Cuts.AddRange(cuts);
            if (through is not null)
                services[place].Through.Add(through.Id);
        }

        return services.ConvertAll(s => new FuseService(s.Name, [.. s.Through], s.Cuts));
    }

    private static IEnumerable<Cut> CutsOf(
        Guid id,
        Step step,
        string? service,
        KnownConnection? through,
        List<FuseFault> faults
    )
    {
        var key = $"step.{id:N}.{step.Id}";
        if (service is not null && through is null)
        {
            yield return new(
                key + ".none",
                JointKind.Service,
                faults
                    .FirstOrDefault(f =>
                        f.Code
                            is FuseFaultCode.NoConnection
                                or FuseFaultCode.ConnectionOpen
                                or FuseFaultCode.ConnectionGone
                    )
                    ?.What
                    ?? $"'{step.Name}' has no connection to send through.",
                new($"Connect {service}", MendPlace.NewConnection, service)
            );
            yield break;
        }

        foreach (var found in faults.DistinctBy(f => (f.Code, f.About)))
            yield return new(
                $"{key}.{found.Code}.{Mark.Of(found.About):x8}",
                JointKind.Service,
                found.What,
                new(found.Mend, MendPlace.Fuse, id.ToString(), step.Id)
            );
    }

    private static KnownConnection? ConnectionOf(Step step, string service, FuseSurroundings around)
    {
        var all = around.Connections.Where(c => c.Kind == service).ToList();
        var chosen = step.Settings.GetValueOrDefault(StepKinds.Connection);
        return string.IsNullOrEmpty(chosen)
            ? all.Count == 1
                ? all[0]
                : null
            : all.Find(c => c.Id == chosen);
    }

    private static IEnumerable<Cut> ShutOf(Guid id, FuseDefinition fuse, LineHours hours, Instant now)
    {
        foreach (var step in fuse.Bands.SelectMany(b => b.Steps))
        {
            if (step.Kind is not (StepKinds.Text or StepKinds.Email or StepKinds.RingThrough) && step.Hours is null)
                continue;
            var calls = step.Kind == StepKinds.RingThrough;
            var kept = step.Hours ?? new StepHours(calls ? HoursKind.Working : HoursKind.Send);
            if (kept.Outside == OutsideHours.Send)
                continue;
            var law = step.Kind switch
            {
                StepKinds.Text => HoursLaw.For(Voice.Text, hours.Country),
                StepKinds.RingThrough => HoursLaw.For(Voice.Call, hours.Country),
                _ => null,
            };
            if (OpenTimes.Next(kept.Of(hours.Send, hours.Work), hours.Zone, law?.Hours, hours.Zone, now) is not null)
                continue;
            var (words, mend) =
                kept.Kind == HoursKind.Own
                    ? (
                        $"'{step.Name}' may go out in hours that never open.",
                        new Mend("Set its hours", MendPlace.Fuse, id.ToString(), step.Id)
                    )
                    : (
                        $"'{step.Name}' keeps the {(kept.Kind == HoursKind.Working ? "working" : "send")} hours, which never open{(law is null ? "" : $" within {law.Name}")}.",
                        new Mend("Set the hours", MendPlace.Hours)
                    );
            yield return new($"hours.{id:N}.{step.Id}", JointKind.Hours, words, mend);
        }
    }
}
