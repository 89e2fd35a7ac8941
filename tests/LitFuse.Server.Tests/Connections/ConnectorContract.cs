using System.Net.Http.Json;
using System.Text.Json;
using LitFuse.Backlot;
using LitFuse.Connectors;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Features.Connections;
using Microsoft.AspNetCore.Builder;
using NodaTime;
using Xunit;

namespace LitFuse.Server.Tests.Connections;

/// <summary>The Backlot alone, over real HTTP: no database, no engine.</summary>
public sealed class Outdoors : IAsyncLifetime
{
    private WebApplication? outside;

    public Uri Url { get; } = new($"http://127.0.0.1:{World.FreePort()}/");

    public HttpClient Http { get; private set; } = null!;

    public async ValueTask InitializeAsync()
    {
        outside = Outside.Build([
            "--url",
            Url.ToString(),
            "--smtp-port",
            World.FreePort().ToString(System.Globalization.CultureInfo.InvariantCulture),
        ]);
        await outside.StartAsync();
        Http = new HttpClient { BaseAddress = Url };
    }

    public async ValueTask DisposeAsync()
    {
        Http.Dispose();
        await outside!.StopAsync();
        await outside.DisposeAsync();
    }
}

/// <summary>
/// What every connector must hold to, whatever its service does. A new one says how it is made, what it sends and how
/// what it left is counted, and gets all of these tests for nothing.
/// </summary>
/// <param name="outdoors">Where the stand-in is.</param>
public abstract class ConnectorContract(Outdoors outdoors) : IClassFixture<Outdoors>, IAsyncLifetime
{
    private static int markers;
    private readonly string marker = $"m{Interlocked.Increment(ref markers)}-{Guid.NewGuid():N}@example.org";

    /// <summary>Makes it.</summary>
    protected abstract IConnector Make(ConnectorHttp http);

    /// <summary>The stand-in's name on the fault board.</summary>
    protected abstract string Service { get; }

    /// <summary>
    /// What a good delivery says, filled in; <paramref name="marker"/> is an email address that must stand in it.
    /// </summary>
    protected abstract (string Kind, Dictionary<string, string> Settings) Good(string marker);

    /// <summary>A delivery that the service, or the connector, refuses for good, and a part of the reason.</summary>
    protected abstract (Dictionary<string, string> Settings, string Because) Refused(string marker);

    /// <summary>How many records with the marker stand on the other side.</summary>
    protected abstract Task<int> CountAsync(string marker);

    /// <summary>Where its API is.</summary>
    protected virtual Uri Address => outdoors.Url;

    /// <summary>The token that opens the stand-in.</summary>
    protected virtual string Token => "backlot-demo-" + Service;

    /// <summary>What else it was given when it was connected.</summary>
    protected virtual Dictionary<string, string> Details => [];

    /// <summary>
    /// False where nothing there can be asked without harm that would tell a good key from a bad one.
    /// </summary>
    protected virtual bool VerifiesKeys => true;

    /// <summary>The stand-in's own pages.</summary>
    protected HttpClient Seen => outdoors.Http;

    private string Lead { get; } = Guid.CreateVersion7().ToString();

    public virtual ValueTask InitializeAsync() => ValueTask.CompletedTask;

    public async ValueTask DisposeAsync()
    {
        GC.SuppressFinalize(this);
        await outdoors.Http.DeleteAsync("/api/faults");
    }

    [Fact]
    public async Task It_works_once_and_says_what_was_said()
    {
        var access = Access();
        var result = await Make(Http()).DeliverAsync(access, Of(Good(marker)), CancellationToken.None);
        Assert.Equal((AttemptEnd.Accepted, true), (result.End, result.Reason.Length > 0));
        Assert.Equal(1, await CountAsync(marker));
        Assert.Contains(access.Tape!.Exchanges, e =>
            e.Sent?.Contains(marker, StringComparison.Ordinal) == true
            || e.Asked.Contains(Uri.EscapeDataString(marker), StringComparison.Ordinal)
        );
        Assert.DoesNotContain(
            Token.Length > 0 ? Token : "no-token",
            JsonSerializer.Serialize(access.Tape.Exchanges),
            StringComparison.Ordinal
        );
        var promised = Make(Http()).Steps.Single(s => s.Key == Good(marker).Kind).Results;
        foreach (var name in result.Results?.Keys ?? [])
            Assert.True(
                promised.Contains(name) || Good(marker).Settings.ContainsKey("results." + name),
                $"it leaves '{name}', which its step does not promise"
            );
    }

