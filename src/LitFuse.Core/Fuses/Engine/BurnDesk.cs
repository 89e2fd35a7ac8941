using System.Globalization;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;
using LitFuse.Core.Stories;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>
/// The desk on which a burn is decided: its state opened up and changed in place. A real burn is laid on it for one
/// decision; a rehearsal leaves it lying there from the lighting to the end.
/// </summary>
internal sealed partial class BurnDesk
{
    private readonly CompiledFuse fuse;
    private readonly DeskOutput output;
    private readonly List<StepSlot> steps = [];
    private readonly List<BandSlot> bands = [];
    private readonly List<SilenceSlot> silences = [];
    private readonly List<string> heard = [];
    private readonly Func<string, string?> fact;
    private readonly Duration ageLimit;
    private LeadFacts lead = null!;
    private Instant now;
    private LeadEvent? happening;
    private Guid burnId;
    private Instant submittedAt;
    private Instant litAt;
    private string? stop;
    private string? held;
    private BurnReply? reply;
    private Instant? hearsUntil;

    // How many steps are not over yet, in all and by band.
    private readonly int[] openOf;
    private int open;

    // Something may have come to its end since it was last looked whether bands have; something may be due since steps
    // were last looked through.
    private bool ends;
    private bool look;

    // It was laid here as it had become elsewhere, perhaps by another version of its fuse.
    private bool opened;

    public BurnDesk(CompiledFuse fuse, DeskOutput output)
    {
        (this.fuse, this.output, fact) = (fuse, output, Fact);
        openOf = new int[fuse.BandPlaces];
        ageLimit = Duration.FromHours(fuse.Definition.AgeLimitHours);
    }

    /// <summary>The story's sentences are wanted.</summary>
    public bool Telling => output.Telling;

    public BurnStatus Status { get; private set; }

    public int Depth { get; private set; }

    /// <summary>When it must next be looked at, or <c>null</c>.</summary>
    public Instant? NextWake { get; private set; }

    private bool Hears => Status is BurnStatus.Burning or BurnStatus.Listening;

    /// <summary>Lays a burn on the desk in place of what lay there.</summary>
    public void Open(BurnState burn)
    {
        Clear(burn.BurnId, burn.SubmittedAt, burn.LitAt, burn.Depth);
        (Status, stop, reply, held, hearsUntil, NextWake) = (
            burn.Status,
            burn.Stop,
            burn.Reply,
            burn.Held,
            burn.HearsUntil,
            burn.NextWake
        );
        heard.AddRange(burn.Heard);
        foreach (var s in burn.Steps)
            Add(
                new()
                {
                    Step = fuse.Step(s.StepId),
                    Status = s.Status,
                    PlannedAt = s.PlannedAt,
                    DueAt = s.DueAt,
                    Reason = s.Reason,
                    Entry = s.Entry,
                    Try = s.Try,
                    Results = s.Results,
                }
            );
        foreach (var b in burn.Bands)
            if (fuse.Band(b.BandId) is { } band)
                bands.Add(
                    new()
                    {
                        Band = band,
                        Entry = b.Entry,
                        At = b.At,
                        Over = b.Over,
                        Cut = b.Cut,
                        Hushed = b.Hushed,
                    }
                );
        ends = opened = true;
        foreach (var s in burn.Silences)
            if (fuse.Band(s.BandId) is { } band)
                silences.Add(new(band, s.Until));
    }

    /// <summary>Lays a burn on the desk that has not been lit yet.</summary>
    public void Clear(Guid id, Instant submitted, Instant lit, int depth = 0)
    {
        (burnId, submittedAt, litAt, Depth) = (id, submitted, lit, depth);
        (Status, stop, reply, held, hearsUntil, NextWake) = (BurnStatus.Burning, null, null, null, null, null);
        steps.Clear();
        Array.Clear(openOf);
        open = 0;
        opened = false;
        bands.Clear();
        silences.Clear();
        heard.Clear();
    }

