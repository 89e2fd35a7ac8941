using LitFuse.Core.Tests.Continuity;
using Xunit;
using static LitFuse.Core.Tests.Recorded.Recording;

namespace LitFuse.Core.Tests.Recorded;

/// <summary>
/// After how many leads drift and silence are found in made-up histories, and how often where there is none.
/// </summary>
public sealed class HabitRecordings
{
    [Fact]
    public void Drift_and_silence() =>
        Hold(
            "habits",
            Enumerable
                .Range(1, 2)
                .Select(seed => $"drift, false findings {DriftHistories.FalseAlarms(3, 70, seed)}")
                .Concat(
                    Enumerable
                        .Range(1, 2)
                        .SelectMany(seed =>
                            DriftHistories
                                .FoundAfter(2, seed)
                                .OrderBy(f => f.Key, StringComparer.Ordinal)
                                .Select(f => $"drift {f.Key} {Say(f.Value)}")
                        )
                )
                .Concat(
                    Enumerable
                        .Range(1, 2)
                        .Select(seed => $"silence, false alarms {SilenceHistories.FalseAlarms(2, seed)}")
                )
                .Concat(
                    Enumerable
                        .Range(1, 2)
                        .SelectMany(seed => SilenceHistories.FoundAfter(2, seed).Select(f => $"silence {f}"))
                )
        );
}
