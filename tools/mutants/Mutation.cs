using System.Text.RegularExpressions;
using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;
using Microsoft.CodeAnalysis.Text;

namespace LitFuse.Mutants;

/// <summary>One small change to a file: an expression, and what stands in its place.</summary>
/// <param name="File">Relative to the root.</param>
/// <param name="Span">Which characters.</param>
/// <param name="From">The first line of it, from 1.</param>
/// <param name="To">The last.</param>
/// <param name="Was">As it is written.</param>
/// <param name="Becomes">As it is written instead.</param>
public sealed record Mutation(string File, TextSpan Span, int From, int To, string Was, string Becomes)
{
    private static readonly Dictionary<SyntaxKind, string> Operators = new()
    {
        [SyntaxKind.LessThanExpression] = "<=",
        [SyntaxKind.LessThanOrEqualExpression] = "<",
        [SyntaxKind.GreaterThanExpression] = ">=",
        [SyntaxKind.GreaterThanOrEqualExpression] = ">",
        [SyntaxKind.EqualsExpression] = "!=",
        [SyntaxKind.NotEqualsExpression] = "==",
        [SyntaxKind.LogicalAndExpression] = "||",
        [SyntaxKind.LogicalOrExpression] = "&&",
        [SyntaxKind.SubtractExpression] = "+",
        [SyntaxKind.MultiplyExpression] = "+",
    };

    private static readonly Dictionary<string, string> Calls = new(StringComparer.Ordinal)
    {
        ["Min"] = "Max",
        ["Max"] = "Min",
        ["FirstOrDefault"] = "LastOrDefault",
        ["First"] = "Last",
        ["Last"] = "First",
        ["OrderBy"] = "OrderByDescending",
        ["OrderByDescending"] = "OrderBy",
    };

    /// <summary>All changes that can be made in a file.</summary>
    public static IEnumerable<Mutation> In(string file, string text)
    {
        var tree = CSharpSyntaxTree.ParseText(text);
        foreach (var node in tree.GetRoot().DescendantNodes().OfType<ExpressionSyntax>().Where(MayChange))
        {
            if (Other(node) is not { } becomes)
                continue;
            var lines = tree.GetLineSpan(node.Span);
            yield return new(
                file,
                node.Span,
                lines.StartLinePosition.Line + 1,
                lines.EndLinePosition.Line + 1,
                node.ToString(),
                becomes
            );
        }
    }

    /// <summary>The text with these changes in it, each behind its switch; no two overlap.</summary>
    public static string Apply(string text, IReadOnlyList<(Mutation Mutation, int Which)> mutations)
    {
        foreach (var (m, which) in mutations.OrderByDescending(m => m.Mutation.Span.Start))
            text = $"{text[..m.Span.Start]}(Mutants.On({which}) ? ({m.Becomes}) : ({m.Was})){text[m.Span.End..]}";
        return text;
    }

    /// <inheritdoc />
    public override string ToString() => $"{File}:{From}  {Short(Was)}  →  {Short(Becomes)}";

    private static string Short(string text) =>
        text.ReplaceLineEndings(" ") is { Length: > 70 } longer ? longer[..69] + "…" : text.ReplaceLineEndings(" ");

    private static string? Other(ExpressionSyntax node) =>
        node switch
        {
            BinaryExpressionSyntax binary when Operators.TryGetValue(binary.Kind(), out var other) =>
                $"{binary.Left} {other} {binary.Right}",
            LiteralExpressionSyntax { RawKind: (int)SyntaxKind.TrueLiteralExpression } => "false",
            LiteralExpressionSyntax { RawKind: (int)SyntaxKind.FalseLiteralExpression } => "true",
            LiteralExpressionSyntax { RawKind: (int)SyntaxKind.NumericLiteralExpression, Token.Value: int n } => (
                n + 1
            ).ToString(System.Globalization.CultureInfo.InvariantCulture),
            PrefixUnaryExpressionSyntax { RawKind: (int)SyntaxKind.LogicalNotExpression } not => not.Operand.ToString(),
            InvocationExpressionSyntax { Expression: MemberAccessExpressionSyntax member } call
                when Calls.TryGetValue(member.Name.Identifier.Text, out var name) =>
                $"{member.Expression}.{name}{call.ArgumentList}",
            _ => null,
        };

    // Where only a constant may stand, where a name is set for what follows, or where a span is taken, a switch does
    // not fit.
    private static bool MayChange(ExpressionSyntax node) =>
        !node.Ancestors()
            .Any(a =>
                a
                    is AttributeSyntax
                        or ParameterSyntax
                        or CaseSwitchLabelSyntax
                        or EnumMemberDeclarationSyntax
                        or PatternSyntax
                        or InterpolationFormatClauseSyntax
                || (a is FieldDeclarationSyntax f && f.Modifiers.Any(SyntaxKind.ConstKeyword))
                || (a is LocalDeclarationStatementSyntax l && l.IsConst)
            )
        && !node.DescendantNodesAndSelf().Any(d => d is SingleVariableDesignationSyntax or DeclarationExpressionSyntax)
        && !node.Ancestors()
            .TakeWhile(a => a is ExpressionSyntax)
            .Any(a => a is StackAllocArrayCreationExpressionSyntax);
}

/// <summary>Where a compiler says that something is wrong: <c>file.cs(12,5): error</c>.</summary>
internal static partial class CompilerFault
{
    [GeneratedRegex(@"(?<file>[^\s(]+\.cs)\((?<line>\d+),\d+\): error", RegexOptions.ExplicitCapture, 1000)]
    public static partial Regex Place();
}