    /// <summary>The burn as it lies on the desk.</summary>
    public BurnState State() =>
        new(
            burnId,
            Status,
            submittedAt,
            litAt,
            stop,
            steps.ConvertAll(s => new BurnStep(
                s.Step.Band.Id,
                s.Step.Step.Id,
                s.Status,
                s.PlannedAt,
                s.DueAt,
                s.Reason,
                s.Entry,
                s.Try,
                s.Results
            ))
        )
        {
            Bands = bands.ConvertAll(b => new BurnBand(b.Band.Band.Id, b.Entry, b.At, b.Over, b.Cut, b.Hushed)),
            Silences = silences.ConvertAll(s => new BurnSilence(s.Band.Band.Id, s.Until)),
            Heard = [.. heard],
            Reply = reply,
            Held = held,
            HearsUntil = hearsUntil,
            NextWake = NextWake,
            Depth = Depth,
        };

    /// <summary>Decides what this leads to.</summary>
    public void Decide(BurnEvent happened, LeadFacts facts, Instant at)
    {
        (lead, now, look) = (facts, at, true);
        switch (happened)
        {
            case BurnEvent.Lit:
                Light();
                break;
            case BurnEvent.Woken:
                break;
            case BurnEvent.StepEnded ended:
                if (EndStep(ended) is { } step && LeadsOnToNothing(step, ended.Status))
                    return;
                break;
            case BurnEvent.Happened what:
                Hear(what.What);
                break;
            case BurnEvent.Ended ended:
                End(ended.Because);
                break;
            case BurnEvent.Skipped skipped:
                Skip(skipped);
                break;
            case BurnEvent.Replayed replayed:
                Replay(replayed);
                break;
            case BurnEvent.LetGo let:
                LetGo(let.Because);
                break;
            default:
                throw new ArgumentOutOfRangeException(nameof(happened), happened, "an unknown event");
        }

        Settle();
    }

    /// <summary>Decides what the end of a step leads to, where it is known by its place and not by its key.</summary>
    public void DecideEnd(
        CompiledStep step,
        int entry,
        StepStatus status,
        string reason,
        IReadOnlyDictionary<string, string>? results,
        LeadFacts facts,
        Instant at
    )
    {
        (lead, now, look) = (facts, at, true);
        for (var i = 0; i < steps.Count; i++)
        {
            if (steps[i].Step != step || steps[i].Status != StepStatus.Sent || steps[i].Entry != entry)
                continue;
            EndStep(i, status, reason, results);
            if (LeadsOnToNothing(step, status))
                return;
            break;
        }

        Settle();
    }

    /// <summary>
    /// The idempotency key of a step that is handed over. The first time is the plain key; a band entered again, or a
    /// step replayed, is another thing.
    /// </summary>
    public string KeyOf(in StepSlot slot)
    {
        var key = $"{burnId:N}.{slot.Step.Band.Id}.{slot.Step.Step.Id}";
        if (slot.Entry > 1)
            key += string.Create(CultureInfo.InvariantCulture, $".e{slot.Entry}");
        return slot.Try > 1 ? key + string.Create(CultureInfo.InvariantCulture, $".t{slot.Try}") : key;
    }

    private void Add(in StepSlot slot)
    {
        steps.Add(slot);
        look = true;
        if (slot.Over)
            return;
        open++;
        openOf[slot.Step.In.Place]++;
    }

    private void Remove(int i)
    {
        if (!steps[i].Over)
        {
            open--;
            openOf[steps[i].Step.In.Place]--;
        }

        steps.RemoveAt(i);
    }

    // The only way in which a step's status changes.
    private void Move(ref StepSlot slot, StepStatus to, string? reason)
    {
        var before = slot.Over;
        (slot.Status, slot.Reason) = (to, reason);
        var change = (before ? 1 : 0) - (slot.Over ? 1 : 0);
        open += change;
        openOf[slot.Step.In.Place] += change;
        ends |= slot.Over;
        look |= slot.Over && slot.Step.Awaited;
    }

    // Each round either enters a band, of which there are at most so many, or moves a step on.
    private void Settle()
    {
        while (SilencesDue() | SendDue() | CloseBands()) { }

        Finish();
    }

    private Span<StepSlot> Slots => CollectionsMarshal.AsSpan(steps);

