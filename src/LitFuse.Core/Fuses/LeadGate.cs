using System.Globalization;
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

/// <summary>
/// The one gate that all speech to a lead passes, when it is decided and again before each attempt:
/// do-not-contact, opt-out, a number to send to, the age limit, send hours. No step can go round it.
/// </summary>
public static class LeadGate
{
    /// <summary>Asks the gate.</summary>
    /// <param name="facts">The lead as it is now.</param>
    /// <param name="plannedAt">When it would have been said, had nothing delayed it.</param>
    /// <param name="ageLimit">How far behind that it may still be said.</param>
    /// <param name="now">The present moment.</param>
    public static GateAnswer Ask(LeadFacts facts, Instant plannedAt, Duration ageLimit, Instant now)
    {
        if (facts.DoNotContact) return new GateAnswer.Never(Unwanted);
        if (facts.OptedOut) return new GateAnswer.Never("they opted out of texts");
        if (!facts.HasPhone) return new GateAnswer.Never("there is no telephone number to send to");
        if (now - plannedAt > ageLimit) return new GateAnswer.Never($"{Hours(now - plannedAt)} late; the age limit is {Hours(ageLimit)}");
        if (facts.SendHours.IsOpen(now, facts.Zone)) return new GateAnswer.Go();
        if (facts.SendHours.NextOpen(now, facts.Zone) is not { } opens) return new GateAnswer.Never("send hours never open");
        if (opens - plannedAt > ageLimit) return new GateAnswer.Never($"send hours open {Hours(opens - plannedAt)} after it was meant; the age limit is {Hours(ageLimit)}");
        var local = opens.InZone(facts.Zone);
        return new GateAnswer.Wait(opens, string.Create(CultureInfo.InvariantCulture, $"waits for send hours: {local.DayOfWeek} {local.Hour:00}:{local.Minute:00} in {facts.Zone.Id}"));
    }

    /// <summary>
    /// Asks it for the letter that asks a lead to confirm the address. They wait for it, so send hours do not hold it
    /// back; nor does an opt-out of texts.
    /// </summary>
    public static GateAnswer AskToConfirm(bool doNotContact, Instant plannedAt, Duration ageLimit, Instant now) =>
        doNotContact ? new GateAnswer.Never(Unwanted)
        : now - plannedAt > ageLimit ? new GateAnswer.Never($"{Hours(now - plannedAt)} late; the link in it would be no good any more")
        : new GateAnswer.Go();

    private const string Unwanted = "they are on the do-not-contact list";

    private static string Hours(Duration span) => string.Create(CultureInfo.InvariantCulture, $"{span.TotalHours:0.#} h");
}
