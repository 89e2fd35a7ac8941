using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>What strangers, accidents and bad luck do to people and burns, against the running server.</summary>
public sealed class PromisesTests(World world) : IClassFixture<World>
{
    private const string Ours = "+447700900512";

    private static Step Text(string id, string words, int after = 0) =>
        new(
            id,
            id,
            StepKinds.Text,
            StepMoment.After(after),
            new Dictionary<string, string> { ["words"] = words },
            Hours: new(HoursKind.None)
        );

    private static FuseDefinition Fuse(string form, params Step[] steps) =>
        new()
        {
            Name = "Made for a test",
            LitBy = [new(EventKeys.Submission, new Dictionary<string, IReadOnlyList<string>> { ["form"] = [form] })],
            Bands = [new("always", "Always", new(EntryKind.Always), steps)],
            Relight = Relight.Once,
        };

    // The carrier learns with a first text where ours are to be told of.
    private async Task WriteAsync(string phone, string words)
    {
        var noor = await world.NoorAsync();
        var (_, person, _, _) = await world.LitAsync(noor, form => Fuse(form, Text("hello", "Hello")));
        await World.EventuallyAsync(async () => (await world.TextsAsync(World.E164(person))).Count > 0, "a first text");
        (
            await world.Backlot.PostAsJsonAsync(
                $"/api/copperline/phones/{Uri.EscapeDataString(phone)}/texts",
                new { to = Ours, text = words }
            )
        ).EnsureSuccessStatusCode();
    }

    private static async Task<JsonElement> LeadAsync(HttpClient noor, string id) =>
        await noor.GetFromJsonAsync<JsonElement>($"/api/leads/{id}");

    private static bool IsOut(JsonElement lead) => lead.Text("optedOutAt") is not null;

    private Task<int> LeadsWithAsync(string phone) =>
        world.InsideAsync(s =>
            s.GetRequiredService<AppDb>()
                .LeadContacts.Where(c => c.Value == phone)
                .Select(c => c.LeadId)
                .Distinct()
                .CountAsync()
        );

    [Fact]
    public async Task A_number_corrected_by_the_same_id_is_theirs_from_then_on()
    {
        var noor = await world.NoorAsync();
        var (formId, form) = await World.OwnFormAsync(noor);
        var person = world.Person();
        person["id"] = "own-1";
        await world.SubmitAsync(person, form);
        await World.EventuallyAsync(
            async () => (await World.FormAsync(noor, formId)).GetProperty("fields").GetArrayLength() > 0,
            "fields of the form"
        );
        await World.ConfirmAsync(noor, formId);
        var lead = (await World.FoundAsync(noor, person["email"])).Text("id")!;

        // The same submission again, with the number put right.
        var corrected = world.Person()["phone"];
        await world.SubmitAsync(new Dictionary<string, string>(person) { ["phone"] = corrected }, form);
        await world.ToldAsync(noor, lead, "submission-edited");
        var phone = World.E164(new() { ["phone"] = corrected });

        // Another who has that number and no mailbox is them, and a stop from it is theirs.
        await world.SubmitAsync(
            new Dictionary<string, string>
            {
                ["first_name"] = "Ines",
                ["last_name"] = person["last_name"],
                ["phone"] = corrected,
                ["fleet_size"] = "25+",
            },
            form
        );
        await World.EventuallyAsync(
            async () => (await LeadAsync(noor, lead)).GetProperty("submissions").GetArrayLength() == 3,
            "the third submission with the same lead"
        );
        await WriteAsync(phone, "STOP");
        await World.EventuallyAsync(
            async () => IsOut(await LeadAsync(noor, lead)),
            "the stop from the corrected number"
        );
        Assert.Equal(1, await LeadsWithAsync(phone));
    }

