using System.Globalization;
using LitFuse.Core.Hours;
using NodaTime;

namespace LitFuse.Core.Fuses;

/// <summary>Whether something may be said to a lead now.</summary>
public abstract record GateAnswer
{
    /// <summary>Yes.</summary>
    public sealed record Go : GateAnswer;

    /// <summary>Not before <paramref name="Until"/>.</summary>
    public sealed record Wait(Instant Until, string Reason) : GateAnswer;

    /// <summary>Not at all.</summary>
    public sealed record Never(string Reason) : GateAnswer;
}

/// <summary>How a lead is spoken to.</summary>
public enum Voice
{
    /// <summary>A text to the phone.</summary>
    Text,

    /// <summary>An email.</summary>
    Letter,
}

/// <summary>
/// The one gate that all speech to a lead passes, when it is decided and again before each attempt:
/// do-not-contact, opt-out, an address to send to, the age limit, send hours and the law's. No step can go round it.
/// </summary>
public static class LeadGate
{
    private const string Unwanted = "they are on the do-not-contact list";

    /// <summary>Asks the gate.</summary>
    /// <param name="facts">The lead as it is now.</param>
    /// <param name="plannedAt">When it would have been said, had nothing delayed it.</param>
    /// <param name="ageLimit">How far behind that it may still be said.</param>
    /// <param name="now">The present moment.</param>
    /// <param name="voice">How it is said.</param>
    /// <param name="hours">The step's hours; <c>null</c>: the client's send hours.</param>
    public static GateAnswer Ask(LeadFacts facts, Instant plannedAt, Duration ageLimit, Instant now, Voice voice = Voice.Text, StepHours? hours = null)
    {
        if (facts.DoNotContact) return new GateAnswer.Never(Unwanted);
        if (facts.OptedOut) return new GateAnswer.Never(voice == Voice.Text ? "they opted out of texts" : "they want no more messages");
        if (voice == Voice.Text && !facts.HasPhone) return new GateAnswer.Never("there is no telephone number to send to");
        if (voice == Voice.Letter && !facts.HasEmail) return new GateAnswer.Never("there is no email address to send to");
        if (now - plannedAt > ageLimit) return new GateAnswer.Never($"{Hours(now - plannedAt)} late; the age limit is {Hours(ageLimit)}");

        var step = hours ?? new StepHours(HoursKind.Send);
        var own = step.Of(facts.SendHours, facts.WorkHours);
        if (step.Outside == OutsideHours.Skip && own is not null && !own.IsOpen(now, facts.Zone)) return new GateAnswer.Never("it is outside its hours, and left out then");
        var sides = Sides(own, step.Outside, voice, facts.PhoneCountry);
        if (OpenTimes.AreOpen(sides, now, facts.Zone)) return new GateAnswer.Go();
        if (OpenTimes.Next(sides, now, facts.Zone) is not { } opens) return new GateAnswer.Never("send hours never open");
        if (opens - plannedAt > ageLimit) return new GateAnswer.Never($"send hours open {Hours(opens - plannedAt)} after it was meant; the age limit is {Hours(ageLimit)}");
        return new GateAnswer.Wait(opens, $"waits for send hours: {Clock(opens, facts.Zone)}");
    }

    /// <summary>Asks when the team may hear of it: only hours count.</summary>
    public static GateAnswer AskTeam(LeadFacts facts, StepHours? hours, Instant now)
    {
        if (hours is null || hours.Outside == OutsideHours.Send || hours.Of(facts.SendHours, facts.WorkHours) is not { } own || own.IsOpen(now, facts.ClientZone)) return new GateAnswer.Go();
        if (hours.Outside == OutsideHours.Skip) return new GateAnswer.Never("it is outside its hours, and left out then");
        return own.NextOpen(now, facts.ClientZone) is { } opens ? new GateAnswer.Wait(opens, $"waits for its hours: {Clock(opens, facts.ClientZone)}") : new GateAnswer.Never("its hours never open");
    }

    /// <summary>
    /// Asks it for the letter that asks a lead to confirm the address. They wait for it, so send hours do not hold it
    /// back; nor does an opt-out of texts.
    /// </summary>
    public static GateAnswer AskToConfirm(bool doNotContact, Instant plannedAt, Duration ageLimit, Instant now) =>
        doNotContact ? new GateAnswer.Never(Unwanted)
        : now - plannedAt > ageLimit ? new GateAnswer.Never($"{Hours(now - plannedAt)} late; the link in it would be no good any more")
        : new GateAnswer.Go();

    private static List<IReadOnlyList<OpenHours>> Sides(OpenHours? own, OutsideHours outside, Voice voice, string? country)
    {
        var sides = new List<IReadOnlyList<OpenHours>>(2);
        if (own is not null && outside != OutsideHours.Send) sides.Add([own]);
        if (voice == Voice.Text) sides.Add(TextLaw.For(country));
        return sides;
    }

    private static string Clock(Instant at, DateTimeZone zone)
    {
        var local = at.InZone(zone);
        return string.Create(CultureInfo.InvariantCulture, $"{local.DayOfWeek} {local.Hour:00}:{local.Minute:00} in {zone.Id}");
    }

    private static string Hours(Duration span) => string.Create(CultureInfo.InvariantCulture, $"{span.TotalHours:0.#} h");
}
