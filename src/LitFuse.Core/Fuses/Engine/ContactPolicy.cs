using System.Globalization;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Hours;
using NodaTime;

namespace LitFuse.Core.Fuses.Engine;

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
/// do-not-contact, opt-out, an address to send to, the age limit, send hours and the law's. No step can go round it.
/// </summary>
public static class ContactPolicy
{
    internal const string Unwanted = "they are on the do-not-contact list";

    private static readonly StepHours Usual = new(HoursKind.Send);
    private static readonly StepHours UsualOfCalls = new(HoursKind.Working);

    /// <summary>Asks the gate.</summary>
    /// <param name="facts">The lead as it is now.</param>
    /// <param name="plannedAt">When it would have been said, had nothing delayed it.</param>
    /// <param name="ageLimit">How far behind that it may still be said.</param>
    /// <param name="now">The present moment.</param>
    /// <param name="voice">How it is said.</param>
    /// <param name="hours">The step's hours; <c>null</c>: the client's send hours.</param>
    public static GateAnswer Ask(
        LeadFacts facts,
        Instant plannedAt,
        Duration ageLimit,
        Instant now,
        Voice voice = Voice.Text,
        StepHours? hours = null
    )
    {
        var look = Look(facts, plannedAt, ageLimit, now, voice, hours, null);
        return look.Verdict switch
        {
            GateVerdict.Never => new GateAnswer.Never(look.Say()),
            GateVerdict.Wait => new GateAnswer.Wait(look.Until, look.Say()),
            _ => new GateAnswer.Go(),
        };
    }

    /// <summary>
    /// The same without a word said. <paramref name="own"/>: the step's own hours, where they were read before.
    /// </summary>
    internal static GateLook Look(
        LeadFacts facts,
        Instant plannedAt,
        Duration ageLimit,
        Instant now,
        Voice voice,
        StepHours? hours,
        OpenHours? own
    )
    {
        if (facts.DoNotContact)
            return GateLook.Never(GateRule.Unwanted);
        if (facts.OptedOut)
            return GateLook.Never(voice == Voice.Text ? GateRule.NoTexts : GateRule.NoMessages);
        if (voice != Voice.Letter && !facts.HasPhone)
            return GateLook.Never(GateRule.NoPhone);
        if (voice == Voice.Letter && !facts.HasEmail)
            return GateLook.Never(GateRule.NoEmail);
        if (voice == Voice.Letter && facts.EmailBounces)
            return GateLook.Never(GateRule.Bounces);
        if (now - plannedAt > ageLimit)
            return GateLook.Never(GateRule.TooLate, now - plannedAt, ageLimit);
        if (voice != Voice.Call && facts.MostADay > 0 && FreeAgain(facts, now) is { } free)
            return free - plannedAt > ageLimit
                ? GateLook.Never(GateRule.TooManyTooLate, free - plannedAt, ageLimit) with
                {
                    Most = facts.MostADay,
                }
                : new(GateVerdict.Wait, GateRule.TooMany, free, facts.Zone) { Most = facts.MostADay };

        // A call keeps the team's hours on the team's clock, as it is the team that is rung first; the law's are the
        // lead's always.
        var (step, clock) =
            voice == Voice.Call ? (hours ?? UsualOfCalls, facts.ClientZone) : (hours ?? Usual, facts.Zone);
        own ??= step.Of(facts.SendHours, facts.WorkHours);
        var open = own?.IsOpen(now, clock) ?? true;
        if (!open && step.Outside == OutsideHours.Skip)
            return GateLook.Never(GateRule.LeftOut);
        if (step.Outside == OutsideHours.Send)
            (own, open) = (null, true);
        var law = voice == Voice.Letter ? null : HoursLaw.For(voice, facts.PhoneCountry);
        var lawful = law is null || OpenTimes.AnyOpen(law.Hours, now.InZone(facts.Zone).LocalDateTime);
        if (open && lawful)
            return default;
        if (OpenTimes.Next(own, clock, law?.Hours, facts.Zone, now) is not { } opens)
            return GateLook.Never(voice == Voice.Call ? GateRule.OwnNeverOpen : GateRule.NeverOpen);
        var rule =
            open ? GateRule.LawHours
            : voice == Voice.Call ? GateRule.OwnHours
            : GateRule.SendHours;
        if (opens - plannedAt > ageLimit)
            return GateLook.Never(GateRule.OpenTooLate, opens - plannedAt, ageLimit) with { Law = open ? law : null };
        return new(GateVerdict.Wait, rule, opens, open ? facts.Zone : clock)
        {
            Law = open ? law : null,
            ZoneBecause = open || voice != Voice.Call ? facts.ZoneBecause : "",
        };
    }

    // When the oldest of the last so many is a day old; null: they have had fewer than that.
    private static Instant? FreeAgain(LeadFacts facts, Instant now)
    {
        var lately = facts
            .Sent.Where(s => s > now - Duration.FromDays(1))
            .OrderDescending()
            .Take(facts.MostADay)
            .ToList();
        return lately.Count < facts.MostADay ? null : lately[^1] + Duration.FromDays(1);
    }

