using LitFuse.Core.Continuity;
using NodaTime;
using Xunit;

namespace LitFuse.Core.Tests.Continuity;

/// <summary>What is chance, a stranger or a half-built form is no cut.</summary>
public sealed class DoubtTests
{
    [Theory]
    [InlineData(20, 20, 0, false)]
    [InlineData(14, 20, 4, false)] // four running say too little
    [InlineData(14, 20, 6, true)]
    [InlineData(5, 11, 6, true)] // five with, then six without: renamed soon after it began
    [InlineData(6, 20, 5, false)] // two of five fill it: five without running are nothing
    [InlineData(5, 20, 10, true)]
    [InlineData(0, 4, 4, false)]
    [InlineData(0, 5, 5, true)]
    [InlineData(1, 100, 40, false)] // hardly anybody ever fills it
    public void A_field_has_stopped_when_chance_cannot_explain_it(int times, int of, int lately, bool stopped) =>
        Assert.Equal(stopped, new Filled(times, of, lately).Stopped);

    [Theory]
    [InlineData(1, 0, false)] // one stray post
    [InlineData(500, 2, false)] // somebody hammers for two minutes
    [InlineData(2, 60, false)]
    [InlineData(3, 10, true)]
    [InlineData(40, 600, true)]
    public void Refusals_cut_a_line_only_when_they_go_on_and_nothing_good_comes(int times, int minutes, bool cuts)
    {
        var refused = new DoorRefusals(
            times,
            LineFacts.Now - Duration.FromMinutes(minutes),
            LineFacts.Now,
            "There is no webhook-signature header."
        );
        Assert.Equal(cuts, refused.Cuts);
        var facts = new LineFacts();
        facts = facts with { Form = facts.Form with { Refused = refused } };
        var line = facts.Line();
        Assert.Equal(cuts ? LineState.Cut : LineState.Whole, line.State);
        Assert.Contains(line.Joints, j =>
            j.Words.Contains("There is no webhook-signature header.", StringComparison.Ordinal)
        );
    }

    [Fact]
    public void A_disarmed_fuse_of_any_form_is_not_said_to_be_this_ones()
    {
        var facts = new LineFacts { Standing = FuseStanding.Disarmed };
        facts = facts with { Fuse = facts.Fuse with { LitBy = [new(Core.Fuses.Definition.EventKeys.Submission)] } };
        var cut = Assert.Single(facts.Line().Cuts, c => c.Joint == JointKind.Fuse);
        Assert.StartsWith("No fuse is lit by it", cut.Cause, StringComparison.Ordinal);
        Assert.Equal(MendPlace.NewFuse, cut.Mend.Place);
    }
}
