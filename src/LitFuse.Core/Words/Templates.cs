using System.Text;
using Fluid;
using Fluid.Ast;
using Fluid.Values;

namespace LitFuse.Core.Words;

/// <summary>What became of words: the text, or why there is none.</summary>
/// <param name="Text">The words with the facts put in; empty where <paramref name="Fault"/> is set.</param>
/// <param name="Fault">Why they could not be put together, as a clause without a full stop.</param>
public readonly record struct Rendered(string Text, string? Fault)
{
    /// <summary>There is no text, and this is why.</summary>
    public static Rendered Not(string fault) => new("", fault);
}

/// <summary>
/// The one place where Liquid runs. Whatever a template says, running it costs at most a budget of steps and of
/// characters made, and ends in a <see cref="Rendered"/>: it never throws. There is no limit in seconds, because the
/// same words must come out the same on every machine; the budget of work is what bounds the time.
/// </summary>
public static class Templates
{
    /// <summary>Statements and turns of loops that one rendering may run.</summary>
    public const int MostSteps = 5_000;

    /// <summary>Characters and list entries that one rendering may make, thrown away or not.</summary>
    public const int MostMade = 200_000;

    /// <summary>The longest text that comes out, in characters; a longer one is cut.</summary>
    public const int LongestOut = 20_000;

    /// <summary>The longest range that may be written, in numbers.</summary>
    public const int LongestRange = 1_000;

    private const int MostRecursion = 20;
    private const string RunKey = "run";
    private const int MostSpare = 8_192;

    private static readonly WordsParser Parser = new();
    private static readonly TemplateOptions Bounded = Options();

    // One for each thread: most messages are short, and a burst of them is put together by few threads.
    [ThreadStatic]
    private static StringBuilder? spare;

    /// <summary>The filters that there are: Liquid's own and ours.</summary>
    public static IReadOnlyList<string> Filters { get; } = [.. Bounded.Filters.Select(f => f.Key)];

    internal static bool Knows(string filter) => Bounded.Filters.TryGetValue(filter, out _);

    internal static TemplateOptions Settings => Bounded;

    /// <summary>Parses <paramref name="text"/>.</summary>
    /// <returns>A template, or what is wrong and where.</returns>
    internal static (IFluidTemplate? Template, string? Fault) Parse(string text)
    {
        try
        {
            if (!Parser.TryParse(text, out var template, out var error))
                return (null, error);
            var ranges = new RangeCheck();
            ranges.VisitTemplate(template);
            return ranges.Fault is { } fault ? (null, fault) : (template, null);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            // The parser converts numbers as it reads: one beyond any type throws out of it.
            return (null, "it cannot be read: " + Plainly(e));
        }
    }

    /// <summary>Runs a template.</summary>
    /// <param name="template">As <see cref="Parse"/> made it.</param>
    /// <param name="facts">What filters know.</param>
    /// <param name="layOut">Lays out the names that the template speaks of.</param>
    internal static Rendered Render(IFluidTemplate template, WordFacts facts, Action<TemplateContext, WordFacts> layOut)
    {
        var context = new TemplateContext(Bounded);
        var run = new Run(facts);
        context.AmbientValues[RunKey] = run;
        layOut(context, facts);
        var made = spare ?? new StringBuilder();
        spare = null;
        try
        {
            // Everything in it runs at once: no value and no filter waits for anything.
            using var written = new MeteredWriter(run, made);
            var rendering = template.RenderAsync(written, NullEncoder.Default, context);
            if (!rendering.IsCompletedSuccessfully)
                rendering.AsTask().GetAwaiter().GetResult();
            return new(made.ToString(0, Math.Min(made.Length, LongestOut)), null);
        }
        catch (BudgetException e)
        {
            return Rendered.Not(e.Message);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return Rendered.Not(
                e is InvalidOperationException ? $"they take more than {MostSteps:#,0} steps" : Plainly(e)
            );
        }
        finally
        {
            if (made.Capacity <= MostSpare)
                spare = made.Clear();
        }
    }

    // Never a name of .NET's own: who reads it wrote words, not code.
    private static string Plainly(Exception e) =>
        e switch
        {
            DivideByZeroException => "they divide by nought",
            OverflowException => "a number in them is too large",
            ArgumentOutOfRangeException => "a date or number in them is out of range",
            _ => "something in them cannot be worked out",
        };

    private static TemplateOptions Options()
    {
        var options = new TemplateOptions
        {
            MaxSteps = MostSteps,
            MaxRecursion = MostRecursion,
            CultureInfo = System.Globalization.CultureInfo.InvariantCulture,
        };
        WordFilters.AddTo(options.Filters);
        foreach (var (name, filter) in options.Filters.ToList())
            options.Filters.AddFilter(name, Metered(name, filter));
        return options;
    }