    [Fact]
    public async Task A_corrected_number_that_is_not_to_be_contacted_is_asked_for()
    {
        var noor = await world.NoorAsync();
        var (formId, form) = await World.OwnFormAsync(noor);
        var (person, other) = (world.Person(), world.Person());
        await noor.PostAsJsonAsync(
            "/api/do-not-contact",
            new
            {
                client = "brackenwheel",
                addresses = other["phone"],
                reason = "asked on the phone",
            }
        );
        person["id"] = "own-1";
        await world.SubmitAsync(person, form);
        await World.EventuallyAsync(
            async () => (await World.FormAsync(noor, formId)).GetProperty("fields").GetArrayLength() > 0,
            "fields of the form"
        );
        await World.ConfirmAsync(noor, formId);
        var lead = (await World.FoundAsync(noor, person["email"])).Text("id")!;
        await world.SubmitAsync(new Dictionary<string, string>(person) { ["phone"] = other["phone"] }, form);
        await world.ToldAsync(noor, lead, "do-not-contact");
    }

    [Fact]
    public async Task A_number_that_a_step_writes_is_a_contact_and_asked_of_the_list()
    {
        var noor = await world.NoorAsync();
        var unwanted = world.Person()["phone"];
        await noor.PostAsJsonAsync(
            "/api/do-not-contact",
            new
            {
                client = "brackenwheel",
                addresses = unwanted,
                reason = "asked on the phone",
            }
        );
        var (lead, _, _, _) = await world.LitAsync(noor, form =>
            Fuse(
                form,
                new Step(
                    "set",
                    "set",
                    StepKinds.SetField,
                    StepMoment.AtOnce,
                    new Dictionary<string, string> { ["field"] = "phone", ["value"] = unwanted }
                )
            )
        );
        await world.ToldAsync(noor, lead, "do-not-contact");
        await WriteAsync(World.E164(new() { ["phone"] = unwanted }), "stop");
        await World.EventuallyAsync(
            async () => IsOut(await LeadAsync(noor, lead)),
            "the stop from the number that the step wrote"
        );
    }

    [Fact]
    public async Task Two_strangers_who_type_nothing_are_two_people()
    {
        var noor = await world.NoorAsync();
        var people = new[] { "00000", "00000", "1234", "2026-11-24" }
            .Select(typed => new Dictionary<string, string>(world.Person())
            {
                ["phone"] = typed,
                ["first_name"] = "Bram",
            })
            .ToList();
        foreach (var person in people)
            await world.SubmitAsync(person);
        var leads = new HashSet<string>();
        foreach (var person in people)
            leads.Add((await World.FoundAsync(noor, person["email"])).Text("id")!);
        Assert.Equal(people.Count, leads.Count);
        foreach (var lead in leads)
            await world.ToldAsync(noor, lead, "answer-unread");
    }

    [Fact]
    public async Task Two_who_share_a_number_stay_two_and_a_stop_from_it_stops_both()
    {
        var noor = await world.NoorAsync();
        var ines = world.Person();
        var bram = new Dictionary<string, string>(world.Person())
        {
            ["first_name"] = "Bram",
            ["last_name"] = "Varga",
            ["phone"] = ines["phone"],
        };
        var first = (await world.LeadOfAsync(noor, ines)).Text("id")!;
        var second = (await world.LeadOfAsync(noor, bram)).Text("id")!;
        Assert.NotEqual(first, second);
        Assert.Contains(
            "is also",
            (await world.ToldAsync(noor, second, "lead-conflict")).Text("words"),
            StringComparison.Ordinal
        );
        var phone = World.E164(ines);
        Assert.Equal(2, await LeadsWithAsync(phone));

        // Each can be rung; each asks again as themselves; and who wants no texts there means the number.
        Assert.Equal(phone, (await LeadAsync(noor, second)).GetProperty("lead").Text("phone"));
        await WriteAsync(phone, "stop");
        await World.EventuallyAsync(
            async () => IsOut(await LeadAsync(noor, first)) && IsOut(await LeadAsync(noor, second)),
            "both stopped"
        );

        // Made one after all, the number is one person's again; taken back, it is shared.
        var made = await noor.PostAsJsonAsync("/api/leads/merge", new { keep = first, gone = second });
        Assert.True(made.IsSuccessStatusCode, await made.Content.ReadAsStringAsync());
        Assert.Equal(1, await LeadsWithAsync(phone));
        var undone = await noor.PostAsync($"/api/regroups/{(await made.BodyAsync()).Text("id")}/undo", null);
        Assert.True(undone.IsSuccessStatusCode, await undone.Content.ReadAsStringAsync());
        Assert.Equal(2, await LeadsWithAsync(phone));
    }