    [Fact]
    public async Task What_is_refused_for_good_says_why()
    {
        var (settings, because) = Refused(marker);
        var result = await Make(Http())
            .DeliverAsync(Access(), Of((Good(marker).Kind, settings)), CancellationToken.None);
        Assert.Equal(AttemptEnd.Final, result.End);
        Assert.Contains(because, result.Reason, StringComparison.OrdinalIgnoreCase);
        Assert.Equal(0, await CountAsync(marker));
    }

    [Theory]
    [InlineData("half")] // it takes it, then breaks off before the answer
    [InlineData("repeat")] // it does everything twice
    [InlineData("error")]
    [InlineData("down")]
    [InlineData("busy")]
    [InlineData("slow")]
    public async Task Whatever_the_service_does_it_is_there_once_in_the_end(string fault)
    {
        await FaultAsync(fault);
        var outgoing = Of(Good(marker));
        var connector = Make(Http(TimeSpan.FromMilliseconds(400)));
        var first = await connector.DeliverAsync(Access(), outgoing, CancellationToken.None);
        if (fault != "repeat")
        {
            Assert.Equal(AttemptEnd.Temporary, first.End);
            if (fault == "busy")
                Assert.Equal(Duration.FromSeconds(2), first.RetryAfter);
            // It was tried twice in trouble, as the engine does.
            await connector.DeliverAsync(Access(), outgoing with { Attempt = 2 }, CancellationToken.None);
        }

        await outdoors.Http.DeleteAsync("/api/faults");
        if (fault == "slow")
            await Task.Delay(600); // what was still on its way has come in by now
        var last = await Make(Http()).DeliverAsync(Access(), outgoing with { Attempt = 3 }, CancellationToken.None);
        Assert.Equal(AttemptEnd.Accepted, last.End);
        Assert.Equal(1, await CountAsync(marker));
    }

    [Fact]
    public async Task The_same_lead_again_under_the_same_key_adds_nothing()
    {
        var outgoing = Of(Good(marker));
        for (var attempt = 1; attempt <= 3; attempt++)
            Assert.Equal(
                AttemptEnd.Accepted,
                (
                    await Make(Http())
                        .DeliverAsync(Access(), outgoing with { Attempt = attempt }, CancellationToken.None)
                ).End
            );
        Assert.Equal(1, await CountAsync(marker));
    }

    [Fact]
    public async Task An_access_that_ran_out_is_told_and_nothing_is_sent()
    {
        var access = Access() with { Token = "of-yesterday" };
        var result = await Make(Http()).DeliverAsync(access, Of(Good(marker)), CancellationToken.None);
        Assert.Equal(AttemptEnd.Final, result.End);
        Assert.Contains("401", result.Reason, StringComparison.Ordinal);
        Assert.Equal(0, await CountAsync(marker));
        var told = await ConnectionVerifier.AskAsync(Make(Http()), access, CancellationToken.None);
        Assert.Equal(VerifiesKeys ? ConnectionState.Withdrawn : ConnectionState.Whole, told.State);
        Assert.Equal(VerifiesKeys, told.Fault is not null);
    }

