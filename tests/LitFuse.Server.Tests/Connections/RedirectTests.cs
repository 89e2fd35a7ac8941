using LitFuse.Connectors;
using LitFuse.Core.Delivering;
using LitFuse.Platform;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Logging;
using Xunit;

namespace LitFuse.Server.Tests.Connections;

/// <summary>Services that send a call on to another address.</summary>
public sealed class RedirectTests : IAsyncLifetime
{
    private readonly string here = $"http://127.0.0.1:{World.FreePort()}";
    private readonly string elsewhere = $"http://127.0.0.1:{World.FreePort()}";
    private readonly List<(string Method, string? Key, string? Repeat, string Body)> heard = [];
    private readonly List<WebApplication> hosts = [];

    public async ValueTask InitializeAsync()
    {
        var first = Make(here);
        first.Map("/on/{status}", (int status, HttpContext http) => Onward(http, status, elsewhere + "/takes"));
        first.Map("/own/{status}", (int status, HttpContext http) => Onward(http, status, "/takes"));
        first.Map("/round", (HttpContext http) => Onward(http, 307, "/round"));
        first.Map("/inside", (HttpContext http) => Onward(http, 307, "ftp://127.0.0.1/x"));
        foreach (var host in new[] { first, Make(elsewhere) })
        {
            host.Map("/takes", async (HttpContext http) =>
            {
                using var body = new StreamReader(http.Request.Body);
                heard.Add(
                    (
                        http.Request.Method,
                        http.Request.Headers.Authorization.FirstOrDefault(),
                        http.Request.Headers["Idempotency-Key"].FirstOrDefault(),
                        await body.ReadToEndAsync()
                    )
                );
                return "{}";
            });
            await host.StartAsync();
            hosts.Add(host);
        }
    }

    public async ValueTask DisposeAsync()
    {
        foreach (var host in hosts)
            await host.DisposeAsync();
    }

    [Theory]
    [InlineData("own/307", true)]
    [InlineData("own/308", true)]
    [InlineData("on/307", false)] // what proves who we are stays with the host that it was given for
    public async Task It_goes_on_as_it_was_and_the_key_to_no_other_host(string path, bool withKey)
    {
        var answer = await CallAsync(HttpMethod.Post, path);
        Assert.True(answer.Ok, answer.Fault);
        Assert.Equal(("POST", withKey ? "Bearer s3cret" : null, "key-1", "{\"a\":1}"), Assert.Single(heard));
    }

    [Theory]
    [InlineData("on/301", "has moved to")] // a change is not made where nobody was asked to make it
    [InlineData("own/302", "has moved to")]
    [InlineData("round", "more than three times")]
    [InlineData("inside", "not as safe")]
    public async Task What_should_not_go_on_is_refused_for_good_and_says_why(string path, string because)
    {
        var answer = await CallAsync(HttpMethod.Post, path);
        Assert.Equal(AttemptEnd.Final, answer.End);
        Assert.Contains(because, answer.Fault, StringComparison.Ordinal);
        Assert.Empty(heard);
    }

    [Fact]
    public async Task A_question_goes_on_after_any_of_them()
    {
        Assert.True((await CallAsync(HttpMethod.Get, "own/301")).Ok);
        Assert.Equal("GET", Assert.Single(heard).Method);
    }

    private Task<ServiceAnswer> CallAsync(HttpMethod method, string path)
    {
        var http = new ConnectorHttp(new Clients(TimeSpan.FromSeconds(30), new OutboundRules { AllowPrivate = true }));
        var access = new ConnectionAccess(
            Guid.NewGuid(),
            new Uri(here + "/"),
            "s3cret",
            null,
            "",
            new Dictionary<string, string>()
        );
        return method == HttpMethod.Get
            ? http.CallAsync(access, method, path, CancellationToken.None)
            : http.CallAsync(access, method, path, "key-1", new { a = 1 }, CancellationToken.None);
    }

    private static WebApplication Make(string url)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseSetting("urls", url);
        return builder.Build();
    }

    private static IResult Onward(HttpContext http, int status, string to)
    {
        http.Response.Headers.Location = to;
        return Results.StatusCode(status);
    }
}