    [Fact]
    public async Task Whatever_a_stranger_names_a_field_it_is_no_lead_field_until_it_is_mapped()
    {
        var noor = await world.NoorAsync();
        var (formId, form) = await World.OwnFormAsync(noor);
        var (person, victim) = (world.Person(), world.Person());
        await world.SubmitAsync(new { mail = person["email"], name = "Ines Calloway" }, form);
        await World.EventuallyAsync(
            async () => (await World.FormAsync(noor, formId)).GetProperty("fields").GetArrayLength() > 0,
            "fields of the form"
        );
        await World.ConfirmAsync(noor, formId);
        await world.SubmitAsync(
            new
            {
                mail = world.Person()["email"],
                name = "Ada Lund",
                email = victim["email"],
                phone = victim["phone"],
                first_name = "Nobody",
                note = new string('x', 200_000),
                junk_score = "0",
                stage = "Won",
            },
            form
        );
        var lead = (await World.FoundAsync(noor, "Lund")).Text("id")!;
        var row = await world.InsideAsync(s =>
            s.GetRequiredService<AppDb>().Leads.SingleAsync(l => l.Id == Guid.Parse(lead))
        );
        Assert.Equal(("Ada", false, null), (row.FirstName, row.Email == victim["email"], row.Phone));
        Assert.Empty(row.Fields.Keys.Intersect(["phone", "note", "stage", "junk_score"]));
        Assert.Equal((victim["email"], 4000), (row.Unmapped["email"], row.Unmapped["note"].Length));
        Assert.Equal(
            0,
            await world.InsideAsync(s =>
                s.GetRequiredService<AppDb>().LeadContacts.CountAsync(c => c.Value == victim["email"])
            )
        );
    }