    [Fact]
    public async Task A_good_access_verifies_and_its_lists_can_be_had()
    {
        var connector = Make(Http());
        Assert.Null((await ConnectionVerifier.AskAsync(connector, Access(), CancellationToken.None)).Fault);
        var settings = Good(marker).Settings;
        foreach (
            var setting in connector
                .Steps.Where(s => !s.Hidden)
                .SelectMany(s => s.Settings)
                .Where(s => s.List is not null && s.ListNeeds.All(settings.ContainsKey))
        )
        {
            var list = await connector.ListAsync(Access(), setting.List!, settings, CancellationToken.None);
            Assert.NotEmpty(list);
            Assert.Equal(list.Count, list.Select(i => i.Key).Distinct().Count());
        }
    }

    [Fact]
    public async Task What_a_test_left_is_marked_and_can_be_taken_back()
    {
        var connector = Make(Http());
        var result = await connector.DeliverAsync(
            Access(),
            Of(Good(marker)) with
            {
                Test = true,
            },
            CancellationToken.None
        );
        Assert.Equal(AttemptEnd.Accepted, result.End);
        if (
            result.Reference is null
            || await connector.SweepAsync(Access(), Good(marker).Kind, result.Reference, CancellationToken.None)
                is not { } gone
        )
            return;
        Assert.True(gone);
        Assert.Equal(0, await CountAsync(marker));
        // what is not there any more is gone too
        Assert.True(await connector.SweepAsync(Access(), Good(marker).Kind, result.Reference, CancellationToken.None));
    }

    [Fact]
    public async Task It_does_not_reach_into_our_own_network()
    {
        var result = await Make(new ConnectorHttp(new Clients(TimeSpan.FromSeconds(5), new OutboundRules())))
            .DeliverAsync(Access(), Of(Good(marker)), CancellationToken.None);
        Assert.Equal(AttemptEnd.Final, result.End);
        Assert.Contains("may not be called", result.Reason, StringComparison.Ordinal);
        Assert.Equal(0, await CountAsync(marker));
    }

    [Fact]
    public void It_says_of_itself_what_people_need_to_know()
    {
        var connector = Make(Http());
        var card = connector.Card;
        Assert.NotEmpty(card.Guide);
        Assert.Contains(card.Asks, a => a.Key == ConnectorCard.Address);
        Assert.True(card.Asks.Count(a => a.Secret) <= 1);
        Assert.All(card.Permissions, p => Assert.True(p.Name.Length > 0 && p.Without.Length > 0));
        Assert.All(connector.Steps, s =>
        {
            Assert.Equal((card.Kind, Lane.Systems), (s.Service, s.Lane));
            Assert.Equal(s.Settings.Count, s.Settings.Select(x => x.Key).Distinct().Count());
            Assert.All(s.Settings.Where(x => x.Type is SettingType.Listed or SettingType.Columns), x =>
                Assert.NotNull(x.List)
            );
            Assert.All(s.Settings.Where(x => x.Type == SettingType.Choice), x => Assert.NotEmpty(x.Choices));
            Assert.All(s.Settings.SelectMany(x => x.ListNeeds), need =>
                Assert.Contains(s.Settings, x => x.Key == need)
            );
        });
    }

    private async Task FaultAsync(string mode) =>
        (
            await outdoors.Http.PutAsJsonAsync($"/api/faults/{Service}", new { mode, seconds = 0.5 })
        ).EnsureSuccessStatusCode();

    protected Outgoing Of((string Kind, Dictionary<string, string> Settings) what) =>
        new(what.Kind, "key-" + marker, what.Settings, null, Lead, "GBP");

    protected ConnectionAccess Access() =>
        new(Guid.NewGuid(), Address, Token, null, outdoors.Url + "nobody", Details)
        {
            Tape = new Tape(TimeProvider.System, Token),
        };

    protected static ConnectorHttp Http(TimeSpan? patience = null) =>
        new(new Clients(patience ?? TimeSpan.FromSeconds(30), new OutboundRules { AllowPrivate = true }));
}

/// <summary>Makes clients as the server does, with a patience of a test's own.</summary>
internal sealed class Clients(TimeSpan patience, OutboundRules rules) : IHttpClientFactory
{
    public HttpClient CreateClient(string name) => new(Outbound.Handler(rules)) { Timeout = patience };
}
