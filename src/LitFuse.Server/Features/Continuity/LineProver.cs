using LitFuse.Core.Figures;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>How far a proof has come at one joint.</summary>
public enum ProofAt
{
    Done,
    Waiting,
    Halted,
    LeftOut,
}

/// <summary>One joint of a line as a proof passes it.</summary>
/// <param name="Name">As people call it.</param>
/// <param name="At">When it was passed.</param>
/// <param name="Seconds">Since the press.</param>
/// <param name="Words">What happened there, or why it is not passed.</param>
/// <param name="Whose">Where the time up to here went: <c>press</c> (asking for the test), <c>network</c> or <c>us</c>;
/// a service's name for what it took.</param>
public sealed record ProofJoint(string Name, ProofAt State, Instant? At, double? Seconds, string Words, string Whose);

/// <summary>A proof, followed joint by joint.</summary>
/// <param name="NetworkSeconds">The network made the test lead → we knew.</param>
/// <param name="OurSeconds">We knew → the last of what was due at once had gone out.</param>
public sealed record ProofTold(
    Guid Id,
    Guid FormId,
    ProvenFrom From,
    bool OnlyMe,
    ProofState State,
    string? Because,
    Instant BeganAt,
    Instant? EndedAt,
    string? By,
    Guid? LeadId,
    IReadOnlyList<ProofJoint> Joints,
    double? NetworkSeconds,
    double? OurSeconds
);

/// <summary>Sends marked test leads and follows each down its line.</summary>
public sealed class LineProver(AppDb db, SourceKinds kinds, Secrets secrets, TestSender tests, TimeProvider time)
{
    /// <summary>The longest a network may take to show a test.</summary>
    private static readonly Duration Patience = Duration.FromMinutes(10);

    /// <summary>The longest from our disk to the last delivery.</summary>
    private static readonly Duration OurPatience = Duration.FromMinutes(2);

    /// <summary>True where the network itself can send one.</summary>
    public static bool CanFromNetwork(SourceKind kind, Source source, Form form) =>
        kind is ITestingNetwork && source.ConnectionId is not null && form.ExternalId is not null;

    /// <summary>Sends a test lead.</summary>
    /// <param name="form">Whose line is to be proved.</param>
    /// <param name="from">From where.</param>
    /// <param name="onlyTo">To whose own addresses it goes.</param>
    /// <param name="by">Who pressed.</param>
    /// <param name="stop">Cancels.</param>
    /// <returns>The run, or why there is none.</returns>
    public async Task<(ProofRun? Run, string? Fault)> BeginAsync(
        Form form,
        ProvenFrom from,
        Guid? onlyTo,
        Guid? by,
        CancellationToken stop
    )
    {
        var source = await db.Sources.AsNoTracking().SingleAsync(s => s.Id == form.SourceId, stop);
        var kind = kinds.Of(source.Kind);
        var run = new ProofRun
        {
            Id = Guid.CreateVersion7(),
            ClientId = form.ClientId,
            FormId = form.Id,
            From = from,
            OnlyTo = onlyTo,
            By = by,
            BeganAt = time.Now(),
            State = ProofState.Running,
        };
        db.ProofRuns.Add(run);
        if (from == ProvenFrom.Network)
        {
            if (!CanFromNetwork(kind, source, form))
                return (null, $"{kind.Card.Name} sends no test leads. Send it from here.");
            // Kept before the network is asked: it may tell of the lead before it answers us.
            await db.SaveChangesAsync(stop);
            try
            {
                var connection = await db
                    .Connections.AsNoTracking()
                    .SingleAsync(c => c.Id == source.ConnectionId, stop);
                run.ExternalId = await ((ITestingNetwork)kind).SendTestAsync(
                    NetworkLook.Open(connection, secrets),
                    form.ExternalId!,
                    stop
                );
            }
            catch (NetworkTroubleException e)
            {
                (run.State, run.Because, run.EndedAt) = (
                    ProofState.Halted,
                    $"{kind.Card.Name} {e.Message}",
                    time.Now()
                );
            }
        }
        else
        {
            var person = onlyTo ?? by;
            var name = person is { } id
                ? await db.Users.Where(u => u.Id == id).Select(u => u.Name).FirstOrDefaultAsync(stop)
                : null;
            var (sent, fault) = await tests.SendAsync(form, onlyTo, name, stop);
            if (sent is null)
                return (null, fault);
            run.SubmissionId = sent.Receipt;
        }

        db.NoteChange(form.ClientId, ChangeKind.Line, form.Id);
        await db.SaveAndNotifyAsync(stop);
        return (run, null);
    }