    // The burn names a step that its version does not have, or what is stored of it cannot be read at all: no rule of
    // ours makes either, a damaged row is one.
    [Theory]
    [InlineData(
        "jsonb_set(state, '{steps,0,stepId}', '\"gone\"')",
        "jsonb_set(state, '{steps,0,stepId}', '\"later\"')",
        ""
    )]
    [InlineData(
        "jsonb_set(state || jsonb_build_object('kept', state->'steps'), '{steps}', '\"torn\"')",
        "jsonb_set(state - 'kept', '{steps}', state->'kept')",
        "what is stored of it cannot be read"
    )]
    public async Task One_bad_burn_harms_none_stands_on_the_Watch_and_is_run_again(
        string damaged,
        string whole,
        string because
    )
    {
        var noor = await world.NoorAsync();
        var (formId, form) = await World.OwnFormAsync(noor);
        var fuse = await World.ArmAsync(noor, Fuse(form, Text("later", "Hello {{ lead.first_name }}", 600)));
        var people = Enumerable.Range(0, 3).Select(_ => world.Person()).ToList();
        await world.SubmitAsync(people[0], form);
        await World.EventuallyAsync(
            async () => (await World.FormAsync(noor, formId)).GetProperty("fields").GetArrayLength() > 0,
            "fields of the form"
        );
        await World.ConfirmAsync(noor, formId);
        foreach (var person in people.Skip(1))
            await world.SubmitAsync(person, form);
        var leads = new List<string>();
        foreach (var person in people)
            leads.Add((await World.FoundAsync(noor, person["email"])).Text("id")!);
        foreach (var lead in leads)
            await world.ToldAsync(noor, lead, "fuse-lit");

        await World.SqlAsync(
            new Npgsql.NpgsqlConnectionStringBuilder(world.ConnectionString).Database!,
            $"update burns set state = {damaged} where lead_id = '{leads[1]}'"
        );
        world.Time.Move(TimeSpan.FromMinutes(11));
        try
        {
            await world.ToldAsync(noor, leads[1], "burn-set-aside");
            await world.ToldAsync(noor, leads[0], "step-done", "later");
            await world.ToldAsync(noor, leads[2], "step-done", "later");

            var watch = await noor.GetFromJsonAsync<JsonElement>("/api/watch?client=brackenwheel");
            var aside = Assert.Single(watch.GetProperty("setAside").EnumerateArray(), a => a.Text("fuseId") == fuse);
            Assert.Equal(1, aside.GetProperty("burns").GetInt32());
            Assert.Contains("deciding for it failed", aside.Text("because"), StringComparison.Ordinal);
            Assert.Contains(because, aside.Text("because"), StringComparison.Ordinal);
            var burn = Assert.Single(
                (await noor.GetFromJsonAsync<JsonElement>($"/api/burns?fuse={fuse}&state=set-aside"))
                    .GetProperty("items")
                    .EnumerateArray()
            );
            Assert.Contains(
                "litfuse_burns_set_aside 1\n",
                await world.Anyone.GetStringAsync("/metrics"),
                StringComparison.Ordinal
            );

            // What happens meanwhile is kept for it; run again while it is still bad, it is set aside again.
            await noor.PostAsJsonAsync($"/api/leads/{leads[1]}/touch", new { how = "called" });
            Assert.Equal(
                HttpStatusCode.NoContent,
                (await noor.PostAsync($"/api/burns/{burn.Text("id")}/run-again", null)).StatusCode
            );
            await World.EventuallyAsync(
                async () =>
                    (await world.StoryAsync(noor, leads[1])).Count(l => l.Text("kind") == "burn-set-aside") == 2,
                "it set aside again"
            );

            // Mended, it hears what it missed: the touch stops it, and nothing is sent.
            await World.SqlAsync(
                new Npgsql.NpgsqlConnectionStringBuilder(world.ConnectionString).Database!,
                $"update burns set state = {whole} where lead_id = '{leads[1]}'"
            );
            Assert.Equal(
                HttpStatusCode.NoContent,
                (await noor.PostAsync($"/api/burns/{burn.Text("id")}/run-again", null)).StatusCode
            );
            var cancelled = await World.EventuallyAsync(
                async () =>
                    (await world.StoryAsync(noor, leads[1]))
                        .Where(l => l.Text("kind") is "step-cancelled" or "step-sent")
                        .Cast<JsonElement?>()
                        .FirstOrDefault(),
                "what became of its step"
            );
            Assert.Contains(cancelled.Text("kind"), new[] { "step-cancelled", "step-sent" });
            Assert.Empty(
                (await noor.GetFromJsonAsync<JsonElement>("/api/watch?client=brackenwheel"))
                    .GetProperty("setAside")
                    .EnumerateArray()
            );
            Assert.Equal(
                HttpStatusCode.Conflict,
                (await noor.PostAsync($"/api/burns/{burn.Text("id")}/run-again", null)).StatusCode
            );
        }
        finally
        {
            world.Time.Move(TimeSpan.FromMinutes(-11));
        }
    }

    [Fact]
    public async Task Of_two_messages_of_one_moment_only_one_takes_the_last_place_of_the_day()
    {
        var noor = await world.NoorAsync();
        var client = await world.InsideAsync(s =>
            s.GetRequiredService<AppDb>().Clients.Where(c => c.Key == "brackenwheel").Select(c => c.Id).SingleAsync()
        );
        Task Allow(int most) =>
            world.InsideAsync(s =>
                s.GetRequiredService<AppDb>()
                    .Clients.Where(c => c.Id == client)
                    .ExecuteUpdateAsync(c => c.SetProperty(x => x.MostADay, most))
            );
        await Allow(2);
        try
        {
            var (lead, person, _, _) = await world.LitAsync(noor, form =>
                Fuse(form, [.. Enumerable.Range(0, 6).Select(n => Text($"t{n}", $"Text {n}"))])
            );
            await World.EventuallyAsync(
                async () =>
                    (await world.StoryAsync(noor, lead)).Count(l =>
                        l.Text("kind") is "step-waits" or "step-cancelled" or "step-done" or "step-failed"
                    ) >= 6,
                "six that went or wait"
            );
            Assert.Equal(2, (await world.TextsAsync(World.E164(person))).Count);
        }
        finally
        {
            await Allow(0);
        }
    }

