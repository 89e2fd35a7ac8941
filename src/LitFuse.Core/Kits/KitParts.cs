using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Guards;

namespace LitFuse.Core.Kits;

/// <summary>The parts that kits are put together from.</summary>
internal static class KitParts
{
    public const int Hour = 3600;

    public static FuseDefinition OnSubmission(KitSurroundings has, string name, IReadOnlyList<Band> bands) =>
        new()
        {
            Name = name,
            LitBy =
            [
                new(
                    EventKeys.Submission,
                    new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal) { ["form"] = has.Forms }
                ),
            ],
            Bands = bands,
        };

    public static Band Always(params Step[] steps) => new("always", "Always", new(EntryKind.Always), steps);

    public static Band When(string id, string name, Rule rule, params Step[] steps) =>
        new(id, name, new(EntryKind.When, new(RuleMatch.All, [rule])), steps);

    public static Band On(
        string id,
        string name,
        string key,
        Dictionary<string, IReadOnlyList<string>> only,
        params Step[] steps
    ) => new(id, name, new(EntryKind.On, Event: key, Only: only), steps);

    public static Band Silence(string id, string name, string after, int seconds, params Step[] steps) =>
        new(id, name, new(EntryKind.Silence, Of: after, ForSeconds: seconds), steps);

    public static StepMoment OnDay(int days, string at) => new(Days: days, At: at);

    public static Step Text(string id, string name, int after, string words) =>
        Text(id, name, StepMoment.After(after), words);

    public static Step Text(string id, string name, StepMoment moment, string words) =>
        Of(id, name, StepKinds.Text, moment, ("words", words));

    public static Step Letter(string id, string name, StepMoment moment, string subject, string words) =>
        Of(id, name, StepKinds.Email, moment, ("subject", subject), ("words", words));

    public static Step Post(KitSurroundings has, string id, string name, int after, string words) =>
        Post(has, id, name, StepMoment.After(after), words);

    public static Step Post(KitSurroundings has, string id, string name, StepMoment moment, string words) =>
        Of(id, name, StepKinds.ChannelPost, moment, ("channel", has.Channel), ("words", words), ("links", "lead"));

    public static Step Direct(KitSurroundings has, int place, string id, string name, int after, string words) =>
        Direct(has, place, id, name, StepMoment.After(after), words);

    public static Step Direct(
        KitSurroundings has,
        int place,
        string id,
        string name,
        StepMoment moment,
        string words
    ) => Of(id, name, StepKinds.DirectPost, moment, ("person", has.Person(place)), ("words", words));

    public static Step Notice(KitSurroundings has, string id, string name, int after, string words) =>
        Colleague(StepKinds.Notice, has, id, name, after, words);

    public static Step Colleague(string kind, KitSurroundings has, string id, string name, int after, string words) =>
        Of(
            id,
            name,
            kind,
            StepMoment.After(after),
            ("colleague", has.Colleagues.Count > 0 ? has.Colleagues[^1] : "owner"),
            ("words", words)
        );

    public static Step Tag(string id, string name, string tag, StepMoment? moment = null) =>
        Of(id, name, StepKinds.Tag, moment ?? StepMoment.AtOnce, ("tag", tag));

    public static Step Untag(string id, string name, string tag, StepMoment moment) =>
        Of(id, name, StepKinds.Untag, moment, ("tag", tag));

    private static Step Of(
        string id,
        string name,
        string kind,
        StepMoment moment,
        params (string Key, string Value)[] settings
    ) => new(id, name, kind, moment, settings.ToDictionary(s => s.Key, s => s.Value, StringComparer.Ordinal));
}
