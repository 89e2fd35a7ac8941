using LitFuse.Core.Fields;
using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Kits;
using LitFuse.Core.Stories;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Engine;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Fuses;

/// <summary>Fuses and their run sheets.</summary>
public static class FusesEndpoints
{
    private const int MostDisarmed = 200;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var fuses = app.MapGroup("/api/fuses").WithTags("Fuses");
        fuses.MapGet("/", ListAsync).Needs(Act.SeeFuses).WithSummary("Fuses");
        fuses.MapPost("/", MakeAsync).Needs(Act.EditFuses).WithSummary("Begin a fuse");
        fuses.MapGet("/{fuseId}", GetAsync).Needs(Act.SeeFuses).WithSummary("A fuse, whole");
        fuses.MapPut("/{fuseId}/draft", SaveAsync).Needs(Act.EditFuses).WithSummary("Save the draft");
        app.MapGet("/schemas/fuse.json", () => TypedResults.Text(FuseSchema.Text(), "application/schema+json"))
            .OpenToAnyone("the shape of a fuse's file holds no data")
            .ExcludeFromDescription();
        fuses.MapGet("/{fuseId}/file", FileAsync).Needs(Act.SeeFuses).WithSummary("A fuse as a file");
        fuses.MapDelete("/{fuseId}/draft", DropAsync).Needs(Act.EditFuses).WithSummary("Go back to what is armed");
        fuses.MapPost("/{fuseId}/arm", ArmAsync).Needs(Act.EditFuses).WithSummary("Arm the draft as the next version");
        fuses
            .MapPost("/{fuseId}/disarm", DisarmAsync)
            .Needs(Act.EditFuses)
            .WithSummary("Let nothing light it any more");
        fuses.MapPost("/disarm", DisarmManyAsync).Needs(Act.EditFuses).WithSummary("Let nothing light these any more");
    }

    private static async Task<Results<Ok<FuseList>, ProblemHttpResult>> ListAsync(
        AppDb db,
        ClientScope scope,
        TimeProvider time,
        CancellationToken stop,
        string? client = null
    )
    {
        if (await db.ChosenAsync(scope, client, stop) is not { } clients)
            return Problems.NotThere.Because($"There is no client '{client}' for you.");
        return TypedResults.Ok(
            new FuseList(await RowsAsync(db, db.Fuses.Where(f => clients.Contains(f.ClientId)), time.Now(), stop))
        );
    }

    private static async Task<Results<Ok<FuseMade>, ProblemHttpResult>> MakeAsync(
        FuseToMake make,
        HttpContext http,
        AppDb db,
        ClientScope scope,
        FuseContextReader reader,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (await db.ChosenAsync(scope, make.Client, stop) is not [var clientId])
            return Problems.Bad("client", "Choose the client it is for.");
        if (make.Form is { } asked && !await db.Forms.AnyAsync(f => f.ClientId == clientId && f.Key == asked, stop))
            return Problems.Bad("form", $"There is no form '{asked}' of this client.");
        FuseDefinition definition;
        if (make.File is { } file)
        {
            var (read, fault) = FuseFile.Parse(file);
            if (read is null)
                return Problems.Bad("file", $"The file cannot be read: {fault}.");
            if (Oversized(read) is { } large)
                return Problems.Bad("file", large);
            definition = read;
        }
        else if (make.Kit is { } key)
        {
            if (StarterKits.Find(key) is not { } kit)
                return Problems.Bad("kit", $"There is no kit '{key}'.");
            definition = kit.Build(KitsEndpoints.SurroundingsOf(await reader.ReadAsync(clientId, stop), make.Form));
        }
        else
        {
            var first = await db
                .Forms.Where(f => f.ClientId == clientId && (make.Form == null || f.Key == make.Form))
                .OrderBy(f => f.Name)
                .Select(f => new { f.Key, f.Name })
                .FirstOrDefaultAsync(stop);
            definition = new()
            {
                Name = first is null ? "New leads: tell the team" : $"{first.Name}: tell the team",
                LitBy =
                [
                    new(
                        EventKeys.Submission,
                        new Dictionary<string, IReadOnlyList<string>>(StringComparer.Ordinal)
                        {
                            ["form"] = first is null ? [] : [first.Key],
                        }
                    ),
                ],
                Bands = [new("b1", "Always", new(EntryKind.Always), [])],
            };
        }

        var fuse = new Fuse
        {
            Id = Guid.CreateVersion7(),
            ClientId = clientId,
            Name = definition.Name,
            State = FuseState.Draft,
            Draft = definition,
            DraftRevision = 1,
            DraftBy = ClientAccess.UserId(http.User),
            DraftAt = time.Now(),
        };
        db.Fuses.Add(fuse);
        db.NoteChange(clientId, ChangeKind.Fuse, fuse.Id);
        await db.SaveAndNotifyAsync(stop);
        return TypedResults.Ok(new FuseMade(fuse.Id));
    }

    private static async Task<Results<Ok<FuseDetail>, ProblemHttpResult>> GetAsync(
        Guid fuseId,
        AppDb db,
        FuseContextReader reader,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var fuse = await db.Fuses.AsNoTracking().SingleOrDefaultAsync(f => f.Id == fuseId, stop);
        return fuse is null
            ? Problems.No("fuse")
            : TypedResults.Ok(await WholeAsync(db, fuse, reader, time.Now(), stop));
    }

    private static async Task<Results<Ok<FuseDetail>, ProblemHttpResult>> SaveAsync(
        Guid fuseId,
        DraftToSave save,
        HttpContext http,
        AppDb db,
        FuseContextReader reader,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var (wanted, unread) = save.File is { } file ? FuseFile.Parse(file) : (save.Definition, null);
        if (wanted is null)
            return save.File is null
                ? Problems.Bad("definition", "Send the fuse.")
                : Problems.Bad("file", $"The file cannot be read: {unread}.");
        if (Oversized(wanted) is { } fault)
            return Problems.Bad(save.File is null ? "definition" : "file", fault);
        var fuse = await db.Fuses.SingleOrDefaultAsync(f => f.Id == fuseId, stop);
        if (fuse is null)
            return Problems.No("fuse");
        if (fuse.DraftRevision != save.Revision)
            return await MovedAsync(db, fuse, stop);
        // Edited back to what is armed, it is no draft.
        fuse.Draft =
            await ArmedAsync(db, fuse, stop) is { } armed && FuseFile.Same(armed.Definition, wanted) ? null : wanted;
        fuse.Name = string.IsNullOrWhiteSpace(wanted.Name) ? fuse.Name : wanted.Name.Trim();
        fuse.DraftRevision++;
        (fuse.DraftBy, fuse.DraftAt) = fuse.Draft is null
            ? default((Guid?, Instant?))
            : (ClientAccess.UserId(http.User), time.Now());
        return await CommitAsync(db, fuse, reader, time, stop);
    }

    private static async Task<Results<ContentHttpResult, ProblemHttpResult>> FileAsync(
        Guid fuseId,
        HttpContext http,
        AppDb db,
        PublicAddress address,
        CancellationToken stop
    )
    {
        var fuse = await db.Fuses.AsNoTracking().SingleOrDefaultAsync(f => f.Id == fuseId, stop);
        if (fuse is null)
            return Problems.No("fuse");
        http.Response.Headers.ContentDisposition =
            $"attachment; filename=\"{LeadField.KeyFor(fuse.Name).Replace('_', '-')}.fuse.json\"";
        return TypedResults.Text(
            FuseFile.Print(
                fuse.Draft ?? (await ArmedAsync(db, fuse, stop))!.Definition,
                address.Url + "/schemas/fuse.json"
            ),
            "application/json"
        );
    }

    private static async Task<Results<Ok<FuseDetail>, ProblemHttpResult>> DropAsync(
        Guid fuseId,
        AppDb db,
        FuseContextReader reader,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var fuse = await db.Fuses.SingleOrDefaultAsync(f => f.Id == fuseId, stop);
        if (fuse is null)
            return Problems.No("fuse");
        var armed = await ArmedAsync(db, fuse, stop);
        if (armed is null)
            return Problems.NotNow.Because("It was never armed, so there is nothing to go back to.");
        (fuse.Draft, fuse.DraftBy, fuse.DraftAt, fuse.Name) = (null, null, null, armed.Definition.Name);
        fuse.DraftRevision++;
        return await CommitAsync(db, fuse, reader, time, stop);
    }

    private static async Task<FuseVersion> NextVersionAsync(
        AppDb db,
        Fuse fuse,
        FuseDefinition definition,
        Guid? by,
        Instant now,
        CancellationToken stop
    )
    {
        var last = await db.FuseVersions.Where(v => v.FuseId == fuse.Id).MaxAsync(v => (int?)v.Number, stop) ?? 0;
        var version = new FuseVersion
        {
            Id = Guid.CreateVersion7(),
            ClientId = fuse.ClientId,
            FuseId = fuse.Id,
            Number = last + 1,
            Definition = definition,
            ArmedAt = now,
            ArmedBy = by,
        };
        db.FuseVersions.Add(version);
        return version;
    }

    private static async Task<Results<Ok<FuseDetail>, ProblemHttpResult>> ArmAsync(
        Guid fuseId,
        DraftToArm arm,
        HttpContext http,
        AppDb db,
        FuseContextReader reader,
        Signals signals,
        TimeProvider time,
        CancellationToken stop
    )
    {
        if (arm.AlsoDays is < 1 or > CatchUp.MostDays)
            return Problems.Bad("alsoDays", $"Between 1 and {CatchUp.MostDays} days.");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var fuse = await db
            .Fuses.FromSql($"select * from fuses where id = {fuseId} for update")
            .SingleOrDefaultAsync(stop);
        if (fuse is null)
            return Problems.No("fuse");
        if (fuse.DraftRevision != arm.Revision)
            return await MovedAsync(db, fuse, stop);
        var armed = await ArmedAsync(db, fuse, stop);
        var definition = fuse.Draft ?? armed?.Definition;
        if (definition is null)
            return Problems.NotNow.Because("There is no draft to arm.");
        var around = await reader.ReadAsync(fuse.ClientId, stop, definition);
        var faults = FuseFaults.Find(definition, around.ForFaults());
        if (faults.Count > 0)
            return Problems.CannotArm.Because(
                $"{faults.Count} to mend; the first: {faults[0].What}",
                new Dictionary<string, object?>(StringComparer.Ordinal) { ["faults"] = faults }
            );

        if (fuse.Draft is not null || armed is null)
        {
            armed = await NextVersionAsync(db, fuse, definition, ClientAccess.UserId(http.User), time.Now(), stop);
            fuse.ArmedVersionId = armed.Id;
        }

        var zone = await db.Clients.Where(c => c.Id == fuse.ClientId).Select(c => c.Zone).SingleAsync(stop);
        await ClockService.SetAsync(db, armed!, DateTimeZoneProviders.Tzdb[zone], time.Now(), stop);
        await db.WakeAsync("clocks", stop);

        fuse.State = FuseState.Armed;
        if (arm.AlsoDays is { } days)
        {
            (fuse.CatchUpSince, fuse.CatchUpUntil, fuse.CatchUpAfter) = (
                time.Now() - Duration.FromDays(days),
                time.Now(),
                null
            );
            await db.WakeAsync("catch-ups", stop);
        }

        (fuse.Draft, fuse.DraftBy, fuse.DraftAt) = (null, null, null);
        fuse.DraftRevision++;
        db.NoteChange(fuse.ClientId, ChangeKind.Fuse, fuse.Id);
        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        signals.CatchUps.Pulse();
        return TypedResults.Ok(await WholeAsync(db, fuse, reader, time.Now(), stop));
    }

    private static async Task<Results<Ok<FuseDetail>, ProblemHttpResult>> DisarmAsync(
        Guid fuseId,
        AppDb db,
        FuseContextReader reader,
        TimeProvider time,
        CancellationToken stop
    )
    {
        var fuse = await db.Fuses.SingleOrDefaultAsync(f => f.Id == fuseId, stop);
        if (fuse is null)
            return Problems.No("fuse");
        if (fuse.State != FuseState.Armed)
            return Problems.NotNow.Because("It is not armed.");
        fuse.State = FuseState.Disarmed;
        fuse.DraftRevision++;
        return await CommitAsync(db, fuse, reader, time, stop);
    }

    private static async Task<Results<Ok<FusesDisarmed>, ProblemHttpResult>> DisarmManyAsync(
        FusesToDisarm disarm,
        AppDb db,
        CancellationToken stop
    )
    {
        if (disarm.Ids is not { Count: > 0 and <= MostDisarmed } ids)
            return Problems.Bad("ids", $"Choose between one and {MostDisarmed} fuses.");
        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        Guid[] wanted = [.. ids];
        var armed = (
            await db
                .Fuses.FromSql($"select * from fuses where id = any({wanted}) order by id for update")
                .ToListAsync(stop)
        ).FindAll(f => f.State == FuseState.Armed);
        foreach (var fuse in armed)
        {
            fuse.State = FuseState.Disarmed;
            fuse.DraftRevision++;
            db.NoteChange(fuse.ClientId, ChangeKind.Fuse, fuse.Id);
        }

        await db.SaveAndNotifyAsync(stop);
        await transaction.CommitAsync(stop);
        return TypedResults.Ok(new FusesDisarmed(armed.Count));
    }

    private static async Task<Results<Ok<FuseDetail>, ProblemHttpResult>> CommitAsync(
        AppDb db,
        Fuse fuse,
        FuseContextReader reader,
        TimeProvider time,
        CancellationToken stop
    )
    {
        db.NoteChange(fuse.ClientId, ChangeKind.Fuse, fuse.Id);
        try
        {
            await db.SaveAndNotifyAsync(stop);
        }
        catch (DbUpdateConcurrencyException)
        {
            return Problems.DraftMoved.Because();
        }

        return TypedResults.Ok(await WholeAsync(db, fuse, reader, time.Now(), stop));
    }

    private static async Task<ProblemHttpResult> MovedAsync(AppDb db, Fuse fuse, CancellationToken stop)
    {
        var name = PeopleNames.Of(await db.PeopleAsync([fuse.DraftBy], stop), fuse.DraftBy);
        return Problems.DraftMoved.Because(name is null ? null : $"{name} saved it last.");
    }

    // What is stored as a draft may have any fault, but not any size.
    internal static string? Oversized(FuseDefinition definition) =>
        definition.Bands.SelectMany(b => b.Steps).FirstOrDefault(s => s.Settings.Values.Any(v => v is null))
            is { } hollow
            ? $"A setting of '{hollow.Name}' is null. Leave it out, or give it a value."
        : definition.Bands.Count > 100
        || definition.Bands.Any(b => b.Steps.Count > 200 || (b.Entry.Rules?.Every.Take(101).Count() ?? 0) > 100)
        || definition.Name.Length > 500
        || definition.LitBy.Count > 50
        || definition.StopOn.Count > 50
        || definition.Bands.SelectMany(b => b.Steps).SelectMany(s => s.Settings.Values).Any(v => v.Length > 20_000)
            ? "That is larger than any fuse can be: at most 100 bands, 200 steps in each, 100 rules, and 20,000 characters in a step."
        : null;

    private static Task<FuseVersion?> ArmedAsync(AppDb db, Fuse fuse, CancellationToken stop) =>
        db.FuseVersions.AsNoTracking().SingleOrDefaultAsync(v => v.Id == fuse.ArmedVersionId, stop);

    private static async Task<FuseDetail> WholeAsync(
        AppDb db,
        Fuse fuse,
        FuseContextReader reader,
        Instant now,
        CancellationToken stop
    )
    {
        var row = (await RowsAsync(db, db.Fuses.Where(f => f.Id == fuse.Id), now, stop))[0];
        var armed = await ArmedAsync(db, fuse, stop);
        var definition = fuse.Draft ?? armed!.Definition;
        var around = await reader.ReadAsync(fuse.ClientId, stop, definition);
        var people = await db.PeopleAsync([armed?.ArmedBy, fuse.DraftBy], stop);
        var since = now - Duration.FromDays(30);
        var counts = await db
            .Story.Where(s => s.Kind == StoryKind.BandLit && s.At >= since && s.Band != null)
            .Join(db.Burns.Where(b => b.FuseId == fuse.Id), s => s.BurnId, b => b.Id, (s, b) => s.Band!)
            .GroupBy(b => b)
            .Select(g => new BandCount(g.Key, g.Count()))
            .ToListAsync(stop);
        return new(
            row,
            definition,
            armed?.Definition,
            fuse.DraftRevision,
            armed?.ArmedAt,
            PeopleNames.Of(people, armed?.ArmedBy),
            PeopleNames.Of(people, fuse.DraftBy),
            fuse.DraftAt,
            around.FaultsOf(fuse.Id, definition),
            around.NameFor(definition),
            counts,
            around
        );
    }

    private static async Task<IReadOnlyList<FuseRow>> RowsAsync(
        AppDb db,
        IQueryable<Fuse> fuses,
        Instant now,
        CancellationToken stop
    )
    {
        var since = now - Duration.FromDays(30);
        var rows = await fuses
            .AsNoTracking()
            .OrderBy(f => f.Name)
            .Select(f => new
            {
                Fuse = f,
                Client = db.Clients.Where(c => c.Id == f.ClientId).Select(c => c.ShortName).First(),
                Armed = db.FuseVersions.FirstOrDefault(v => v.Id == f.ArmedVersionId),
                Lit = db.Burns.Count(b => b.FuseId == f.Id && b.LitAt >= since),
            })
            .ToListAsync(stop);
        return rows.ConvertAll(r => new FuseRow(
            r.Fuse.Id,
            r.Fuse.ClientId,
            r.Client,
            r.Fuse.Name,
            r.Fuse.State,
            r.Armed?.Number,
            r.Fuse.Draft is not null && r.Armed is not null,
            FuseSentence.Say(r.Fuse.Draft ?? r.Armed!.Definition),
            r.Lit
        ));
    }
}
