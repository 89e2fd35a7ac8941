using System.Net.Http.Json;
using System.Text.Json;
using CsCheck;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Engine;
using LitFuse.Core.Replies;
using LitFuse.Core.Tests;
using LitFuse.Data;
using LitFuse.Server.Engine;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>A world whose engine does nothing by itself: the test is its clock.</summary>
public sealed class StillWorld : World
{
    protected override string[] MoreSettings => ["--role", "web"];
}

/// <summary>
/// The same fuse, lead and reactions through the dry run, and through the engine and PostgreSQL with a moved clock: the
/// same messages at the same times. Fuses are generated from everything the language has.
/// </summary>
public sealed class DryIsRealTests(StillWorld world) : IClassFixture<StillWorld>
{
    private static readonly int Cases = Whole.Of(160, 520);
    private static readonly Duration Took = Duration.FromMilliseconds(300);
    private static readonly string[] Happens =
    [
        EventKeys.Replied,
        EventKeys.Touched,
        EventKeys.OptedOut,
        EventKeys.Tagged,
        EventKeys.StageReached,
    ];

    private sealed record Reaction(string What, int AfterSeconds, string? Detail);

    private sealed record Case(FuseDefinition Fuse, int Minute, List<Reaction> Reactions);

    private sealed record Message(string Step, Instant At, string Said)
    {
        public override string ToString() => $"{Step} {At}: {Said}";
    }

    private static readonly Gen<Case> GenCase = Gen.Select(
            GenFuses.GenFuse,
            Gen.Int[0, 7 * 24 * 60],
            Gen.Select(Gen.Int[0, Happens.Length - 1], Gen.Int[1, 300_000], Gen.Int[0, 3])
                .Select(
                    (what, after, detail) =>
                        new Reaction(
                            Happens[what],
                            after,
                            Happens[what] switch
                            {
                                EventKeys.Replied => detail switch
                                {
                                    0 => "yes please",
                                    1 => "the second",
                                    2 => "stop",
                                    _ => "how much is it?",
                                },
                                EventKeys.Tagged => "t",
                                EventKeys.StageReached => "Won",
                                _ => null,
                            }
                        )
                )
                .List[0, 4],
            Gen.Int[0, 200_000]
        )
        .Select(
            (fuse, minute, reactions, seconds) =>
                new Case(fuse with { Bands = [.. fuse.Bands.Select(Mended), Speaks(seconds)] }, minute, reactions)
        );

    // Something is said to the lead and to the team in every case.
    private static Band Speaks(int seconds) =>
        new(
            "speaks",
            "Speaks",
            new(EntryKind.Always),
            [
                new(
                    "text",
                    "Text",
                    StepKinds.Text,
                    StepMoment.After(seconds),
                    new Dictionary<string, string>
                    {
                        ["words"] = "{{ lead.first_name }}, {{ now | day }} {{ lead.stage }}",
                    }
                ),
                new(
                    "post",
                    "Post",
                    StepKinds.ChannelPost,
                    StepMoment.After(seconds / 7),
                    new Dictionary<string, string>
                    {
                        ["channel"] = "#ride-desk",
                        ["words"] = "{{ lead.name }}: {{ reply.text }}",
                    }
                ),
            ]
        );

    // Ids that the fuse refers to are there, as arming would have demanded.
    private static Band Mended(Band band) =>
        band with
        {
            Steps =
            [
                .. band.Steps.Select(s =>
                    s with
                    {
                        OnFailure =
                            s.OnFailure is { Next: FailureThen.Instead, Step: var other }
                            && (other == s.Id || band.Steps.All(x => x.Id != other))
                                ? null
                                : s.OnFailure,
                    }
                ),
            ],
        };

    [Fact]
    public async Task A_dry_run_says_what_the_engine_then_does()
    {
        var noor = await world.NoorAsync();
        var cases = new List<Case>();
        GenCase.Sample(cases.Add, iter: Cases, threads: 1, seed: Environment.GetEnvironmentVariable("CsCheck_Seed"));
        var seen = 0;
        foreach (var (one, n) in cases.Select((c, n) => (c, n)))
        {
            var asked = Instant.FromUtc(2026, 11, 16, 0, 0) + Duration.FromMinutes(one.Minute);
            var (fuse, lead) = await SetUpAsync(one.Fuse, asked);
            var dry = await DryAsync(noor, fuse, lead, one, asked);
            var real = await RealAsync(fuse, lead, one, asked);
            Assert.True(
                dry.Messages.SequenceEqual(real.Messages),
                $"case {n}: {JsonSerializer.Serialize(one, CoreJson.Options)}\ndry:\n  {string.Join("\n  ", dry.Messages)}\nreal:\n  {string.Join("\n  ", real.Messages)}"
            );
            Assert.True(
                dry.Status == real.Status,
                $"case {n}: {JsonSerializer.Serialize(one, CoreJson.Options)} stands at {dry.Status} dry and at {real.Status} real"
            );
            seen += dry.Messages.Count;
        }

        Assert.True(seen > Cases, $"only {seen} messages in {Cases} cases");
    }

