using Fluid;
using Fluid.Ast;

namespace LitFuse.Core.Words;

/// <summary>What words can speak of: names to values, one level deep (<c>lead.first_name</c>, <c>client.name</c>), and the answers as asked.</summary>
/// <param name="Lead">By lead field key.</param>
/// <param name="Client">By client fact: <c>name</c>.</param>
/// <param name="Form">By form fact: <c>name</c>.</param>
/// <param name="Answers">The questions as labelled on the form and what was answered, in order.</param>
public sealed record WordFacts(
    IReadOnlyDictionary<string, string> Lead,
    IReadOnlyDictionary<string, string> Client,
    IReadOnlyDictionary<string, string> Form,
    IReadOnlyList<KeyValuePair<string, string>> Answers);

/// <summary>
/// A message's words with fields in them, in Liquid: <c>{{ lead.first_name | default: "Hello" }}</c>.
/// Parsed once; rendering is bounded and touches nothing but the facts handed in.
/// </summary>
public sealed class MessageWords
{
    /// <summary>The longest words a step may have, in characters.</summary>
    public const int Longest = 4000;

    private static readonly FluidParser Parser = new();

    private static readonly TemplateOptions Bounded = new()
    {
        MaxSteps = 20_000,
        MaxRecursion = 20,
        CultureInfo = System.Globalization.CultureInfo.InvariantCulture,
    };

    private readonly IFluidTemplate template;

    private MessageWords(IFluidTemplate template, IReadOnlyList<string> uses)
    {
        this.template = template;
        Uses = uses;
    }

    /// <summary>The facts the words speak of, as paths: <c>lead.first_name</c>, <c>answers</c>.</summary>
    public IReadOnlyList<string> Uses { get; }

    /// <summary>Parses <paramref name="text"/>.</summary>
    /// <returns>The words, or <c>null</c> with what is wrong and where.</returns>
    public static (MessageWords? Words, string? Fault) Parse(string text)
    {
        if (string.IsNullOrWhiteSpace(text)) return (null, "there are no words in it");
        if (text.Length > Longest) return (null, $"{text.Length} characters; at most {Longest} are sent");
        if (!Parser.TryParse(text, out var template, out var error)) return (null, error);
        var visitor = new PathVisitor();
        visitor.VisitTemplate(template);
        return (new MessageWords(template, visitor.Paths), null);
    }

    /// <summary>The words with the facts put in. White space left by empty fields is tidied within each line.</summary>
    public string Render(WordFacts facts)
    {
        var context = new TemplateContext(Bounded);
        context.SetValue("lead", Named(facts.Lead));
        context.SetValue("client", Named(facts.Client));
        context.SetValue("form", Named(facts.Form));
        context.SetValue("answers", facts.Answers.Select(a => new Dictionary<string, object>(StringComparer.Ordinal) { ["label"] = a.Key, ["value"] = a.Value }).ToList());
        return Tidy(template.Render(context, NullEncoder.Default));
    }

    private static Dictionary<string, object> Named(IReadOnlyDictionary<string, string> facts) =>
        facts.ToDictionary(f => f.Key, f => (object)f.Value, StringComparer.Ordinal);

    private static string Tidy(string text)
    {
        var lines = text.ReplaceLineEndings("\n").Split('\n').Select(line =>
        {
            var words = string.Join(' ', line.Split(' ', StringSplitOptions.RemoveEmptyEntries));
            return words.Replace(" ,", ",", StringComparison.Ordinal).Replace(" .", ".", StringComparison.Ordinal);
        });
        return string.Join('\n', lines).Trim('\n', ' ');
    }

    private sealed class PathVisitor : AstVisitor
    {
        private readonly HashSet<string> own = new(StringComparer.Ordinal) { "forloop" };
        private readonly List<string> paths = [];

        public IReadOnlyList<string> Paths => paths.Distinct(StringComparer.Ordinal).ToList();

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

        protected override Expression VisitMemberExpression(MemberExpression memberExpression)
        {
            var names = memberExpression.Segments.TakeWhile(s => s is IdentifierSegment).Cast<IdentifierSegment>().Select(s => s.Identifier).ToList();
            if (names.Count > 0 && !own.Contains(names[0])) paths.Add(string.Join('.', names.Take(2)));
            return base.VisitMemberExpression(memberExpression);
        }
    }
}