    private void Tell(StoryKind kind, CompiledBand? band, CompiledStep? step, string words)
    {
        if (Telling)
            output.Tell(kind, (band ?? step?.In)?.Band.Id, step?.Step.Id, words);
    }

    private void Tell(
        StoryKind kind,
        CompiledBand? band,
        CompiledStep? step,
        [InterpolatedStringHandlerArgument("")] ref StoryWords words
    )
    {
        if (Telling)
            output.Tell(kind, (band ?? step?.In)?.Band.Id, step?.Step.Id, words.Take());
    }

    private bool Holds(Guard guard, LeadEvent? what, out string because)
    {
        happening = what;
        var facts = new GuardFacts(fact, now.InZone(lead.ClientZone).Date);
        if (!Telling)
        {
            because = "";
            return guard.Holds(facts);
        }

        var answer = guard.Ask(facts);
        because = answer.Because;
        return answer.Holds;
    }

    private string? Fact(string path) => lead.Fact(path, now) ?? Own(path);

    // What the burn itself knows: results of its steps, their reply, the event.
    private string? Own(string path)
    {
        if (!path.Contains('.', StringComparison.Ordinal))
            return null;
        if (path.StartsWith(Facts.Steps, StringComparison.Ordinal))
        {
            var parts = path.Split('.');
            var i = parts.Length != 3 ? -1 : steps.FindLastIndex(s => s.Step.Step.Id == parts[1]);
            return i < 0 ? null
                : parts[2] == "status" ? steps[i].Status.ToString().ToLowerInvariant()
                : steps[i].Results?.GetValueOrDefault(parts[2]);
        }

        return path switch
        {
            Facts.ReplyMeaning => reply?.Meaning,
            Facts.ReplyChoice => reply?.Choice,
            Facts.ReplyText => reply?.Text,
            _ when path.StartsWith("event.", StringComparison.Ordinal) => happening?.Detail(path[6..]),
            _ => null,
        };
    }

    private void Finish()
    {
        var before = Status;
        Instant? hears = null;
        if (Status == BurnStatus.Ended)
        {
            // It stays so; a replay has made it burn again before.
        }
        else if (Status == BurnStatus.Stopped)
        {
            if (open == 0)
                Status = BurnStatus.Ended;
        }
        else if (open > 0 || silences.Count > 0 || held is not null)
        {
            Status = BurnStatus.Burning;
        }
        else
        {
            hears = hearsUntil ?? now + Duration.FromDays(fuse.Definition.HearsForDays);
            Status = CanStillEnter() && hears > now ? BurnStatus.Listening : BurnStatus.Ended;
            if (Status == BurnStatus.Ended)
                hears = null;
        }

        if (Status == BurnStatus.Ended && before != BurnStatus.Ended)
            Tell(StoryKind.BurnEnded, null, null, Telling ? Summary() : "");
        hearsUntil = hears;
        NextWake = Wake();
    }

    private bool CanStillEnter()
    {
        foreach (var band in fuse.OnEvents)
            if (band.Band.EachTime || PlaceOf(band) < 0)
                return true;
        return false;
    }

    private Instant? Wake()
    {
        if (Status == BurnStatus.Ended)
            return null;
        var wake = hearsUntil;
        if (held is not null)
            return wake;
        if (open > 0)
            foreach (ref readonly var slot in Slots)
                if (slot.Status == StepStatus.Waiting && !(wake <= slot.DueAt) && !Blocked(slot.Step))
                    wake = slot.DueAt;
        foreach (ref readonly var silence in CollectionsMarshal.AsSpan(silences))
            if (!(wake <= silence.Until))
                wake = silence.Until;
        return wake;
    }

    private string Summary()
    {
        if (steps.Count == 0)
            return "no band was entered, so there was nothing to do";
        var parts = new[]
        {
            (StepStatus.Done, "done"),
            (StepStatus.Failed, "failed"),
            (StepStatus.Cancelled, "cancelled"),
        }
            .Select(p => (Count: steps.Count(s => s.Status == p.Item1), Word: p.Item2))
            .Where(p => p.Count > 0)
            .Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.Count} {p.Word}"));
        return "steps: " + string.Join(", ", parts);
    }
}
