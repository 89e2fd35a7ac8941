using System.Globalization;
using LitFuse.Bench;

// What the core does, measured: maps (suggestions on the labelled forms), junk (on made-up submissions), replies (what
// they mean, on the labelled replies), decide (what a decision costs), backtest (leads a second through a fuse), lines
// (all lines of a large client judged, and after one change), drift and silence (false alarms and how soon, on
// generated histories), speed.
//   artifacts/bin/LitFuse.Bench/release/LitFuse.Bench maps|junk|replies|decide|backtest|lines|drift|silence|speed [-v]
var (what, wordy) = (args.FirstOrDefault() ?? "maps", args.Contains("-v"));
switch (what)
{
    case "maps":
        foreach (var heldOut in new[] { false, true })
        {
            var score = LabelledForms.Score(Path.Combine("bench", "maps", "forms.txt"), heldOut);
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{(heldOut ? "held out" : "tuned on")}: {score.Forms} forms, {score.Wanted} fields to find, {score.Suggested} suggested, {score.Right} right: precision {score.Precision:0.000}, recall {score.Recall:0.000}"
                )
            );
            // The held-out half stays unread, so that nobody tunes on it.
            if (wordy && !heldOut)
                foreach (var wrong in score.Wrong)
                    Console.WriteLine("  " + wrong);
        }

        break;
    case "junk":
        var junk = LabelledJunk.Score(1000, 20261125);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{junk.Clean} from people, {junk.FalseAlarms} false alarms ({100.0 * junk.FalseAlarms / junk.Clean:0.0} %); {junk.Junk} junk, {junk.Caught} caught ({100.0 * junk.Caught / junk.Junk:0.0} %)"
            )
        );
        if (wordy)
            foreach (var wrong in junk.Wrong)
                Console.WriteLine("  " + wrong);
        break;
    case "replies":
        foreach (var heldOut in new[] { false, true })
        {
            var (replies, languages, scores, missed) = LabelledReplies.Score(
                Path.Combine("bench", "replies", "replies.txt"),
                heldOut
            );
            Console.WriteLine($"{(heldOut ? "held out" : "tuned on")}: {replies} replies in {languages} languages");
            foreach (var score in scores)
                Console.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"  {score.Meaning, -8} {score.Are, 3} are, {score.Read, 3} read so, {score.Right, 3} right: precision {score.Precision:0.000}, recall {score.Recall:0.000}"
                    )
                );
            if (wordy && !heldOut)
                foreach (var wrong in missed)
                    Console.WriteLine("  " + wrong);
        }

        break;
    case "decide":
        DecideCost.Run();
        break;
    case "backtest":
        Backtests.Run(100_000);
        break;
    case "lines":
        Lines.Run(2000, 500);
        break;
    case "drift":
        Histories.Drift(400, 500, 20261126);
        break;
    case "silence":
        Histories.Silence(250, 20261126);
        break;
    default:
        Throughput.Run(5);
        break;
}