    // Each filter pays for what it makes; those that can multiply are asked before.
    private static FilterDelegate Metered(string name, FilterDelegate filter)
    {
        Func<FluidValue, FilterArguments, long>? before = name switch
        {
            "replace" or "replace_first" or "replace_last" => Replaced,
            "join" or "array_to_sentence_string" => (input, arguments) =>
                (long)Size(input) * Math.Max(1, arguments.At(0).ToStringValue().Length),
            "add_days" or "add_working_days" => (_, arguments) =>
                (long)Math.Clamp(Math.Abs(arguments.At(0).ToNumberValue()), 0, WordFilters.MostDays),
            _ => null,
        };
        return (input, arguments, context) =>
        {
            var run = RunOf(context);
            run.Spend(1 + (before?.Invoke(input, arguments) ?? 0));
            var made = filter(input, arguments, context);
            if (made.IsCompletedSuccessfully)
                run.Spend(Size(made.Result));
            return made;
        };
    }

    private static long Replaced(FluidValue input, FilterArguments arguments)
    {
        if (arguments.Count < 2)
            return 0;
        var (text, what, with) = (
            input.ToStringValue(),
            arguments.At(0).ToStringValue(),
            arguments.At(1).ToStringValue()
        );
        return text.Length + ((long)with.Length * (what.Length == 0 ? text.Length + 1 : Count(text, what)));
    }

    private static int Count(string text, string what)
    {
        var count = 0;
        for (
            var at = text.IndexOf(what, StringComparison.Ordinal);
            at >= 0;
            at = text.IndexOf(what, at + what.Length, StringComparison.Ordinal)
        )
            count++;
        return count;
    }

    private static int Size(FluidValue value) =>
        value switch
        {
            StringValue text => text.ToStringValue().Length,
            ArrayValue list => list.Values.Sum(v => 1 + (v is StringValue text ? text.ToStringValue().Length : 1)),
            _ => 1,
        };

    internal static WordFacts FactsOf(TemplateContext context) => RunOf(context).Facts;

    private static Run RunOf(TemplateContext context) => (Run)context.AmbientValues[RunKey];

    /// <summary>One rendering: what it may speak of, and what it may still make.</summary>
    private sealed class Run(WordFacts facts)
    {
        private long left = MostMade;

        public WordFacts Facts { get; } = facts;

        public void Spend(long characters)
        {
            left -= characters;
            if (left < 0)
                throw new BudgetException($"they make more than {MostMade:#,0} characters on the way");
        }
    }

    private sealed class BudgetException(string message) : Exception(message);

    // What is written, for the reader or into a capture, is paid for as it is written.
    private sealed class MeteredWriter(Run budget, StringBuilder into)
        : StringWriter(into, System.Globalization.CultureInfo.InvariantCulture)
    {
        public override void Write(char value)
        {
            budget.Spend(1);
            base.Write(value);
        }

        public override void Write(char[] buffer, int index, int count)
        {
            budget.Spend(count);
            base.Write(buffer, index, count);
        }

        public override void Write(ReadOnlySpan<char> buffer)
        {
            budget.Spend(buffer.Length);
            base.Write(buffer);
        }

        public override void Write(string? value)
        {
            budget.Spend(value?.Length ?? 0);
            base.Write(value);
        }
    }

    // Liquid without the tags that bring in or define other words, and with a capture that pays for what it takes.
    private sealed class WordsParser : FluidParser
    {
        public WordsParser()
        {
            foreach (var tag in new[] { "include", "render", "macro", "from", "tablerow", "capture" })
                RegisteredTags.Remove(tag);
            RegisterIdentifierBlock("capture", static (name, statements, _, encoder, context) =>
            {
                using var taken = new MeteredWriter(RunOf(context), new StringBuilder());
                var completion = statements
                    .RenderStatementsAsync(taken, encoder, context)
                    .AsTask()
                    .GetAwaiter()
                    .GetResult();
                context.SetValue(name, new StringValue(taken.ToString()));
                return new(completion);
            });
        }
    }

    // A range is made whole before anything goes through it, so how long it is must be known beforehand.
    private sealed class RangeCheck : AstVisitor
    {
        public string? Fault { get; private set; }

        protected override Expression VisitRangeExpression(RangeExpression rangeExpression)
        {
            if (Number(rangeExpression.From) is not { } from || Number(rangeExpression.To) is not { } to)
                Fault ??= "a range such as (1..5) is written with two numbers";
            else if (to - from >= LongestRange)
                Fault ??= $"the range ({from}..{to}) is longer than {LongestRange:#,0}";
            return base.VisitRangeExpression(rangeExpression);
        }

        private static decimal? Number(Expression of) =>
            of is LiteralExpression { Value: NumberValue number } ? number.ToNumberValue() : null;
    }
}
