using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Guards;
using LitFuse.Server.Features.Leads;
using Xunit;

namespace LitFuse.Shape.Tests;

/// <summary>
/// Words that screens and files share are said in the core or the server; the front end has them as a file, which is
/// made from there (<c>LITFUSE_WRITE=1</c>) and held here. So are sentences that both put together.
/// </summary>
public sealed class SharedWordsTests
{
    private static readonly JsonSerializerOptions Readable = new(CoreJson.Options)
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
        WriteIndented = false,
    };

    [Fact]
    public void The_front_end_has_the_words_of_the_core()
    {
        var text = new StringBuilder("{\n");
        Rows(
            text,
            "ruleOps",
            RuleOps.All.Select(o =>
                Json(
                    new
                    {
                        o.Op,
                        o.Words,
                        o.Between,
                        o.Takes,
                    }
                )
            )
        );
        text.Append(",\n");
        Rows(
            text,
            "leadColumns",
            LeadColumns.All.Select(c =>
                Json(
                    new
                    {
                        c.Key,
                        c.Heading,
                        c.Shown,
                        InFile = c.InFile ?? [c.Key],
                    }
                )
            )
        );
        text.Append(",\n").Append($"  \"usualLeadColumns\": {Json(LeadColumns.Usual)}\n}}\n");
        Held("web/src/api/words.json", text.ToString());
    }

    [Fact]
    public void Sentences_of_rules_are_the_same_on_both_sides()
    {
        var every = RuleOps.All.Select(o => new Rule("fleet_size", o.Op, ValuesOf(o))).ToList();
        RuleSet[] sets =
        [
            .. every.Select(r => new RuleSet(RuleMatch.All, [r])),
            new(RuleMatch.All, every),
            new(RuleMatch.Any, [.. every.Take(2)]) { Groups = [new(RuleMatch.All, [.. every.TakeLast(2)])] },
            new(RuleMatch.All, [new("fleet_size", RuleOp.OneOf, ["25+"])]),
            new(RuleMatch.All, [new("fleet_size", RuleOp.AtLeast, [])]),
        ];
        var text = new StringBuilder("[\n");
        text.AppendJoin(",\n", sets.Select(s => $"  {Json(new { Rules = s, Says = Guard.Say(s) })}")).Append("\n]\n");
        Held("tests/web/ruleSentences.json", text.ToString());
    }

    private static string[] ValuesOf(RuleOpWords words) =>
        words.Takes switch
        {
            RuleTakes.None => [],
            RuleTakes.One => ["3"],
            _ => ["3", "8"],
        };

    private static void Rows(StringBuilder text, string name, IEnumerable<string> rows) =>
        text.Append($"  \"{name}\": [\n    ").AppendJoin(",\n    ", rows).Append("\n  ]");

    private static string Json<T>(T value) => JsonSerializer.Serialize(value, Readable);

    private static void Held(string path, string made)
    {
        var file = Path.Combine(Tree.Root, path);
        if (Environment.GetEnvironmentVariable("LITFUSE_WRITE") == "1")
            File.WriteAllText(file, made);
        else
            Assert.Equal(made, File.ReadAllText(file));
    }
}
