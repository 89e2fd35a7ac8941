using System.Globalization;
using LitFuse.Core.Calling;
using LitFuse.Core.Fuses.Definition;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>How a ring-through ended, as its fuse and others hear of it.</summary>
/// <param name="Outcome">How.</param>
/// <param name="Because">In words.</param>
/// <param name="By">The name of who took it.</param>
/// <param name="Talk">How long two were joined; <c>null</c>: they were not.</param>
/// <param name="Recording">Where its recording is.</param>
public sealed record CallEnding(
    CallOutcome Outcome,
    string Because,
    string? By = null,
    Duration? Talk = null,
    string? Recording = null
)
{
    /// <summary>What a dry run takes it to come to, where nobody says otherwise.</summary>
    public static CallEnding Usual { get; } =
        new(
            CallOutcome.Spoke,
            "somebody of the team and the lead spoke",
            "somebody of the team",
            Duration.FromSeconds(90)
        );

    /// <summary>What a step that rings through leaves behind: <c>spoke</c>, <c>no-answer</c> and so on.</summary>
    public string Word => WordOf(Outcome);

    /// <summary>An outcome as fuses name it.</summary>
    public static string WordOf(CallOutcome outcome) =>
        outcome switch
        {
            CallOutcome.Spoke => "spoke",
            CallOutcome.Machine => "machine",
            CallOutcome.NoAnswer => "no-answer",
            CallOutcome.Nobody => "nobody",
            _ => "stopped",
        };

    /// <summary>The outcome by its name, or <c>null</c>.</summary>
    public static CallOutcome? OutcomeOf(string? word)
    {
        foreach (var outcome in Enum.GetValues<CallOutcome>())
            if (WordOf(outcome) == word)
                return outcome;
        return null;
    }

    /// <summary>Where the step stands then: done, once somebody reached out.</summary>
    public StepStatus Status =>
        Talk is not null ? StepStatus.Done
        : Outcome == CallOutcome.Stopped ? StepStatus.Cancelled
        : StepStatus.Failed;

    /// <summary>What the step leaves for later ones.</summary>
    public IReadOnlyDictionary<string, string> Results
    {
        get
        {
            var results = new Dictionary<string, string>(StringComparer.Ordinal)
            {
                ["outcome"] = Word,
                ["seconds"] = ((int)(Talk ?? Duration.Zero).TotalSeconds).ToString(CultureInfo.InvariantCulture),
            };
            if (By is not null)
                results["by"] = By;
            if (Recording is not null)
                results["recording"] = Recording;
            return results;
        }
    }

    /// <summary>What its own burn hears.</summary>
    /// <param name="at">When it ended.</param>
    /// <param name="key">Unique to this call.</param>
    public LeadEvent Rang(Instant at, string key) =>
        LeadEvent.Of(EventKeys.RangThrough, at, "ringing through ended: " + Because, ("outcome", Word)) with
        {
            Key = key,
        };

    /// <summary>What happened to the lead, for whatever fuse; <c>null</c>: nothing did.</summary>
    /// <param name="at">When it ended.</param>
    /// <param name="key">Unique to this call.</param>
    public LeadEvent? Called(Instant at, string key)
    {
        var outcome = Outcome switch
        {
            CallOutcome.Spoke => "reached",
            CallOutcome.Machine => "voicemail",
            CallOutcome.NoAnswer => "no-answer",
            _ => null,
        };
        return outcome is null
            ? null
            : LeadEvent.Of(EventKeys.CallOutcome, at, "a call ended: " + Because, ("outcome", outcome)) with
            {
                Key = key + ".call",
            };
    }
}