    [Theory]
    [InlineData("/health/live", 200)]
    [InlineData("/health/ready", 200)]
    [InlineData("/metrics", 200)]
    [InlineData("/docs/errors", 200)]
    [InlineData("/health", 404)]
    [InlineData("/health/alive", 404)]
    [InlineData("/metrics/more", 404)]
    [InlineData("/openapi/v9.json", 404)]
    [InlineData("/schemas/other.json", 404)]
    [InlineData("/api/nothing", 404)]
    public async Task What_programs_ask_for_is_there_or_is_not_and_is_never_the_front_page(string path, int status)
    {
        var answer = await world.Anyone.GetAsync(path);
        Assert.Equal(status, (int)answer.StatusCode);
        Assert.DoesNotContain("<div id=\"root\"", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_type_of_a_refusal_leads_to_it()
    {
        var problem = await (await world.Anyone.GetAsync("/api/leads")).BodyAsync();
        var page = await world.Anyone.GetStringAsync(problem.Text("type")!.Split('#')[0]);
        foreach (var kind in Problems.All)
            Assert.Contains($"id=\"{kind.Code}\"", page, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("")]
    [InlineData("x")]
    public async Task A_long_row_of_smileys_keeps_nobody_from_becoming_a_lead(string before)
    {
        using var noor = await world.NoorAsync();
        var email = $"smile{before.Length}@example.com";
        await world.SubmitAsync(
            new
            {
                full_name = before + string.Concat(Enumerable.Repeat("🔥", 120)) + " Calloway",
                email,
                company = before + string.Concat(Enumerable.Repeat("🔥", 2100)),
                message = before + string.Concat(Enumerable.Repeat("🔥", 9000)),
                lf_page = before + string.Concat(Enumerable.Repeat("🔥", 1500)),
            }
        );
        Assert.Equal(email, (await World.FoundAsync(noor, email)).Text("email"));
    }

    [Fact]
    public async Task The_database_takes_no_word_that_is_not_one()
    {
        var open = new List<string>();
        await world.InsideAsync(async s =>
        {
            var db = s.GetRequiredService<AppDb>();
            foreach (var entity in db.Model.GetEntityTypes())
            {
                foreach (
                    var property in entity
                        .GetProperties()
                        .Where(p => (Nullable.GetUnderlyingType(p.ClrType) ?? p.ClrType).IsEnum)
                )
                {
                    var (table, column) = (entity.GetTableName()!, property.GetColumnName());
                    var (domain, words) = (
                        EnumsAsWords.DomainOf(table, column),
                        EnumsAsWords.WordsOf(Nullable.GetUnderlyingType(property.ClrType) ?? property.ClrType)
                    );
                    var there = await db
                        .Database.SqlQuery<string?>(
                            $"""
                            select (select string_agg(m[1], ' ' order by n) from regexp_matches(pg_get_constraintdef(c.oid), '''([a-z0-9-]+)''::text', 'g') with ordinality as f(m, n)) as "Value"
                            from pg_attribute a join pg_type t on t.oid = a.atttypid join pg_constraint c on c.contypid = t.oid
                            where a.attrelid = {table}::regclass and a.attname = {column} and t.typname = {domain}
                            """
                        )
                        .SingleOrDefaultAsync();
                    if (there != string.Join(' ', words))
                        open.Add(
                            $"{table}.{column} takes “{there}”. In a migration: alter domain {domain} drop constraint {domain}_check; alter domain {domain} add constraint {domain}_check check (value in ('{string.Join("', '", words)}')), or create the domain and alter the column's type to it."
                        );
                }
            }

            return 0;
        });
        Assert.Empty(open);
    }

    [Fact]
    public async Task Every_address_of_every_lead_is_a_contact_of_it()
    {
        // Of all that the demonstration, and the tests that ran in this world before, have made.
        var lacking = await world.InsideAsync(s =>
            s.GetRequiredService<AppDb>()
                .Database.SqlQuery<int>(
                    $"""
                    select count(*)::int as "Value" from leads l where l.merged_into is null and (
                      (l.email is not null and not exists (select from lead_contacts c where c.lead_id = l.id and c.kind = 'email' and c.value = l.email))
                      or (l.phone is not null and l.phone_readable and not exists (select from lead_contacts c where c.lead_id = l.id and c.kind = 'phone' and c.value = l.phone)))
                    """
                )
                .SingleAsync()
        );
        Assert.Equal(0, lacking);
    }
}