    /// <summary>Says how far a run has come, and ends it where it has come to its end.</summary>
    public async Task<ProofTold> FollowAsync(ProofRun run, CancellationToken stop)
    {
        var form = await db.Forms.AsNoTracking().SingleAsync(f => f.Id == run.FormId, stop);
        var source = await db.Sources.AsNoTracking().SingleAsync(s => s.Id == form.SourceId, stop);
        var network = kinds.Of(source.Kind).Card.Name;
        var came = await CameAsync(run, stop);
        var follow = new ProofFollowing(run.BeganAt, time.Now());
        var knew = came is null ? null : Envelope.Read(came.Envelope)?.ToldAt ?? (Instant?)came.ReceivedAt;
        // The network's own moment, where its clock agrees with ours: asking it is no delay of its.
        var asked = came?.SentAt is { } sent && sent > run.BeganAt && sent <= knew ? sent : run.BeganAt;
        if (run.From == ProvenFrom.Network)
        {
            var noticed = knew ?? await NoticedAsync(run, source.Id, stop);
            follow.Pass(
                "sent",
                asked,
                run.ExternalId is null ? $"{network} is asked for a test lead" : $"{network} made a test lead",
                "press"
            );
            follow.Pass(
                network,
                noticed,
                noticed is null ? $"{network} has not shown it yet" : $"{network} showed it",
                "network",
                Patience
            );
        }

        follow.Pass(
            "on disk",
            came?.ReceivedAt,
            came is null ? "not here yet" : "it is here, and cannot be lost",
            "us",
            run.From == ProvenFrom.Network ? Patience : OurPatience
        );
        if (came is not null)
            await InsideAsync(follow, form, came, stop);
        await EndAsync(run, follow, came, stop);
        var by = run.By is { } who
            ? await db.Users.Where(u => u.Id == who).Select(u => u.Name).FirstOrDefaultAsync(stop)
            : null;
        return new(
            run.Id,
            run.FormId,
            run.From,
            run.OnlyTo is not null,
            run.State,
            run.Because ?? follow.Because,
            run.BeganAt,
            run.EndedAt,
            by,
            came?.LeadId,
            follow.Joints,
            run.From == ProvenFrom.Network && knew is { } told
                ? Math.Max(0, Math.Round((told - asked).TotalSeconds, 3))
                : null,
            follow.Last is { } last && knew is { } since && follow.State == ProofState.Proved
                ? Math.Max(0, Math.Round((last - since).TotalSeconds, 3))
                : null
        );
    }

    // Ids are in the order of time: only what came since the run began is looked through.
    private async Task<Submission?> CameAsync(ProofRun run, CancellationToken stop) =>
        run.SubmissionId is { } receipt
            ? await db.Submissions.AsNoTracking().SingleOrDefaultAsync(s => s.Id == receipt, stop)
        : run.ExternalId is { } id
            ? await db
                .Submissions.AsNoTracking()
                .Where(s => s.Id > run.Id && s.FormId == run.FormId && s.OwnId == id && s.Test)
                .OrderBy(s => s.Id)
                .FirstOrDefaultAsync(stop)
        : null;

    private async Task<Instant?> NoticedAsync(ProofRun run, Guid sourceId, CancellationToken stop) =>
        run.ExternalId is { } external
            ? await db
                .SourceNotices.Where(n => n.SourceId == sourceId && n.ExternalId == external)
                .OrderBy(n => n.ToldAt)
                .Select(n => (Instant?)n.ToldAt)
                .FirstOrDefaultAsync(stop)
            : null;

    // From our disk on: the map, the fuses, every service.
    private async Task InsideAsync(ProofFollowing follow, Form form, Submission came, CancellationToken stop)
    {
        var read = came.Status is SubmissionStatus.Processed ? came.ReceivedAt : (Instant?)null;
        if (came.Status is not (SubmissionStatus.Processed or SubmissionStatus.Received))
        {
            follow.Halt(
                "map",
                $"it stands as “{came.Status switch { SubmissionStatus.Waiting => "waiting", SubmissionStatus.Held => "in the holding pen", SubmissionStatus.Unconfirmed => "not confirmed by the person", SubmissionStatus.Unreadable => "unreadable", _ => "set aside" }}”{(came.Reason is { Length: > 0 } why ? $": {why}" : "")}"
            );
            return;
        }

        var burns = came.LeadId is { } lead
            ? await db
                .Burns.AsNoTracking()
                .Where(b => b.LeadId == lead && b.SubmissionId == came.Id)
                .OrderBy(b => b.LitAt)
                .Select(b => new
                {
                    b.Id,
                    b.LitAt,
                    b.FuseId,
                })
                .ToListAsync(stop)
            : [];
        follow.Pass(
            "map",
            burns.Count > 0 ? burns[0].LitAt : read,
            read is null ? "being read" : "read through the map, and a lead",
            "us",
            OurPatience
        );
        if (read is null)
            return;
        if (burns.Count == 0)
        {
            follow.Halt("fuse", "no fuse was lit by it");
            return;
        }

        var names = await db
            .Fuses.Where(f => burns.Select(b => b.FuseId).Contains(f.Id))
            .ToDictionaryAsync(f => f.Id, f => f.Name, stop);
        foreach (var burn in burns)
            follow.Pass("fuse", burn.LitAt, $"it lit “{names.GetValueOrDefault(burn.FuseId)}”", "us");
        var ids = burns.ConvertAll(b => (Guid?)b.Id);
        var sent = await db
            .Deliveries.AsNoTracking()
            .Where(d => d.LeadId == came.LeadId && ids.Contains(d.BurnId))
            .OrderBy(d => d.MadeAt)
            .ThenBy(d => d.Id)
            .ToListAsync(stop);
        var services = await db
            .Connections.AsNoTracking()
            .Where(c => c.ClientId == form.ClientId)
            .ToDictionaryAsync(c => c.Id, c => c.Name, stop);
        foreach (
            var one in sent.Where(d =>
                burns.Exists(b => b.Id == d.BurnId && d.MadeAt <= b.LitAt + Duration.FromSeconds(10))
            )
        )
            Deliver(follow, one, services.GetValueOrDefault(one.ConnectionId, "a service"));
    }