    private Task<(Guid Fuse, Guid Lead)> SetUpAsync(FuseDefinition definition, Instant now) =>
        world.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            await db
                .Fuses.Where(f => f.State == FuseState.Armed)
                .ExecuteUpdateAsync(f => f.SetProperty(x => x.State, FuseState.Disarmed));
            var client = await db.Clients.SingleAsync(c => c.Key == "brackenwheel");
            var form = await db.Forms.SingleAsync(f => f.Key == World.Form);
            var owner = await db.Users.SingleAsync(u => u.Email == "imke@brackenwheel.example");
            // Whoever is told has addresses; where nobody has, both say so, and there would be nothing to compare.
            (owner.TestPhone, owner.TestEmail, owner.TestPerson) = (
                "+447700900111",
                "imke@brackenwheel.example",
                "imke.sandoval"
            );
            var fuse = new Fuse
            {
                Id = Guid.NewGuid(),
                ClientId = client.Id,
                Name = definition.Name,
                State = FuseState.Armed,
            };
            var version = new FuseVersion
            {
                Id = Guid.NewGuid(),
                ClientId = client.Id,
                FuseId = fuse.Id,
                Number = 1,
                Definition = definition,
                ArmedAt = now,
            };
            fuse.ArmedVersionId = version.Id;
            var lead = new Lead
            {
                Id = Guid.NewGuid(),
                ClientId = client.Id,
                FormId = form.Id,
                Zone = "Europe/London",
                ZoneBecause = "",
                AskedAt = now,
                Stage = client.Stages[0],
                OwnerId = owner.Id,
                Test = false,
            };
            LeadFiller.Fill(
                lead,
                new Dictionary<string, string>
                {
                    ["first_name"] = "Ines",
                    ["last_name"] = "Carrow",
                    ["fleet_size"] = "25+",
                    ["phone"] = "+447700900123",
                    ["email"] = "ines.carrow@brackenwheel.example",
                },
                new("+447700900123", "GB", Fictional: true),
                client.Zone
            );
            db.AddRange(fuse, version, lead);
            await db.SaveChangesAsync();
            return (fuse.Id, lead.Id);
        });

    private async Task<(List<Message> Messages, string Status)> DryAsync(
        HttpClient noor,
        Guid fuse,
        Guid lead,
        Case one,
        Instant asked
    )
    {
        var local = asked.InZone(DateTimeZoneProviders.Tzdb["Europe/London"]).LocalDateTime;
        var body = new
        {
            definition = one.Fuse,
            leadId = lead,
            form = (string?)null,
            answers = (object?)null,
            at = local.ToString("yyyy-MM-ddTHH:mm", null),
            reactions = one.Reactions,
        };
        var answer = await (
            await noor.PostAsync($"/api/fuses/{fuse}/dry-run", JsonContent.Create(body, options: CoreJson.Options))
        ).BodyAsync();
        var messages = answer
            .GetProperty("moments")
            .EnumerateArray()
            .Where(m => m.Text("kind") == "step-sent")
            .Select(m => new Message(
                m.Text("stepId")!,
                NodaTime.Text.InstantPattern.ExtendedIso.Parse(m.Text("at")!).Value,
                Said(
                    m.GetProperty("message")
                        .GetProperty("settings")
                        .EnumerateObject()
                        .ToDictionary(p => p.Name, p => p.Value.GetString()!)
                )
            ));
        return ([.. messages.OrderBy(m => m.At).ThenBy(m => m.Step, StringComparer.Ordinal)], answer.Text("status")!);
    }

    private static string Said(IReadOnlyDictionary<string, string> settings) =>
        $"{settings.GetValueOrDefault("subject")} | {settings.GetValueOrDefault("words")}";

    // The world: what was handed over is taken 300 ms later; what they do happens when it does; a burn is woken when it
    // wants to be.
    private async Task<(List<Message> Messages, string Status)> RealAsync(Guid fuse, Guid lead, Case one, Instant asked)
    {
        var ahead = new PriorityQueue<Func<IServiceProvider, HeldLead, Instant, Task>, (Instant, int)>();
        var order = 0;
        var taken = new HashSet<Guid>();
        void At(Instant when, Func<IServiceProvider, HeldLead, Instant, Task> what) =>
            ahead.Enqueue(what, (when, order++));
        At(asked, (s, of, now) =>
            s.GetRequiredService<LeadEventRouter>()
                .HappenAsync(
                    of,
                    [
                        LeadEvent.Of(
                            EventKeys.Submission,
                            asked,
                            "by the submission",
                            ("form", World.Form),
                            ("page", ""),
                            ("source", ""),
                            ("account", ""),
                            ("campaign", "")
                        ),
                    ],
                    null,
                    now,
                    default,
                    only: fuse
                )
        );
        for (var i = 0; i < one.Reactions.Count; i++)
        {
            var (reaction, key) = (one.Reactions[i], $"real.{i}");
            At(asked + Duration.FromSeconds(reaction.AfterSeconds), (s, of, now) =>
                HappenAsync(s, of, reaction, key, now)
            );
        }

        while (true)
        {
            var wake = await world.InsideAsync(s =>
                s.GetRequiredService<AppDb>()
                    .Burns.Where(b => b.LeadId == lead)
                    .Select(b => b.WakeAt)
                    .SingleOrDefaultAsync()
            );
            var next = ahead.TryPeek(out _, out var first) ? first.Item1 : (Instant?)null;
            if (next is null && wake is null || Min(next, wake) > asked + Duration.FromDays(400))
                break;
            Func<IServiceProvider, HeldLead, Instant, Task> what =
                next is not null && !(wake < next) ? ahead.Dequeue() : WakeAsync;
            var now = what == WakeAsync ? wake!.Value : next!.Value;
            var handed = await StepAsync(lead, what, now, taken);
            foreach (var (delivery, step, burn, results) in handed)
            {
                At(now + Took, (s, of, at) =>
                    s.GetRequiredService<BurnService>()
                        .EndStepAsync(burn, of, new(step, StepStatus.Done, "taken", results, delivery.Key), at, default)
                );
            }
        }

        return await world.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            var sent = await db.Deliveries.Where(d => d.LeadId == lead).ToListAsync();
            var status = await db.Burns.Where(b => b.LeadId == lead).Select(b => b.Status).SingleAsync();
            return (
                sent.ConvertAll(d => new Message(d.StepId!, d.MadeAt, Said(d.Settings)))
                    .OrderBy(m => m.At)
                    .ThenBy(m => m.Step, StringComparer.Ordinal)
                    .ToList(),
                status.ToString().ToLowerInvariant()
            );
        });
    }

    private static Instant? Min(Instant? one, Instant? other) =>
        one is null ? other
        : other is null ? one
        : Instant.Min(one.Value, other.Value);

    private static async Task WakeAsync(IServiceProvider services, HeldLead lead, Instant now)
    {
        var db = services.GetRequiredService<AppDb>();
        var burn = (await HeldLead.HearingAsync(db, [lead], default)).Single();
        await services
            .GetRequiredService<LeadEventRouter>()
            .BringAsync(burn, lead, new BurnEvent.Woken(), now, default);
    }

    // As a text that came in, an opt-out by hand or by a page, or anything else that is only told.
    private static Task HappenAsync(
        IServiceProvider services,
        HeldLead held,
        Reaction reaction,
        string key,
        Instant now
    )
    {
        var lead = held.Lead;
        (string, string)[] details = reaction.What switch
        {
            EventKeys.Replied => [("text", reaction.Detail!)],
            EventKeys.Tagged => [("tag", reaction.Detail!)],
            EventKeys.StageReached => [("stage", reaction.Detail!)],
            _ => [],
        };
        var happened = new List<LeadEvent>
        {
            LeadEvent.Of(reaction.What, now, "it happened", details) with
            {
                Key = key,
            },
        };
        var stops =
            reaction.What == EventKeys.Replied && ReplyReader.Read(reaction.Detail!, []).Meaning == ReplyMeaning.Stop;
        if ((stops || reaction.What == EventKeys.OptedOut) && lead.OptedOutAt is null)
        {
            lead.OptedOutAt = now;
            if (stops)
                happened.Add(
                    LeadEvent.Of(EventKeys.OptedOut, now, "they wrote that they want no more messages") with
                    {
                        Key = key + ".out",
                    }
                );
        }

        return services.GetRequiredService<LeadEventRouter>().HappenAsync(held, happened, null, now, default);
    }

    // One event in a transaction of its own; what it hands over is under way at once.
    private Task<List<(OutboxHanded Delivery, string Step, Guid Burn, Dictionary<string, string> Results)>> StepAsync(
        Guid leadId,
        Func<IServiceProvider, HeldLead, Instant, Task> what,
        Instant now,
        HashSet<Guid> taken
    ) =>
        world.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            await using var transaction = await db.Database.BeginTransactionAsync();
            await what(s, (await HeldLead.OneAsync(db, leadId, default))!, now);
            await db.SaveChangesAsync();
            await db.Database.ExecuteSqlAsync(
                $"update deliveries set status = 'sending' where lead_id = {leadId} and status = 'due'"
            );
            await transaction.CommitAsync();
            var catalog = s.GetRequiredService<StepCatalog>();
            var names = await db.Connections.ToDictionaryAsync(c => c.Id, c => c.Name);
            var fresh = (
                await db.Deliveries.AsNoTracking().Where(d => d.LeadId == leadId).OrderBy(d => d.Id).ToListAsync()
            ).FindAll(d => taken.Add(d.Id));
            return fresh.ConvertAll(d =>
                (
                    new OutboxHanded(d.Key),
                    d.StepId!,
                    d.BurnId!.Value,
                    catalog
                        .Find(d.Kind)!
                        .Results.ToDictionary(
                            r => r,
                            r => $"‹{r} of “{names[d.ConnectionId]}”›",
                            StringComparer.Ordinal
                        )
                )
            );
        });

    private sealed record OutboxHanded(string Key);
}
