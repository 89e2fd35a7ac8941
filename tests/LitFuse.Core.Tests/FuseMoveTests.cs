using CsCheck;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using NodaTime;
using Xunit;
using static LitFuse.Core.Tests.Fixtures;

namespace LitFuse.Core.Tests;

/// <summary>A burn in flight taken over by another version of its fuse.</summary>
public sealed class FuseMoveTests
{
    private static readonly Instant Noon = At("24 12:00:00");

    private static (MovedBurn Moved, BurnLife Life) Move(BurnLife life, FuseDefinition from, FuseDefinition to) =>
        (FuseMove.To(CompiledFuse.From(from), CompiledFuse.From(to), life.State, life.Lead, life.Now), life);

    private static IEnumerable<string> Words(MovedBurn moved) => moved.Changes.Select(c => c.Words);

    [Fact]
    public void To_the_same_version_changes_nothing_and_is_looked_at_anew()
    {
        var fuse = Fuse(Whenever(Post("p"), Text("later", 3600)));
        var (moved, life) = Move(new BurnLife(fuse, Noon).Ends("p"), fuse, fuse);
        Assert.Empty(moved.Changes);
        Assert.Equal(life.State.Steps, moved.State.Steps);
        Assert.Equal(life.Now, moved.State.NextWake);
    }

    [Fact]
    public void A_step_whose_time_has_passed_there_is_due_now()
    {
        var before = Fuse(Whenever(Text("later", 7200)));
        var life = new BurnLife(before, Noon);
        life.Now += Duration.FromHours(1);
        var (moved, _) = Move(life, before, Fuse(Whenever(Text("later", 600))));
        Assert.Equal(life.Now, Assert.Single(moved.State.Steps).DueAt);
        Assert.Equal(["is due now instead of in 60 min"], Words(moved));
    }

    [Fact]
    public void One_under_way_is_kept_and_one_that_is_gone_cannot_be_called_back()
    {
        var before = Fuse(Whenever(Post("p"), Post("q")));
        var life = new BurnLife(before, Noon); // both are on their way
        var (moved, _) = Move(life, before, Fuse(Whenever(Post("p"))));
        Assert.Equal(["p"], moved.State.Steps.Select(s => s.StepId));
        Assert.Empty(moved.Changes);
    }

    [Fact]
    public void A_step_that_lies_in_another_band_there_keeps_its_time_and_belongs_to_that_band()
    {
        var before = Fuse(Whenever(Post("p"), Text("later", 3600)), Big(Post("big")));
        var life = new BurnLife(before, Noon).Ends("p").Ends("big");
        var (moved, _) = Move(life, before, Fuse(Whenever(Post("p")), Big(Post("big"), Text("later", 3600))));
        var step = Assert.Single(moved.State.Steps, s => s.StepId == "later");
        Assert.Equal(("big", Noon + Duration.FromHours(1)), (step.BandId, step.DueAt));
        Assert.Empty(moved.Changes);
    }

    [Fact]
    public void What_is_new_in_a_band_that_was_not_entered_is_not_done()
    {
        var before = Fuse(Whenever(Post("p")), Big(Post("big")));
        var life = new BurnLife(before, Noon, Lead("4–9")).Ends("p");
        var (moved, _) = Move(life, before, Fuse(Whenever(Post("p")), Big(Post("big"), Text("new", 3600))));
        Assert.DoesNotContain(moved.State.Steps, s => s.StepId == "new");
        Assert.Empty(moved.Changes);
    }

    [Fact]
    public void What_only_stands_in_for_another_is_not_begun_by_moving()
    {
        var before = Fuse(Whenever(Text("text", 3600)));
        var to = Fuse(
            Whenever(
                Text("text", 3600) with
                {
                    OnFailure = new StepFailure(Next: FailureThen.Instead, Step: "letter"),
                },
                Text("letter", 7200)
            )
        );
        var (moved, _) = Move(new BurnLife(before, Noon), before, to);
        Assert.Equal(["text"], moved.State.Steps.Select(s => s.StepId));
    }

    [Fact]
    public void A_band_that_is_gone_takes_its_silences_along()
    {
        var quiet = new Band(
            "quiet",
            "No reply",
            new(EntryKind.Silence, Of: "text", ForSeconds: 7200),
            [Text("remind")]
        );
        var before = Fuse(Whenever(Text("text")), quiet);
        var life = new BurnLife(before, Noon).Ends("text");
        Assert.Single(life.State.Silences);
        var (moved, _) = Move(life, before, Fuse(Whenever(Text("text"))));
        Assert.Empty(moved.State.Silences);
        Assert.DoesNotContain(moved.State.Bands, b => b.BandId == "quiet");
    }

    [Fact]
    public void A_burn_that_was_moved_goes_on_by_the_new_version()
    {
        var before = Fuse(Whenever(Post("p"), Text("later", 3600)));
        var after = Fuse(Whenever(Post("p"), Text("later", 1800), Text("new", 5400)));
        var life = new BurnLife(before, Noon).Ends("p");
        life.Now += Duration.FromMinutes(10);
        var (moved, _) = Move(life, before, after);
        var goesOn = new BurnLife(after, Noon).Ends("p");
        goesOn.State = moved.State;
        goesOn.Now = life.Now;
        goesOn.Pass(Duration.FromHours(3));
        Assert.Equal((StepStatus.Done, StepStatus.Done), (goesOn.Step("later"), goesOn.Step("new")));
        Assert.All(goesOn.State.Bands, b => Assert.True(b.Over));
    }

    [Fact]
    public void Nothing_that_was_done_is_done_twice_whatever_the_versions() =>
        Gen.Select(GenFuses.GenFuse, GenFuses.GenFuse, Gen.Int[0, 200])
            .Sample(
                (from, to, minutes) =>
                {
                    var life = new BurnLife(from, Noon).Pass(Duration.FromMinutes(minutes));
                    var done = life.State.Steps.Where(s => s.Over).Select(s => s.StepId).ToHashSet();
                    var (moved, _) = Move(life, from, to);
                    var waiting = moved
                        .State.Steps.Where(s => s.Status == StepStatus.Waiting)
                        .Select(s => s.StepId)
                        .ToList();
                    return !waiting.Exists(done.Contains)
                        && waiting.Count == waiting.Distinct().Count()
                        && moved.State.Steps.All(s =>
                            s.Status != StepStatus.Waiting
                            || s.DueAt >= life.Now
                            || life.State.Steps.Any(b => b.StepId == s.StepId && b.DueAt == s.DueAt)
                        )
                        && moved.State.Bands.All(b => to.Bands.Any(t => t.Id == b.BandId));
                },
                iter: 300
            );
}