    private static void Deliver(ProofFollowing follow, OutboxDelivery one, string service)
    {
        var what = one.Step ?? one.Kind;
        switch (one.Status)
        {
            case DeliveryStatus.Done:
                follow.Pass(service, one.SentAt ?? one.EndedAt, what, service);
                break;
            case DeliveryStatus.Cancelled:
                follow.LeaveOut(service, $"{what}: left out: {one.Reason}");
                break;
            case DeliveryStatus.Failed:
                follow.Halt(service, $"{what}: {one.Reason}");
                break;
            case DeliveryStatus.Due when one.Attempts == 0 && one.DueAt > one.MadeAt + Duration.FromMinutes(1):
                follow.LeaveOut(service, $"{what}: waits, as it is to: {one.Reason ?? "for its hour"}");
                break;
            default:
                follow.Pass(service, null, one.Attempts > 0 ? $"{what}: {one.Reason}" : what, service, OurPatience);
                break;
        }
    }

    private async Task EndAsync(ProofRun run, ProofFollowing follow, Submission? came, CancellationToken stop)
    {
        if (run.State != ProofState.Running || follow.State == ProofState.Running)
            return;
        (run.State, run.Because, run.EndedAt) = (
            follow.State,
            follow.Because,
            follow.State == ProofState.Proved ? follow.Last : time.Now()
        );
        if (came is not null)
            run.SubmissionId = came.Id;
        await db
            .ProofRuns.Where(p => p.Id == run.Id && p.State == ProofState.Running)
            .ExecuteUpdateAsync(
                p =>
                    p.SetProperty(x => x.State, run.State)
                        .SetProperty(x => x.Because, run.Because)
                        .SetProperty(x => x.EndedAt, run.EndedAt)
                        .SetProperty(x => x.SubmissionId, run.SubmissionId),
                stop
            );
        db.NoteChange(run.ClientId, ChangeKind.Form, run.FormId);
        db.NoteChange(run.ClientId, ChangeKind.Line, run.FormId);
        await db.SaveAndNotifyAsync(stop);
    }
}

/// <summary>Gathers how far a proof has come; what is not passed within its time has halted there.</summary>
internal sealed class ProofFollowing(Instant began, Instant now)
{
    private readonly List<ProofJoint> joints = [];
    private bool waiting;

    public IReadOnlyList<ProofJoint> Joints => joints;

    public string? Because { get; private set; }

    public Instant? Last { get; private set; }

    public ProofState State =>
        Because is not null ? ProofState.Halted
        : waiting || joints.Count < 3 ? ProofState.Running
        : ProofState.Proved;

    /// <summary>A joint that is passed, or not yet.</summary>
    /// <param name="patience">How long it may take from the press on.</param>
    public void Pass(string name, Instant? at, string words, string whose, Duration? patience = null)
    {
        if (at is { } passed)
        {
            joints.Add(new(name, ProofAt.Done, passed, Seconds(passed), words, whose));
            if (!(passed <= Last))
                Last = passed;
            return;
        }

        if (patience is { } most && now - began > most)
        {
            Halt(name, $"{words}; it was waited for {Spans.Say(most)}");
            return;
        }

        waiting = true;
        joints.Add(new(name, ProofAt.Waiting, null, null, words, whose));
    }

    public void LeaveOut(string name, string words) => joints.Add(new(name, ProofAt.LeftOut, null, null, words, name));

    public void Halt(string name, string words)
    {
        joints.Add(new(name, ProofAt.Halted, null, null, words, name));
        Because ??= $"At {name}: {words}";
    }

    private double Seconds(Instant at) => Math.Max(0, Math.Round((at - began).TotalSeconds, 3));
}
