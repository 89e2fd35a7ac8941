using LitFuse.Core.Calling;
using LitFuse.Data;
using NodaTime;

namespace LitFuse.Server.Features.Calls;

/// <summary>A ring-through as screens show it.</summary>
/// <param name="Outcome">How it ended; <c>null</c> while it goes on.</param>
/// <param name="Phones">Of the team, in the order they were rung, and the lead's last.</param>
public sealed record CallShown(
    Guid Id,
    Guid LeadId,
    string Lead,
    CallStage Stage,
    CallOutcome? Outcome,
    string? Because,
    string? By,
    Instant BeganAt,
    Instant? JoinedAt,
    Instant? EndedAt,
    string? Step,
    IReadOnlyList<PhoneShown> Phones
)
{
    /// <summary>The same for screens.</summary>
    public static CallShown Of(Call call) =>
        new(
            call.Id,
            call.LeadId,
            call.Plan.Lead,
            call.State.Stage,
            call.State.Outcome,
            call.State.Because,
            call.State.AcceptedBy is { } by ? call.Plan.Team[by].Name : null,
            call.BeganAt,
            call.State.JoinedAt,
            call.EndedAt,
            call.Step,
            [
                .. call.State.Legs.Select(l => new PhoneShown(
                    l.Person == CallLeg.OfLead ? call.Plan.Lead : call.Plan.Team[l.Person].Name,
                    l.Person == CallLeg.OfLead,
                    l.State
                )),
            ]
        );
}

/// <summary>One phone of it.</summary>
public sealed record PhoneShown(string Who, bool OfLead, LegState State);
