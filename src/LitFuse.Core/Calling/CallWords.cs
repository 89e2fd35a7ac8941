using System.Globalization;
using NodaTime;

namespace LitFuse.Core.Calling;

/// <summary>What ring-throughs say, to phones and to the story.</summary>
public static class CallWords
{
    /// <summary>The key that accepts.</summary>
    public const string Accept = "1";

    /// <summary>The key that passes on.</summary>
    public const string Pass = "2";

    /// <summary>Said to the team after the words.</summary>
    public const string Keys = " Press 1 to speak to them now, 2 to pass it on.";

    internal const string TakenByOther = "Somebody else has it. Thank you.";
    internal const string LeadGone = "They do not answer. Thank you.";
    internal const string OnlyMachine = "A machine answers. Thank you.";

    /// <summary>What a phone that is given up hears in case it was picked up just then; <c>null</c>: nothing.</summary>
    /// <param name="leg">The phone.</param>
    /// <param name="acceptedBy">The place in the team of who accepted.</param>
    public static string? Parting(CallLeg leg, int? acceptedBy) =>
        leg.Person == CallLeg.OfLead || acceptedBy is null || acceptedBy == leg.Person ? null : TakenByOther;

    internal static string NotTaken(string name, LegEnding ending, string? reason) =>
        ending switch
        {
            LegEnding.Busy => $"{name} is on the phone",
            LegEnding.Declined => $"{name} turned it away",
            LegEnding.Failed => $"{name} could not be rung: {reason ?? "the carrier does not say why"}",
            LegEnding.HungUp => $"{name} hung up without a key",
            _ => $"{name} did not pick up",
        };

    internal static string LeadNotThere(string lead, LegEnding ending, string? reason) =>
        ending switch
        {
            LegEnding.Busy => $"{lead} is on the phone",
            LegEnding.Declined => $"{lead} turned the call away",
            LegEnding.Failed => $"{lead} could not be rung: {reason ?? "the carrier does not say why"}",
            LegEnding.HungUp => $"{lead} hung up before they were joined",
            _ => $"{lead} did not pick up",
        };

    /// <summary>A time on the phone: <c>2:10</c>.</summary>
    public static string Talk(Duration span) =>
        string.Create(CultureInfo.InvariantCulture, $"{(int)span.TotalMinutes}:{span.Seconds:00}");
}
