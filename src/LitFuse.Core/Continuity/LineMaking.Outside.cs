namespace LitFuse.Core.Continuity;

internal sealed partial class LineMaking
{
    public void Access()
    {
        Refused();
        if (form is { Access: null, NeedsAccess: false })
            return;
        if (form.Access is { } access)
            Access(access);
        else
            Put(
                JointKind.Access,
                form.Network,
                [
                    new(
                        "access",
                        JointKind.Access,
                        $"{form.Source} is not connected to {form.Network} any more.",
                        AtSource($"Connect {form.Network}")
                    ),
                ],
                ""
            );
    }

    private void Refused()
    {
        if (form.Refused is { } refused)
            Put(
                JointKind.Access,
                form.Network,
                refused.Cuts
                    ?
                    [
                        new(
                            "refused",
                            JointKind.Access,
                            $"What is sent here is refused again and again, and nothing was taken in between: {refused.Detail} If {form.Network} sends it, it does not show what it must; if not, somebody is trying the address.",
                            AtSource("See what a sender must show, and copy it there")
                        ),
                    ]
                    : [],
                $"{Many(refused.Times, "submission was", "submissions were")} refused: {refused.Detail} Leads go on; should it go on with nothing good in between, that is a cut.",
                form.Proof is null ? LineState.Unproven : LineState.Whole
            );
    }

    private void Access(LineAccess access)
    {
        var why = access.Standing switch
        {
            AccessStanding.RanOut => $"The access to {form.Network} ran out.",
            AccessStanding.TakenBack => $"The access was taken back at {form.Network}.",
            AccessStanding.Unreachable => access.Fault ?? $"{form.Network} does not answer.",
            _ => null,
        };
        var mend =
            access.Standing == AccessStanding.Unreachable
                ? AtSource($"Look at {form.Network}, and ask again")
                : AtSource($"Connect {form.Network} again; what came meanwhile is fetched then");
        Put(
            JointKind.Access,
            form.Network,
            why is null ? [] : [new("access." + access.Standing, JointKind.Access, why, mend)],
            $"{form.Network} lets us in."
        );
        Put(
            JointKind.Permissions,
            "permissions",
            [
                .. (access.Missing ?? []).Select(m => new Cut(
                    "permission." + m.Name,
                    JointKind.Permissions,
                    $"“{m.Name}” was not given: {m.Without}.",
                    AtSource($"Connect {form.Network} again and leave it ticked")
                )),
            ],
            access.Missing is null
                ? $"{form.Network} has not been asked yet what we may do."
                : "Every permission it needs was given.",
            access.Missing is null ? LineState.Unproven : LineState.Whole
        );
    }

    public void Standing()
    {
        var found = new List<Cut>();
        void Cut(string key, string cause, Mend mend) => found.Add(new("form." + key, JointKind.Form, cause, mend));
        switch (form.Standing)
        {
            case FormStanding.NotChosen:
                Cut(
                    "not-chosen",
                    "The form is not chosen: what it sends is left where it is.",
                    AtSource("Choose the form")
                );
                break;
            case FormStanding.NotPublished:
                Cut("not-published", "The form is being built and is not published.", AtForm("Publish it"));
                break;
            case FormStanding.Paused:
                Cut(
                    "paused",
                    form.Waiting > 0
                        ? $"The form is paused, and {Many(form.Waiting, "submission waits", "submissions wait")}."
                        : "The form is paused: whatever comes will wait.",
                    AtForm("Resume it; what waits goes on, in order")
                );
                break;
            default:
                break;
        }

        if (form.ArchivedAt is not null)
            Cut(
                "archived",
                $"The form is archived at {form.Network}: nobody can fill it in.",
                AtSource("Choose the form that took its place, or bring it back there")
            );
        if (form.AdState is "stopped")
            Cut(
                "ad-stopped",
                $"Its ad is stopped at {form.Network}: nobody is shown it.",
                AtSource($"Start the ad at {form.Network}, then look again")
            );
        if (form.AdState is "waiting")
            Cut(
                "ad-waiting",
                $"Its ad waits for approval at {form.Network}: nobody is shown it yet.",
                AtSource($"See to the approval at {form.Network}, then look again")
            );
        Put(
            JointKind.Form,
            "form",
            found,
            form.AdState is "running" ? "It receives, and its ad runs." : "It receives."
        );
    }

    public void Thanks()
    {
        if (form.Thanks is { } thanks)
        {
            Put(
                JointKind.ThankYou,
                "thank-you",
                thanks.Fault is null
                    ? []
                    :
                    [
                        new(
                            "thank-you",
                            JointKind.ThankYou,
                            $"The address people are sent on to does not answer: it {thanks.Fault}.",
                            AtForm("Look at the address", "ways")
                        ),
                    ],
                thanks.AskedAt is null
                    ? "Its thank-you address has not been asked yet."
                    : "Its thank-you address answers.",
                thanks.Fault is null && thanks.AskedAt is null ? LineState.Unproven : LineState.Whole
            );
        }

        if (form.Visits is not var (with, empty))
            return;
        var bad = empty >= LeastVisits && empty >= MostEmpty * (with + empty);
        Put(
            JointKind.Visits,
            "answers",
            bad
                ?
                [
                    new(
                        "visits",
                        JointKind.Visits,
                        $"Visitors are sent through without their answers: {empty} of {with + empty} this week.",
                        AtForm("See how the form must send them", "ways")
                    ),
                ]
                : [],
            with == 0 ? "Nobody has been sent through yet." : "Visitors bring their answers.",
            with == 0 ? LineState.Unproven : LineState.Whole
        );
    }
}
