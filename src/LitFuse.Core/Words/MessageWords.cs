using Fluid;
using Fluid.Ast;
using Fluid.Values;
using LitFuse.Core.Fields;
using LitFuse.Core.Hours;
using NodaTime;

namespace LitFuse.Core.Words;

/// <summary>
/// What words can speak of: names to values, one level deep (<c>lead.first_name</c>, <c>client.name</c>), and the
/// answers as asked.
/// </summary>
/// <param name="Lead">By lead field key.</param>
/// <param name="Client">By client fact: <c>name</c>.</param>
/// <param name="Form">By form fact: <c>name</c>.</param>
/// <param name="Answers">The questions as labelled on the form and what was answered, in order.</param>
public sealed record WordFacts(
    IReadOnlyDictionary<string, string> Lead,
    IReadOnlyDictionary<string, string> Client,
    IReadOnlyDictionary<string, string> Form,
    IReadOnlyList<KeyValuePair<string, string>> Answers
)
{
    private static readonly Dictionary<string, string> Nothing = new(StringComparer.Ordinal);

    /// <summary>Who answers for the lead: <c>name</c>, <c>first_name</c>, <c>email</c>.</summary>
    public IReadOnlyDictionary<string, string> Owner { get; init; } = Nothing;

    /// <summary>The fuse: <c>name</c>, <c>link</c>.</summary>
    public IReadOnlyDictionary<string, string> Fuse { get; init; } = Nothing;

    /// <summary>What came along with the submission: <c>utm_campaign</c>, <c>page</c>.</summary>
    public IReadOnlyDictionary<string, string> Tracking { get; init; } = Nothing;

    /// <summary>What they replied last: <c>text</c>, <c>meaning</c>, <c>choice</c>.</summary>
    public IReadOnlyDictionary<string, string> Reply { get; init; } = Nothing;

    /// <summary>Results of earlier steps, by step id.</summary>
    public IReadOnlyDictionary<string, IReadOnlyDictionary<string, string>> Steps { get; init; } =
        new Dictionary<string, IReadOnlyDictionary<string, string>>(StringComparer.Ordinal);

    /// <summary>What they may answer with, of the step whose words these are.</summary>
    public IReadOnlyList<string> Choices { get; init; } = [];

    /// <summary>The moment, for words about days.</summary>
    public Instant Now { get; init; }

    /// <summary>The zone that days are told in.</summary>
    public DateTimeZone Zone { get; init; } = DateTimeZone.Utc;

    /// <summary>The client's working days.</summary>
    public IReadOnlyList<IsoDayOfWeek> WorkDays { get; init; } = OpenHours.EveryDay;

    /// <summary>ISO 4217, for amounts without a currency.</summary>
    public string Currency { get; init; } = "";

    /// <summary>ISO 3166-1 alpha-2, for telephone numbers.</summary>
    public string Country { get; init; } = "";

    /// <summary>The client's own lead fields as people read them, by key.</summary>
    public Func<string, LeadField?>? Known { get; init; }

    /// <summary>A lead field as people read it.</summary>
    public string LabelOf(string field) => field == "name" ? "Name" : LeadField.LabelOf(field, Known ?? (_ => null));
}

/// <summary>
/// A message's words with fields in them, in Liquid: <c>{{ lead.first_name | default: "Hello" }}</c>.
/// Parsed once; <see cref="Templates"/> runs them within a budget, and they touch nothing but the facts handed in.
/// </summary>
public sealed class MessageWords
{
    /// <summary>The longest words a step may have, in characters.</summary>
    public const int Longest = 4000;

    private readonly IFluidTemplate template;
    private readonly string[] names;
    private readonly Action<TemplateContext, WordFacts> layOut;

    private MessageWords(IFluidTemplate template, PathVisitor seen)
    {
        this.template = template;
        Uses = seen.Paths;
        names = seen.Names;
        Filters = seen.Filters;
        layOut = LayOut;
    }

    /// <summary>
    /// The facts the words speak of, as paths: <c>lead.first_name</c>, <c>answers</c>, <c>steps.s1.url</c>.
    /// </summary>
    public IReadOnlyList<string> Uses { get; }

    /// <summary>The filters in them.</summary>
    public IReadOnlyList<string> Filters { get; }

    /// <summary>Parses <paramref name="text"/>.</summary>
    /// <returns>The words, or <c>null</c> with what is wrong and where.</returns>
    public static (MessageWords? Words, string? Fault) Parse(string text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return (null, "there are no words in it");
        if (text.Length > Longest)
            return (null, $"{text.Length} characters; at most {Longest} are sent");
        var (template, fault) = Templates.Parse(text);
        if (template is null)
            return (null, fault);
        var visitor = new PathVisitor();
        visitor.VisitTemplate(template);
        var unknown = visitor.Filters.FirstOrDefault(f => !Templates.Knows(f));
        return unknown is null
            ? (new MessageWords(template, visitor), null)
            : (null, $"there is no filter '{unknown}'");
    }

