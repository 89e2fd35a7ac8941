using System.Runtime.CompilerServices;
using LitFuse.Core.Stories;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

/// <summary>A step as it lies on the desk: a <see cref="BurnStep"/> opened up, changed in place.</summary>
internal struct StepSlot
{
    public CompiledStep Step;
    public StepStatus Status;
    public Instant PlannedAt;
    public Instant DueAt;
    public string? Reason;
    public int Entry;
    public int Try;
    public IReadOnlyDictionary<string, string>? Results;

    /// <summary>
    /// Its choices have not been put into words yet; <see cref="DueAt"/> is then when it was handed over.
    /// </summary>
    public bool Offered;

    public readonly bool Over => Status is StepStatus.Done or StepStatus.Failed or StepStatus.Cancelled;
}

/// <summary>A band that was entered, as it lies on the desk.</summary>
internal struct BandSlot
{
    public CompiledBand Band;
    public int Entry;
    public Instant At;
    public bool Over;
    public bool Cut;
    public int Hushed;
}

/// <summary>A silence that runs, as it lies on the desk.</summary>
internal record struct SilenceSlot(CompiledBand Band, Instant Until);

/// <summary>
/// Whom a desk tells what it decides. What is not asked for is not made: neither the story's sentences nor the
/// messages' words.
/// </summary>
internal abstract class DeskOutput
{
    /// <summary>The story's sentences are wanted.</summary>
    public virtual bool Telling => true;

    /// <summary>The words of messages are wanted.</summary>
    public virtual bool Wording => true;

    public virtual void Tell(StoryKind kind, string? bandId, string? stepId, string words) { }

    /// <summary>
    /// Hand a step to delivery. Without <see cref="Wording"/> the settings are as written, fields and all.
    /// </summary>
    public abstract void Deliver(BurnDesk desk, in StepSlot slot, IReadOnlyDictionary<string, string> settings);

    public abstract void Do(in StepSlot slot, IReadOnlyDictionary<string, string> settings);

    public virtual void Notify(CompiledStep step, string person, string words) { }

    public abstract void Withdraw(in StepSlot slot, string because);

    /// <summary>It is not done. <paramref name="rule"/>: the gate's, where the gate refused it.</summary>
    public virtual void Cancelled(in StepSlot slot, GateRule rule) { }

    /// <summary>It had nothing left to say, or could not be delivered.</summary>
    public virtual void Failed(in StepSlot slot) { }

    public virtual void Waits(in StepSlot slot) { }

    public virtual void Entered(CompiledBand band) { }
}

/// <summary>Words for the story, put together only where somebody will read them.</summary>
[InterpolatedStringHandler]
internal ref struct StoryWords
{
    private DefaultInterpolatedStringHandler words;
    private readonly bool wanted;

    public StoryWords(int literalLength, int formattedCount, BurnDesk desk, out bool go)
    {
        wanted = go = desk.Telling;
        words = go ? new(literalLength, formattedCount, System.Globalization.CultureInfo.InvariantCulture) : default;
    }

    public void AppendLiteral(string value) => words.AppendLiteral(value);

    public void AppendFormatted<T>(T value) => words.AppendFormatted(value);

    public string Take() => wanted ? words.ToStringAndClear() : "";
}
