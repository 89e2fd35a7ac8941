using LitFuse.Core.Fuses;
using LitFuse.Core.Payloads;
using LitFuse.Core.Stories;
using LitFuse.Server.Features.Fuses;
using LitFuse.Server.Features.Intake;
using LitFuse.Server.Features.Leads;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Platform;
using NodaTime;

namespace LitFuse.Server.Engine;

/// <summary>Lights the fuses that a submission lights.</summary>
public sealed class FuseLighter(AppDb db, BurnWriter burns, ClientSetups setups, PublicAddress address)
{
    private readonly Dictionary<(Guid Lead, Guid Fuse), List<Burn>> burnsOf = [];

    /// <summary>True when a burn that was lit wants waking later.</summary>
    public bool Wakes { get; private set; }

    /// <summary>A burn that is there already.</summary>
    public void Know(Burn burn) => BurnsOf(burn.LeadId, burn.FuseId).Add(burn);

    /// <summary>Lights them, in the caller's transaction.</summary>
    /// <param name="askedAt">Since when the age limit counts.</param>
    public void Light(Lead lead, Submission submission, Form form, ClientSetup setup, Payload payload, Instant askedAt, Instant now)
    {
        var facts = LeadFactsReader.Of(lead, setup.Client, form, payload.Answers, address);
        foreach (var version in setup.Armed.Where(v => v.Definition.LitBy.Any(l => l.Event == LitBy.Submission && l.Forms.Contains(form.Key))))
        {
            var earlier = BurnsOf(lead.Id, version.FuseId);
            var hindrance = version.Definition.Relight switch
            {
                Relight.Once when earlier.Count > 0 => "it burns once for a lead, and has",
                Relight.WhenLastEnded when earlier.Exists(b => b.Status == BurnStatus.Burning) => "the last one still burns",
                _ => null,
            };
            if (hindrance is not null)
            {
                db.Story.Add(new() { ClientId = lead.ClientId, LeadId = lead.Id, Kind = StoryKind.FuseNotRelit, At = now, KnownAt = now, Words = "not relit, because " + hindrance, SubmissionId = submission.Id, Fuse = BurnWriter.NameOf(version) });
                continue;
            }

            var burn = new Burn
            {
                Id = Guid.CreateVersion7(now.ToDateTimeOffset()),
                ClientId = lead.ClientId,
                LeadId = lead.Id,
                FuseId = version.FuseId,
                FuseVersionId = version.Id,
                SubmissionId = submission.Id,
                LitAt = now,
            };
            burn.State = BurnState.New(burn.Id, askedAt, now);
            db.Burns.Add(burn);
            earlier.Add(burn);
            burns.Tell(burn, lead, version, StoryKind.FuseLit, null, null, "by the submission on " + form.Name, now).SubmissionId = submission.Id;
            burns.Write(burn, lead, version, setups.Compiled(version).Fuse, new BurnEvent.Lit(), facts, setup.Connections, now);
            Wakes |= burn.WakeAt is not null;
        }
    }

    private List<Burn> BurnsOf(Guid leadId, Guid fuseId)
    {
        if (!burnsOf.TryGetValue((leadId, fuseId), out var list)) burnsOf[(leadId, fuseId)] = list = [];
        return list;
    }
}
