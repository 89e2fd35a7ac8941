using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace LitFuse.Server.Demo;

/// <summary>
/// Loads the demonstration into an empty database: the same world from the same seed, shifted so that it ends now.
/// Stories are not written by hand: each burn is run through the engine on a virtual clock.
/// </summary>
public sealed partial class DemoLoader(
    AppDb db,
    IServiceScopeFactory scopes,
    UserManager<User> users,
    Secrets secrets,
    PublicAddress address,
    StepCatalog catalog,
    Settings settings,
    TimeProvider time
)
{
    private const int Seed = 5080;
    private const int Days = 90;
    private const int InOneCopy = 500;

    // How long ago the last ones asked, by client: somebody is always in the air when the demonstration begins.
    private static readonly Dictionary<string, double[]> LatelySeconds = new(StringComparer.Ordinal)
    {
        ["brackenwheel"] = [552, 221, 96, 38, 9],
        ["hollin-vane"] = [398, 143],
        ["tarn-valley"] = [],
    };

    /// <summary>Loads it if there is no client yet; else only brings addresses up to date.</summary>
    public async Task LoadAsync(CancellationToken stop)
    {
        if (await db.Clients.AnyAsync(stop))
        {
            await ReAddressAsync(stop);
            return;
        }

        await using var transaction = await db.Database.BeginTransactionAsync(stop);
        var now = time.Now();
        var cast = DemoCast.Clients();
        var people = await PeopleAsync(cast, stop);
        foreach (var client in cast)
            await ClientAsync(client, people, now, stop);
        await db.Database.ExecuteSqlAsync($"analyze", stop);
        await transaction.CommitAsync(stop);
    }

    private async Task<Dictionary<string, Guid>> PeopleAsync(IReadOnlyList<DemoClient> cast, CancellationToken stop)
    {
        foreach (var client in cast)
        {
            client.Client.Id = Guid.CreateVersion7();
            db.Clients.Add(client.Client);
        }

        await db.SaveChangesAsync(stop);
        var ids = new Dictionary<string, Guid>(StringComparer.Ordinal);
        foreach (var person in DemoCast.People)
        {
            var user = new User
            {
                Id = Guid.CreateVersion7(),
                Name = person.Name,
                Email = person.Email,
                UserName = person.Email,
                EmailConfirmed = true,
                TestPhone = person.Phone,
            };
            var made = await users.CreateAsync(user, DemoCast.Password);
            if (!made.Succeeded)
                throw new InvalidOperationException(
                    $"The account of {person.Name} could not be made: {made.Errors.First().Description}"
                );
            ids[person.Name] = user.Id;
            var clients = person.Clients is null
                ? [(Guid?)null]
                : person.Clients.Select(key => (Guid?)cast.First(c => c.Client.Key == key).Client.Id);
            db.Memberships.AddRange(
                clients.Select(c => new Membership
                {
                    Id = Guid.CreateVersion7(),
                    UserId = user.Id,
                    ClientId = c,
                    Role = person.Role,
                })
            );
        }

        await db.SaveChangesAsync(stop);
        return ids;
    }

    private async Task ClientAsync(
        DemoClient client,
        Dictionary<string, Guid> people,
        Instant now,
        CancellationToken stop
    )
    {
        var began = now - Duration.FromDays(Days + 1);
        var id = client.Client.Id;
        var noor = people["Noor Abernathy-Voss"];
        db.LeadFields.AddRange(
            client.Fields.Select(f => new LeadFieldDef
            {
                ClientId = id,
                Key = f.Key,
                Label = f.Label,
                Choices = f.Choices,
                Type = f.Type,
            })
        );
        var connections = Connections(client);
        db.Connections.AddRange(connections);
        var (forms, texts) = Forms(client, connections, noor, began, now);
        var armed = Armed(client, noor, began);
        await db.SaveChangesAsync(stop);
        var chance = new Random(Seed + client.Client.Key.Length);
        var lately = LatelySeconds[client.Client.Key].Select(Duration.FromSeconds).ToList();
        var askings = new DemoAskings(chance, client, settings.DemoShare).Make(now, Days, lately);
        Spend(client, forms, chance, now);
        Seen(forms, askings, now);
        await db.SaveChangesAsync(stop);
        var life = new DemoLife(
            client,
            forms,
            texts,
            armed,
            connections,
            [.. client.Reps.Select(r => people[r])],
            people,
            address,
            catalog,
            Seed,
            now,
            lately.Count == 0 ? now : now - lately.Max()
        );
        await LiveAsync(life, askings, stop);
        await DemoLooseEnds.AddAsync(db, client, forms, now, stop);
    }

    // One chunk of people is copied while the next lives.
    private async Task LiveAsync(DemoLife life, IReadOnlyList<DemoAsking> askings, CancellationToken stop)
    {
        var copying = Task.CompletedTask;
        foreach (var chunk in askings.GroupBy(a => a.Who).Chunk(InOneCopy))
        {
            var scope = scopes.CreateAsyncScope();
            scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
            var gathered = scope.ServiceProvider.GetRequiredService<AppDb>();
            gathered.ChangeTracker.AutoDetectChangesEnabled = false;
            foreach (var person in chunk)
                life.Live(gathered, [.. person]);
            await copying;
            copying = CopyAsync(scope, gathered, stop);
        }

        await copying;
    }

    private (Dictionary<string, Form> ByKey, Dictionary<Guid, Guid> Texts) Forms(
        DemoClient client,
        List<Connection> connections,
        Guid noor,
        Instant began,
        Instant now
    )
    {
        var id = client.Client.Id;
        var forms = new Dictionary<string, Form>(StringComparer.Ordinal);
        var texts = new Dictionary<Guid, Guid>();
        foreach (var kind in client.Forms.GroupBy(f => f.SourceKind))
        {
            var source = SourceOf(client, kind.Key, kind.First().SourceName, connections, now);
            db.Sources.Add(source);
            foreach (var demo in kind)
            {
                var form = new Form
                {
                    Id = Guid.CreateVersion7(),
                    ClientId = id,
                    SourceId = source.Id,
                    Key = demo.Key,
                    Name = demo.Name,
                    Fields = demo.Fields,
                    ExternalId = demo.External,
                    MadeAt = began,
                };
                Address(form);
                forms[demo.Key] = form;
                db.Forms.Add(form);
                if (form.Design?.Consent is { } consent)
                    db.ConsentTexts.Add(
                        new()
                        {
                            Id = texts[form.Id] = Guid.CreateVersion7(),
                            ClientId = id,
                            FormId = form.Id,
                            Version = 1,
                            Mark = consent.Mark,
                            Words = consent.Words,
                            PrivacyUrl = consent.PrivacyUrl,
                            MadeAt = began,
                        }
                    );
                if (demo.Map is not null)
                    db.FormMaps.Add(
                        new()
                        {
                            Id = Guid.CreateVersion7(),
                            ClientId = id,
                            FormId = form.Id,
                            Version = 1,
                            Status = MapStatus.Confirmed,
                            Map = demo.Map,
                            MadeAt = began,
                            ConfirmedBy = noor,
                            ConfirmedAt = began,
                        }
                    );
            }
        }

        return (forms, texts);
    }

    private List<FuseVersion> Armed(DemoClient client, Guid noor, Instant began)
    {
        var id = client.Client.Id;
        var armed = new List<FuseVersion>();
        foreach (var definition in client.Fuses)
        {
            var fuse = new Fuse
            {
                Id = Guid.CreateVersion7(),
                ClientId = id,
                Name = definition.Name,
                State = FuseState.Armed,
                DraftRevision = 1,
            };
            var version = new FuseVersion
            {
                Id = Guid.CreateVersion7(),
                ClientId = id,
                FuseId = fuse.Id,
                Number = 1,
                Definition = definition,
                ArmedAt = began,
                ArmedBy = noor,
            };
            fuse.ArmedVersionId = version.Id;
            db.Fuses.Add(fuse);
            db.FuseVersions.Add(version);
            armed.Add(version);
        }

        return armed;
    }

    private async Task CopyAsync(AsyncServiceScope scope, AppDb gathered, CancellationToken stop)
    {
        await Task.Yield();
        await using (scope)
            await BulkCopy.WriteAsync(gathered, (NpgsqlConnection)db.Database.GetDbConnection(), stop);
    }

    private void Spend(DemoClient client, Dictionary<string, Form> forms, Random chance, Instant now)
    {
        var today = now.InZone(client.Client.DateTimeZone()).Date;
        for (var day = 0; day <= Days; day++)
        {
            var date = today.PlusDays(-day);
            var weekday = (int)date.DayOfWeek >= 6 ? 0.6 : 1.05;
            foreach (var form in client.Forms)
            {
                var expected = client.People / (double)Days * form.Share * weekday;
                db.SpendDays.Add(
                    new()
                    {
                        ClientId = client.Client.Id,
                        Day = new DateOnly(date.Year, date.Month, date.Day),
                        SourceId = forms[form.Key].SourceId,
                        Campaign = form.Campaign,
                        AmountMinor = (long)(expected * form.CostPerLeadMinor * (0.8 + (0.4 * chance.NextDouble()))),
                    }
                );
            }
        }
    }

    // What was shown and begun of the form that is built here: of those who see it about one in six sends it.
    private void Seen(Dictionary<string, Form> forms, IReadOnlyList<DemoAsking> askings, Instant now)
    {
        if (!forms.TryGetValue(DemoCast.TestRideForm, out var form))
            return;
        foreach (
            var day in askings
                .Where(a => a.Form.Key == form.Key && now - a.At < Duration.FromDays(30))
                .GroupBy(a => a.At.InUtc().Date)
        )
        {
            var sends = day.Count();
            db.FormDays.Add(
                new()
                {
                    ClientId = form.ClientId,
                    FormId = form.Id,
                    Day = new DateOnly(day.Key.Year, day.Key.Month, day.Key.Day),
                    Views = (sends * 6) + (day.Key.Day % 5),
                    Starts = (sends * 2) + (day.Key.Day % 3),
                    Sends = sends,
                }
            );
        }
    }

    private void Address(Form form)
    {
        if (form.Key == "brackenwheel-callback")
            form.ThankYouUrl = settings.BacklotUrl + "/pagewright/brackenwheel/thank-you";
        if (form.Key == "brackenwheel-visit")
            form.PageUrl = settings.BacklotUrl + "/pagewright/brackenwheel/visit-us";
        if (form.Key == "brackenwheel-second-hand")
            (form.PageUrl, form.ThankYouUrl) = (
                settings.BacklotUrl + "/pagewright/brackenwheel/second-hand",
                settings.BacklotUrl + "/pagewright/brackenwheel/thank-you"
            );
        if (form.Key != DemoCast.TestRideForm)
            return;
        form.Draft = form.Design = DemoCast.TestRideDesign(form.Fields, settings.BacklotUrl);
        form.PublishedAt ??= form.MadeAt;
        form.PageUrl = settings.BacklotUrl + "/pagewright/brackenwheel/book-a-test-ride";
        form.ThankYouUrl = settings.BacklotUrl + "/pagewright/brackenwheel/thank-you";
    }

    // The Backlot may have been given another address since: what stood there follows it. What people connected
    // elsewhere stays where it is.
    private async Task ReAddressAsync(CancellationToken stop)
    {
        var connections = await db.Connections.OrderBy(c => c.Id).ToListAsync(stop);
        static string PlaceOf(Connection connection) => new Uri(connection.BaseUrl).Authority;
        var (before, mailBefore) = (
            connections.Find(c => c.Kind == "ridgeboard") is { } chat ? PlaceOf(chat) : null,
            connections.Find(c => c.Kind == "pillarpost") is { } mail ? PlaceOf(mail) : null
        );
        foreach (var connection in connections)
        {
            if (connection.Kind == "pillarpost" && PlaceOf(connection) == mailBefore)
                connection.BaseUrl = new UriBuilder(settings.BacklotMail!)
                {
                    UserName = new Uri(connection.BaseUrl).UserInfo,
                }.Uri.ToString();
            else if (connection.Kind != "pillarpost" && PlaceOf(connection) == before)
                connection.BaseUrl = settings.BacklotUrl + new Uri(connection.BaseUrl).AbsolutePath;
            // It forgets who listens when it stops; asked anew, it is told again.
            if (connection.NoticeSecret is not null)
                connection.VerifiedAt = null;
        }

        foreach (var form in await db.Forms.Where(f => f.Key.StartsWith("brackenwheel-")).ToListAsync(stop))
            Address(form);
        foreach (var source in await db.Sources.Where(s => s.DailyFile != null && s.Key != null).ToListAsync(stop))
            source.DailyFile = DailyFileOf(source.Key!.Replace("-lanternfind", "", StringComparison.Ordinal));
        // It forgets who listens when it stops.
        foreach (var source in await db.Sources.Where(s => s.ConnectionId != null).ToListAsync(stop))
            source.LookDueAt = time.Now();
        await db.SaveChangesAsync(stop);
    }
}