    /// <summary>
    /// The words with the facts put in, or why there are none. White space left by empty fields is tidied within each
    /// line.
    /// </summary>
    public Rendered Render(WordFacts facts)
    {
        var made = Templates.Render(template, facts, layOut);
        return made.Fault is null ? made with { Text = Tidy(made.Text) } : made;
    }

    // Only what these words speak of is laid out for them.
    private void LayOut(TemplateContext context, WordFacts facts)
    {
        foreach (var name in names)
        {
            FluidValue? value = name switch
            {
                "lead" => new NamedFacts(facts.Lead),
                "client" => new NamedFacts(facts.Client),
                "form" => new NamedFacts(facts.Form),
                "owner" => new NamedFacts(facts.Owner),
                "fuse" => new NamedFacts(facts.Fuse),
                "tracking" => new NamedFacts(facts.Tracking),
                "reply" => new NamedFacts(facts.Reply),
                "steps" => FluidValue.Create(
                    facts.Steps.ToDictionary(s => s.Key, s => (object)new NamedFacts(s.Value), StringComparer.Ordinal),
                    Templates.Settings
                ),
                "choices" => new BlockValue([
                    .. facts.Choices.Select(
                        (c, i) => (FluidValue)new StringValue(FormattableString.Invariant($"{i + 1}) {c}"))
                    ),
                ]),
                "answers" => new BlockValue([
                    .. facts
                        .Answers.Where(a => !string.IsNullOrWhiteSpace(a.Value))
                        .Select(a => (FluidValue)new AnswerValue(a.Key, a.Value)),
                ]),
                "now" => new StringValue(NodaTime.Text.InstantPattern.ExtendedIso.Format(facts.Now)),
                _ => null,
            };
            if (value is not null)
                context.SetValue(name, value);
        }
    }

    // Line by line: spaces in a row become one, those at either end and before a comma or a full stop go.
    private static string Tidy(string text)
    {
        var tidy = new System.Text.StringBuilder(text.Length);
        foreach (var line in text.ReplaceLineEndings("\n").AsSpan().EnumerateLines())
        {
            var begun = tidy.Length;
            var space = false;
            foreach (var c in line)
            {
                if (c == ' ')
                {
                    space = tidy.Length > begun;
                    continue;
                }

                if (space && c is not (',' or '.'))
                    tidy.Append(' ');
                space = false;
                tidy.Append(c);
            }

            tidy.Append('\n');
        }

        return tidy.ToString().Trim('\n', ' ');
    }

    // Names to values, looked at where they are: nothing is copied for the words.
    private sealed class NamedFacts(IReadOnlyDictionary<string, string> facts) : FluidValue
    {
        public override FluidValues Type => FluidValues.Dictionary;

        public override bool Equals(FluidValue? other) => ReferenceEquals(this, other);

        public override bool ToBooleanValue() => true;

        public override decimal ToNumberValue() => 0;

        public override string ToStringValue() => "";

        public override object ToObjectValue() => facts;

        public override ValueTask<FluidValue> GetValueAsync(string name, TemplateContext context) =>
            facts.TryGetValue(name, out var value) ? new StringValue(value) : NilValue.Instance;

        public override ValueTask<FluidValue> GetIndexAsync(FluidValue index, TemplateContext context) =>
            GetValueAsync(index.ToStringValue(), context);
    }

    private sealed class PathVisitor : AstVisitor
    {
        private readonly HashSet<string> own = new(StringComparer.Ordinal) { "forloop", "now" };
        private readonly List<string> paths = [];
        private readonly List<string> filters = [];
        private readonly HashSet<string> names = new(StringComparer.Ordinal);

        public IReadOnlyList<string> Paths => paths.Distinct(StringComparer.Ordinal).ToList();

        public string[] Names => [.. names];

        public IReadOnlyList<string> Filters => filters.Distinct(StringComparer.Ordinal).ToList();

        protected override Statement VisitForStatement(ForStatement forStatement)
        {
            own.Add(forStatement.Identifier);
            return base.VisitForStatement(forStatement);
        }

        protected override Statement VisitAssignStatement(AssignStatement assignStatement)
        {
            own.Add(assignStatement.Identifier);
            return base.VisitAssignStatement(assignStatement);
        }

        protected override Expression VisitFilterExpression(FilterExpression filterExpression)
        {
            var input = base.VisitFilterExpression(filterExpression);
            // After what it is applied to: in the order in which they are written.
            filters.Add(filterExpression.Name);
            return input;
        }

        protected override Expression VisitMemberExpression(MemberExpression memberExpression)
        {
            var path = memberExpression
                .Segments.TakeWhile(s => s is IdentifierSegment)
                .Cast<IdentifierSegment>()
                .Select(s => s.Identifier)
                .ToList();
            if (path is [var root, ..])
            {
                names.Add(root);
                if (!own.Contains(root))
                    paths.Add(string.Join('.', path.Take(root == "steps" ? 3 : 2)));
            }

            return base.VisitMemberExpression(memberExpression);
        }
    }
}