    /// <summary>Asks when the team may hear of it: only hours count.</summary>
    internal static GateLook LookTeam(LeadFacts facts, StepHours hours, Instant now)
    {
        if (
            hours.Outside == OutsideHours.Send
            || hours.Of(facts.SendHours, facts.WorkHours) is not { } own
            || own.IsOpen(now, facts.ClientZone)
        )
            return default;
        if (hours.Outside == OutsideHours.Skip)
            return GateLook.Never(GateRule.LeftOut);
        return own.NextOpen(now, facts.ClientZone) is { } opens
            ? new(GateVerdict.Wait, GateRule.OwnHours, opens, facts.ClientZone)
            : GateLook.Never(GateRule.OwnNeverOpen);
    }

    /// <summary>
    /// Asks it for the letter that asks a lead to confirm the address. They wait for it, so send hours do not hold it
    /// back; nor does an opt-out of texts.
    /// </summary>
    public static GateAnswer AskToConfirm(bool doNotContact, Instant plannedAt, Duration ageLimit, Instant now) =>
        doNotContact ? new GateAnswer.Never(Unwanted)
        : now - plannedAt > ageLimit
            ? new GateAnswer.Never($"{Hours(now - plannedAt)} late; the link in it would be no good any more")
        : new GateAnswer.Go();

    /// <summary>Why a person here may not ring them now, or <c>null</c>: hours of one's own are one's own.</summary>
    public static string? ByHand(LeadFacts facts, Instant now)
    {
        if (facts.DoNotContact)
            return Unwanted;
        if (!facts.HasPhone)
            return "there is no telephone number to ring";
        var (law, local) = (HoursLaw.For(Voice.Call, facts.PhoneCountry), now.InZone(facts.Zone).LocalDateTime);
        return OpenTimes.AnyOpen(law.Hours, local)
            ? null
            : string.Create(
                CultureInfo.InvariantCulture,
                $"{local.DayOfWeek} {local.Hour:00}:{local.Minute:00} in {facts.Zone.Id} is outside {law.Name}"
            );
    }

    internal static string Hours(Duration span) =>
        string.Create(CultureInfo.InvariantCulture, $"{span.TotalHours:0.#} h");
}

/// <summary>What the gate answers, in one word.</summary>
internal enum GateVerdict
{
    Go,
    Wait,
    Never,
}

/// <summary>The rule by which the gate answered.</summary>
internal enum GateRule
{
    None,
    Unwanted,
    NoTexts,
    NoMessages,
    NoPhone,
    NoEmail,
    Bounces,
    TooLate,
    LeftOut,
    NeverOpen,
    OpenTooLate,
    TooMany,
    TooManyTooLate,
    SendHours,
    LawHours,
    OwnHours,
    OwnNeverOpen,
}

/// <summary>A look at the gate: what it answers and by which rule; the sentence is made when it is asked for.</summary>
internal readonly record struct GateLook(
    GateVerdict Verdict,
    GateRule Rule,
    Instant Until,
    DateTimeZone? Zone,
    Duration Late = default,
    Duration Limit = default
)
{
    /// <summary>The law that keeps it back, where one does.</summary>
    public HoursLaw? Law { get; init; }

    /// <summary>How many messages a day are the most.</summary>
    public int Most { get; init; }

    /// <summary>How the zone is known.</summary>
    public string ZoneBecause { get; init; } = "";

    public static GateLook Never(GateRule rule, Duration late = default, Duration limit = default) =>
        new(GateVerdict.Never, rule, default, null, late, limit);

    public string Say() =>
        Rule switch
        {
            GateRule.Unwanted => ContactPolicy.Unwanted,
            GateRule.NoTexts => "they opted out of texts",
            GateRule.NoMessages => "they want no more messages",
            GateRule.NoPhone => "there is no telephone number to send to",
            GateRule.NoEmail => "there is no email address to send to",
            GateRule.Bounces => "letters to their address come back",
            GateRule.TooLate => $"{ContactPolicy.Hours(Late)} late; the age limit is {ContactPolicy.Hours(Limit)}",
            GateRule.LeftOut => "it is outside its hours, and left out then",
            GateRule.NeverOpen => "send hours never open",
            GateRule.OpenTooLate when Law is { } law =>
                $"{law.Name} opens {ContactPolicy.Hours(Late)} after it was meant; the age limit is {ContactPolicy.Hours(Limit)}",
            GateRule.OpenTooLate =>
                $"send hours open {ContactPolicy.Hours(Late)} after it was meant; the age limit is {ContactPolicy.Hours(Limit)}",
            GateRule.SendHours => $"waits for send hours: {Clock()}",
            GateRule.LawHours => $"waits for {Law!.Name}: {Clock()}",
            GateRule.TooMany => $"waits until they have had fewer than {Most} in a day: {Clock()}",
            GateRule.TooManyTooLate =>
                $"they have had {Most} in a day; the next could go {ContactPolicy.Hours(Late)} after it was meant, and the age limit is {ContactPolicy.Hours(Limit)}",
            GateRule.OwnHours => $"waits for its hours: {Clock()}",
            GateRule.OwnNeverOpen => "its hours never open",
            _ => "",
        };

    private string Clock()
    {
        var local = Until.InZone(Zone!);
        return string.Create(
            CultureInfo.InvariantCulture,
            $"{local.DayOfWeek} {local.Hour:00}:{local.Minute:00} in {Zone!.Id}{(ZoneBecause.Length == 0 ? "" : $" ({ZoneBecause})")}"
        );
    }
}
