using LitFuse.Core.Continuity;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Texts;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Fuses;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Continuity;

/// <summary>
/// Judges a client's lines, and writes down what changed: where each stands, cuts that began and that are mended,
/// notices.
/// </summary>
public sealed class LineEvaluator(
    AppDb db,
    LineBoards boards,
    LineReader reader,
    SampleEvaluator samples,
    ProofReader proofs,
    FuseContextReader arounds,
    TimeProvider time
)
{
    private static readonly Duration BetweenProofs = Duration.FromMinutes(15);

    /// <summary>How long what services were asked for is good.</summary>
    private static readonly Duration ListsGood = Duration.FromSeconds(45);

    private static readonly Duration OnItsWay = Duration.FromMinutes(15);
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);

    /// <summary>Reads everything anew and judges it.</summary>
    /// <param name="clientId">Whose.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="ask">Ask services for their lists even if they were asked lately.</param>
    public async Task WholeAsync(Guid clientId, CancellationToken stop, bool ask = false)
    {
        var lines = boards.Of(clientId);
        await lines.One.WaitAsync(stop);
        try
        {
            var (_, client, hours) = await reader.ClientAsync(clientId, stop);
            var fuses = await reader.FusesAsync(clientId, null, stop);
            if (ask || lines.Around is null || time.Now() - lines.AskedAt > ListsGood)
                await AskAsync(lines, clientId, fuses, stop);
            lines.Board.Put(client);
            foreach (var connection in await reader.ConnectionsAsync(clientId, null, stop))
                lines.Board.Put(connection);
            Put(lines, fuses, null, hours);
            var forms = await reader.FormsAsync(clientId, null, NamedBy(lines), stop);
            foreach (var gone in lines.Board.Forms.Keys.Except(forms.Select(f => f.Stored.Form.Id)).ToList())
                lines.Board.RemoveForm(gone);
            await LookAsync(lines, forms, stop);
            lines.Board.All(time.Now());
            // Against what is stored, not what is remembered: what could not be written the last time is written now.
            await WriteAsync(
                clientId,
                lines,
                [
                    .. forms
                        .Select(f => (Line: lines.Board.Lines[f.Line.Id], f.Stored.Watch))
                        .Where(l => !l.Line.SameAs(l.Watch?.Line))
                        .Select(l => l.Line),
                ],
                stop
            );
            lines.Read = true;
        }
        finally
        {
            lines.One.Release();
        }
    }

    /// <summary>Reads what was told to have changed, and judges the lines that hang on it.</summary>
    public async Task TouchedAsync(Guid clientId, ILookup<ChangeKind, Guid> told, CancellationToken stop)
    {
        var lines = boards.Of(clientId);
        if (!lines.Read || told.Any(k => k.Key != ChangeKind.Lead && k.Contains(Guid.Empty)))
        {
            await WholeAsync(clientId, stop);
            return;
        }

        await lines.One.WaitAsync(stop);
        // Should it fail half-way, everything is read anew.
        lines.Read = false;
        try
        {
            LineHours? hours = null;
            if (told.Contains(ChangeKind.Client) || told.Contains(ChangeKind.Fuse))
            {
                var (_, client, kept) = await reader.ClientAsync(clientId, stop);
                hours = kept;
                lines.Board.Put(client);
            }

            if (told.Contains(ChangeKind.Connection))
                foreach (
                    var connection in await reader.ConnectionsAsync(clientId, [.. told[ChangeKind.Connection]], stop)
                )
                    lines.Board.Put(connection);
            if (hours is not null)
                Put(
                    lines,
                    await reader.FusesAsync(
                        clientId,
                        told.Contains(ChangeKind.Client) ? null : [.. told[ChangeKind.Fuse]],
                        stop
                    ),
                    told.Contains(ChangeKind.Client) ? null : [.. told[ChangeKind.Fuse]],
                    hours
                );
            var touched = await FormsOfAsync(lines, told, stop);
            var forms = touched.Count == 0 ? [] : await reader.FormsAsync(clientId, touched, NamedBy(lines), stop);
            foreach (var gone in touched.Except(forms.Select(f => f.Stored.Form.Id)))
                lines.Board.RemoveForm(gone);
            await LookAsync(lines, forms, stop);
            await WriteAsync(clientId, lines, lines.Board.Changed(time.Now()), stop);
            lines.Read = true;
        }
        finally
        {
            lines.One.Release();
        }
    }

    private async Task<HashSet<Guid>> FormsOfAsync(
        ClientLines lines,
        ILookup<ChangeKind, Guid> told,
        CancellationToken stop
    )
    {
        var forms = told[ChangeKind.Form].ToHashSet();
        if (told.Contains(ChangeKind.Source))
        {
            var sources = told[ChangeKind.Source].ToList();
            forms.UnionWith(
                await db.Forms.Where(f => sources.Contains(f.SourceId)).Select(f => f.Id).ToListAsync(stop)
            );
        }

        if (told.Contains(ChangeKind.Connection))
        {
            var connections = told[ChangeKind.Connection].ToList();
            forms.UnionWith(
                await db
                    .Sources.Where(s => s.ConnectionId != null && connections.Contains(s.ConnectionId.Value))
                    .Join(db.Forms, s => s.Id, f => f.SourceId, (_, f) => f.Id)
                    .ToListAsync(stop)
            );
        }

        // A lead that goes on its way matters to a line only while nothing has proved it.
        var leads = told[ChangeKind.Lead].Where(l => l != Guid.Empty).ToList();
        if (leads.Count > 0 && lines.Board.Lines.Values.Any(l => l.State != LineState.Whole))
        {
            forms.UnionWith(
                (
                    await db.Leads.Where(l => leads.Contains(l.Id)).Select(l => l.FormId).Distinct().ToListAsync(stop)
                ).Where(f => lines.Board.Lines.TryGetValue(f, out var line) && line.State != LineState.Whole)
            );
        }

        // An armed fuse may name a form that had no line before.
        if (told.Contains(ChangeKind.Fuse))
        {
            var named = told[ChangeKind.Fuse]
                .SelectMany(f => lines.Named.GetValueOrDefault(f) ?? new HashSet<string>(StringComparer.Ordinal))
                .ToList();
            forms.UnionWith(await db.Forms.Where(f => named.Contains(f.Key)).Select(f => f.Id).ToListAsync(stop));
        }

        return forms;
    }

    private async Task LookAsync(
        ClientLines lines,
        IReadOnlyList<(StoredForm Stored, LineForm Line)> forms,
        CancellationToken stop
    )
    {
        if (forms.Count == 0)
            return;
        var latest = await samples.LatestAsync([.. forms.Select(f => f.Stored.Form.Id)], stop);
        foreach (var (stored, form) in forms)
        {
            Instant? came = latest.TryGetValue(form.Id, out var at) ? at : null;
            var watch = await samples.LookAsync(stored, came, lines, stop);
            var proof = came is { } last ? await ProofAsync(lines, watch, last, stop) : watch.Proof;
            lines.Board.Put(
                form with
                {
                    Filled = watch.Filled,
                    Drift = watch.Drift,
                    Silent = watch.Silent,
                    Proof = proof,
                    Lived = watch.SampledTo is not null,
                }
            );
        }
    }

    // While something may be on its way it is looked for each time; after that, with the next submission.
    private async Task<LineProof?> ProofAsync(
        ClientLines lines,
        FormWatch watch,
        Instant latest,
        CancellationToken stop
    )
    {
        if (lines.Proved.TryGetValue(watch.FormId, out var looked) && looked == latest)
            return watch.Proof;
        var proof = await proofs.LatestAsync(watch.FormId, watch.Proof, stop);
        if (latest < time.Now() - OnItsWay)
            lines.Proved[watch.FormId] = latest;
        if (proof != watch.Proof)
            await db
                .FormWatches.Where(w => w.FormId == watch.FormId)
                .ExecuteUpdateAsync(w => w.SetProperty(x => x.Proof, proof), stop);
        return proof;
    }

    private async Task AskAsync(
        ClientLines lines,
        Guid clientId,
        IReadOnlyList<(Fuse Fuse, FuseDefinition Definition)> fuses,
        CancellationToken stop
    )
    {
        // Services that do not answer soon are not waited for: what they could not be asked is not judged.
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
        patience.CancelAfter(Patience);
        // A service that cannot be asked just now is taken to have what it had: nothing is mended by its silence.
        var fresh = (await arounds.ReadAsync(clientId, stop)).ForFaults();
        lines.Around = fresh with
        {
            Channels = fresh.Channels ?? lines.Around?.Channels,
            People = fresh.People ?? lines.Around?.People,
        };
        var lists = new Dictionary<Guid, IReadOnlyDictionary<string, IReadOnlyList<ListItem>>>();
        foreach (var (fuse, definition) in fuses.Where(f => f.Fuse.State == FuseState.Armed))
            lists[fuse.Id] = Known(
                lines.Lists.GetValueOrDefault(fuse.Id),
                patience.IsCancellationRequested ? null : await arounds.ListsAsync(clientId, definition, patience.Token)
            );
        (lines.Lists, lines.AskedAt) = (lists, time.Now());
    }

    private static Dictionary<string, IReadOnlyList<ListItem>> Known(
        IReadOnlyDictionary<string, IReadOnlyList<ListItem>>? before,
        IReadOnlyDictionary<string, IReadOnlyList<ListItem>>? now
    ) =>
        (before ?? new Dictionary<string, IReadOnlyList<ListItem>>(StringComparer.Ordinal))
            .Concat(now ?? new Dictionary<string, IReadOnlyList<ListItem>>(StringComparer.Ordinal))
            .GroupBy(l => l.Key, StringComparer.Ordinal)
            .ToDictionary(g => g.Key, g => g.Last().Value, StringComparer.Ordinal);

    private void Put(
        ClientLines lines,
        IReadOnlyList<(Fuse Fuse, FuseDefinition Definition)> fuses,
        IReadOnlyCollection<Guid>? only,
        LineHours hours
    )
    {
        foreach (var gone in (only ?? [.. lines.Named.Keys]).Except(fuses.Select(f => f.Fuse.Id)).ToList())
        {
            lines.Named.Remove(gone);
            lines.Board.RemoveFuse(gone);
        }

        var now = time.Now();
        foreach (var (fuse, definition) in fuses)
        {
            var around = (lines.Around ?? new([], [], null, null, [])) with
            {
                Lists = lines.Lists.GetValueOrDefault(fuse.Id)
                    ?? new Dictionary<string, IReadOnlyList<ListItem>>(StringComparer.Ordinal),
            };
            var standing = fuse.State switch
            {
                FuseState.Armed => FuseStanding.Armed,
                FuseState.Disarmed => FuseStanding.Disarmed,
                _ => FuseStanding.Draft,
            };
            var line = FuseLine.Of(fuse.Id, fuse.ArmedVersionId, standing, definition, around, hours, now);
            lines.Named[fuse.Id] =
                standing == FuseStanding.Armed ? line.Forms : new HashSet<string>(StringComparer.Ordinal);
            lines.Board.Put(line);
        }
    }

    private static HashSet<string> NamedBy(ClientLines lines) => [.. lines.Named.Values.SelectMany(n => n)];

    private async Task WriteAsync(
        Guid clientId,
        ClientLines lines,
        IReadOnlyList<FormLine> changed,
        CancellationToken stop
    )
    {
        if (changed.Count == 0)
            return;
        var now = time.Now();
        var ids = changed.Select(c => c.FormId).ToList();
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var watches = (
            await db
                .FormWatches.FromSql(
                    $"select * from form_watches where form_id = any({ids}) order by form_id for update"
                )
                .ToListAsync(stop)
        ).ToDictionary(w => w.FormId);
        var open = (await db.LineCuts.Where(c => ids.Contains(c.FormId) && c.ToAt == null).ToListAsync(stop)).ToLookup(
            c => c.FormId
        );
        var quiet = await db
            .FormQuietTimes.Where(q => ids.Contains(q.FormId) && q.ToAt == null)
            .ToDictionaryAsync(q => q.FormId, stop);
        var forms = await db.Forms.Where(f => ids.Contains(f.Id)).ToDictionaryAsync(f => f.Id, stop);
        var begun = new List<LineCut>();
        foreach (var line in changed)
        {
            if (!watches.TryGetValue(line.FormId, out var watch))
                continue;
            var lasting = open[line.FormId].ToDictionary(c => c.Key, StringComparer.Ordinal);
            var cuts = await CutsAsync(clientId, line, lasting, now, stop);
            if (!Rests(watch, line))
                begun.AddRange(cuts.Where(c => !c.Told));
            foreach (var over in lasting.Values)
                over.ToAt = now;
            // Leads that come again prove themselves; what was put right by hand has to be proved. What was only being
            // set up was never whole.
            var mended =
                line.Cuts.Count == 0
                && lasting.Values.Any(o => o.Joint != JointKind.Arrivals && (o.Told || watch.RestsSince is not null));
            if (mended)
            {
                watch.MendedAt = now;
                if (watch.Plan?.AfterMend == true)
                    watch.ProveDueAt = await MayProveAsync(line.FormId, now, stop);
            }

            (watch.Line, watch.State, watch.JudgedAt) = (line, line.State, now);
            if (watch.RestsSince is not null && !line.Cuts.Any(c => c.Joint == JointKind.Form))
                watch.RestsSince = null;
            await WaitAsync(line, forms[line.FormId], stop);
            if (Quieten(watch, line, now, quiet.GetValueOrDefault(line.FormId)))
                lines.Habits.Remove(line.FormId);
            db.NoteChange(clientId, ChangeKind.Line, line.FormId);
            if (mended)
                lines.Board.Put(lines.Board.Forms[line.FormId] with { MendedAt = now });
        }

        await TellAsync(clientId, begun, stop);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        // What was mended just now is unproven, and so written.
        if (lines.Board.Changed(now) is { Count: > 0 } again)
            await WriteAsync(clientId, lines, again, stop);
    }

    // A line's cuts as they are kept; what is not among them is left in lasting: it is over.
    private async Task<List<LineCut>> CutsAsync(
        Guid clientId,
        FormLine line,
        Dictionary<string, LineCut> lasting,
        Instant now,
        CancellationToken stop
    )
    {
        var cuts = new List<LineCut>();
        foreach (var cut in line.Cuts)
        {
            if (lasting.Remove(cut.Key, out var known))
            {
                if (known.Cause != cut.Cause || known.Mend != cut.Mend)
                    (known.Cause, known.Mend) = (cut.Cause, cut.Mend);
                cuts.Add(known);
                continue;
            }

            var fresh = new LineCut
            {
                Id = Guid.CreateVersion7(),
                ClientId = clientId,
                FormId = line.FormId,
                Key = cut.Key,
                Joint = cut.Joint,
                Cause = cut.Cause,
                Mend = cut.Mend,
                FromAt = await SinceAsync(cut, line.FormId, now, stop),
            };
            db.LineCuts.Add(fresh);
            cuts.Add(fresh);
        }

        return cuts;
    }

    // A service that comes and goes is not to fill anybody's phone with tests.
    private async Task<Instant> MayProveAsync(Guid formId, Instant now, CancellationToken stop) =>
        await db.ProofRuns.Where(p => p.FormId == formId && p.By == null).MaxAsync(p => (Instant?)p.BeganAt, stop)
            is { } last
        && last + BetweenProofs > now
            ? last + BetweenProofs
            : now;

    // Where submissions wait because of it, it began with the first of them.
    private async Task<Instant> SinceAsync(Cut cut, Guid formId, Instant now, CancellationToken stop) =>
        cut.Joint is not (JointKind.Map or JointKind.Form) ? now
        : await db
            .Submissions.Where(s => s.FormId == formId && s.Status == SubmissionStatus.Waiting)
            .MinAsync(s => (Instant?)s.ReceivedAt, stop)
            is { } first
        && first < now
            ? first
        : now;

    // What steps cannot do without and has stopped coming is waited for; what comes again is not.
    private async Task WaitAsync(FormLine line, Form form, CancellationToken stop)
    {
        if (FieldWait.Same(form.WaitsFor, line.Waits))
            return;
        var released = form.State == FormState.Receiving && form.WaitsFor.Count > 0;
        form.WaitsFor = line.Waits;
        await db.SaveChangesAsync(stop);
        if (released)
            await db.ReleaseAsync(form.Id, stop, SubmissionStatus.Waiting);
    }

    // A form that is meant to rest, or that nothing has ever come from: it is being set up, and whoever does so sees
    // what is left to do.
    private static bool Rests(FormWatch watch, FormLine line) =>
        !line.Lived || (watch.RestsSince is not null && line.Cuts.All(c => c.Joint >= JointKind.Form));

    // While the form itself takes nothing, no lead is missed.
    private bool Quieten(FormWatch watch, FormLine line, Instant now, FormQuietTime? lasting)
    {
        var quiet = line.Cuts.Any(c => c.Joint == JointKind.Form);
        if (quiet && lasting is null)
            db.FormQuietTimes.Add(
                new()
                {
                    Id = Guid.CreateVersion7(),
                    ClientId = watch.ClientId,
                    FormId = watch.FormId,
                    FromAt = now,
                }
            );
        else if (!quiet && lasting is not null)
            lasting.ToAt = now;
        return quiet != (lasting is not null);
    }

    // One notice for what cuts many lines at once.
    private async Task TellAsync(Guid clientId, List<LineCut> begun, CancellationToken stop)
    {
        if (begun.Count == 0)
            return;
        begun.ForEach(b => b.Told = true);
        var may = Permissions.Table.Where(p => p.Value.Contains(Act.EditSources)).Select(p => p.Key).ToList();
        var people = await db
            .Memberships.Where(m => (m.ClientId == null || m.ClientId == clientId) && may.Contains(m.Role))
            .Select(m => m.UserId)
            .Distinct()
            .ToListAsync(stop);
        var names = await db
            .Forms.Where(f => begun.Select(b => b.FormId).Contains(f.Id))
            .ToDictionaryAsync(f => f.Id, f => f.Name, stop);
        foreach (var same in begun.GroupBy(b => (b.Key, b.Cause)))
        {
            var (first, count) = (same.First(), same.Count());
            var words =
                count == 1
                    ? $"The line of “{names[first.FormId]}” is cut: {first.Cause}"
                    : $"{count} lines are cut, “{names[first.FormId]}” among them: {first.Cause}";
            foreach (var person in people)
            {
                db.Notices.Add(
                    new()
                    {
                        Id = Guid.CreateVersion7(),
                        ClientId = clientId,
                        UserId = person,
                        FormId = first.FormId,
                        Words = Clip.Short(words, 500),
                        At = time.Now(),
                    }
                );
                db.NoteChange(clientId, ChangeKind.Notice, person);
            }
        }
    }
}
