namespace LitFuse.Core.Guards;

/// <summary>An operator of rules in words: where it is chosen, and as what a value was found to be.</summary>
/// <param name="Op">Which.</param>
/// <param name="Words">
/// As it is chosen and stands in a sentence: <c>is one of</c>. The values follow, or stand where the dots are.
/// </param>
/// <param name="Being">As what was asked of a value, said afterwards: <c>one of {0}</c>.</param>
/// <param name="Between">What stands between several values.</param>
/// <param name="Takes">With how many values it compares.</param>
public sealed record RuleOpWords(
    RuleOp Op,
    string Words,
    string Being,
    string Between = ", ",
    RuleTakes Takes = RuleTakes.Several
);

/// <summary>With how many values an operator compares.</summary>
public enum RuleTakes
{
    /// <summary>With none.</summary>
    None,

    /// <summary>With one; others are not looked at.</summary>
    One,

    /// <summary>With two bounds.</summary>
    Two,

    /// <summary>With one or more.</summary>
    Several,
}

/// <summary>
/// How facts can be compared, and how that is said. Operators are said here and nowhere else: the front end has this
/// table by way of <c>web/src/api/words.json</c>.
/// </summary>
public static class RuleOps
{
    /// <summary>Every operator, in the order in which it is chosen where nothing tells more.</summary>
    public static IReadOnlyList<RuleOpWords> All { get; } =
    [
        new(RuleOp.OneOf, "is one of", "one of {0}"),
        new(RuleOp.NotOneOf, "is none of", "other than {0}"),
        new(RuleOp.Contains, "contains", "with {0} in it", " or "),
        new(RuleOp.NotContains, "does not contain", "without {0} in it", " or "),
        new(RuleOp.StartsWith, "begins with", "beginning with {0}", " or "),
        new(RuleOp.AtLeast, "is at least", "at least {0}", Takes: RuleTakes.One),
        new(RuleOp.AtMost, "is at most", "at most {0}", Takes: RuleTakes.One),
        new(RuleOp.Between, "is between", "between {0}", " and ", RuleTakes.Two),
        new(RuleOp.Before, "is before", "before {0}", Takes: RuleTakes.One),
        new(RuleOp.After, "is after", "after {0}", Takes: RuleTakes.One),
        new(RuleOp.InNextDays, "is within the next … days", "within the next {0} days", Takes: RuleTakes.One),
        new(RuleOp.InLastDays, "is within the last … days", "within the last {0} days", Takes: RuleTakes.One),
        new(RuleOp.HasAll, "has all of", "with all of {0}"),
        new(RuleOp.Yes, "is yes", "yes", Takes: RuleTakes.None),
        new(RuleOp.No, "is no, or empty", "no", Takes: RuleTakes.None),
        new(RuleOp.Filled, "is filled in", "filled in", Takes: RuleTakes.None),
        new(RuleOp.Empty, "is empty", "left empty", Takes: RuleTakes.None),
    ];

    private static readonly Dictionary<RuleOp, RuleOpWords> ByOp = All.ToDictionary(o => o.Op);

    /// <summary>An operator's words.</summary>
    public static RuleOpWords Of(RuleOp op) => ByOp[op];

    /// <summary>The comparisons that make sense for a type, the usual one first.</summary>
    public static IReadOnlyList<RuleOp> For(FactType type) =>
        type switch
        {
            FactType.Number =>
            [
                RuleOp.AtLeast,
                RuleOp.AtMost,
                RuleOp.Between,
                RuleOp.OneOf,
                RuleOp.NotOneOf,
                RuleOp.Filled,
                RuleOp.Empty,
            ],
            FactType.Choice => [RuleOp.OneOf, RuleOp.NotOneOf, RuleOp.Contains, RuleOp.Filled, RuleOp.Empty],
            FactType.List => [RuleOp.OneOf, RuleOp.HasAll, RuleOp.NotOneOf, RuleOp.Filled, RuleOp.Empty],
            FactType.Date =>
            [
                RuleOp.Before,
                RuleOp.After,
                RuleOp.InNextDays,
                RuleOp.InLastDays,
                RuleOp.OneOf,
                RuleOp.Filled,
                RuleOp.Empty,
            ],
            FactType.YesNo => [RuleOp.Yes, RuleOp.No],
            _ =>
            [
                RuleOp.OneOf,
                RuleOp.NotOneOf,
                RuleOp.Contains,
                RuleOp.NotContains,
                RuleOp.StartsWith,
                RuleOp.AtLeast,
                RuleOp.AtMost,
                RuleOp.Filled,
                RuleOp.Empty,
            ],
        };

    /// <summary>True when the comparison needs values.</summary>
    public static bool NeedsValues(RuleOp op) => ByOp[op].Takes != RuleTakes.None;
}
