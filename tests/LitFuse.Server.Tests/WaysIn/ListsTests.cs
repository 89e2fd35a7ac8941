using System.Net;
using System.Text;
using LitFuse.Server.Ways;
using LitFuse.Server.Ways.Kinds.Lanternfind;
using LitFuse.Server.Ways.Kinds.Plaza;
using LitFuse.Server.Ways.Kinds.Tradehall;
using NodaTime;
using Xunit;

namespace LitFuse.Server.Tests.WaysIn;

/// <summary>Networks whose own lists are not as they should be.</summary>
public sealed class ListsTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 9, 41);

    private sealed class Answering(Func<Uri, string> body) : HttpMessageHandler
    {
        public int Asked { get; private set; }

        protected override Task<HttpResponseMessage> SendAsync(
            HttpRequestMessage request,
            CancellationToken cancellationToken
        )
        {
            Asked++;
            return Task.FromResult(
                new HttpResponseMessage(HttpStatusCode.OK)
                {
                    Content = new StringContent(body(request.RequestUri!), Encoding.UTF8, "application/json"),
                }
            );
        }
    }

    private static async Task<(IReadOnlyList<ListedSubmission> Listed, int Asked)> ListAsync(
        Func<NetworkHttp, IListing> kind,
        Func<Uri, string> body
    )
    {
        using var answering = new Answering(body);
        using var http = new HttpClient(answering);
        var ask = new ListingAsk(
            new(new Uri("http://network.example/"), "token"),
            ["form"],
            "http://network.example/{date}.csv",
            Now - Duration.FromHours(2),
            Now
        );
        return (await kind(new NetworkHttp(http)).ListAsync(ask, CancellationToken.None), answering.Asked);
    }

    [Fact]
    public async Task A_list_that_says_there_is_more_and_brings_nothing_has_ended()
    {
        Assert.Equal(
            (0, 1),
            await CountAsync(h => new TradehallKind(h), """{"responses":[],"next":"1","more":true}""")
        );
        Assert.Equal((0, 1), await CountAsync(h => new PlazaKind(h), """{"leads":[],"more":true}"""));
    }

    [Fact]
    public async Task A_list_without_end_is_trouble_and_is_not_read_for_ever()
    {
        const string Response =
            """{"responses":[{"response":"r","form":"form","submittedAt":"2026-11-24T09:00:00Z","trial":false,"answers":[]}],"next":"1","more":true}""";
        const string Lead = """{"leads":[{"lead":"l","sent":"2026-11-24T09:00:00Z","test":false}],"more":true}""";
        foreach (
            var (kind, body) in new (Func<NetworkHttp, IListing>, string)[]
            {
                (h => new TradehallKind(h), Response),
                (h => new PlazaKind(h), Lead),
            }
        )
        {
            var trouble = await Assert.ThrowsAsync<NetworkTroubleException>(() => ListAsync(kind, _ => body));
            Assert.Contains("lists without end", trouble.Message, StringComparison.Ordinal);
        }
    }

    [Fact]
    public async Task A_file_of_the_day_that_is_broken_is_said_with_its_day()
    {
        var whole = await ListAsync(
            h => new LanternfindKind(h),
            _ =>
                "submission,asset,pressed_at,email\r\ns1,form,2026-11-24T09:00:00Z,greer@example.org\r\ns2,other,2026-11-24T09:00:00Z,x@example.org\r\n"
        );
        Assert.Equal("s1", Assert.Single(whole.Listed).Id);
        var trouble = await Assert.ThrowsAsync<NetworkTroubleException>(() =>
            ListAsync(
                h => new LanternfindKind(h),
                _ => "submission,asset\r\n\"never closed,form" + new string('x', 400_000)
            )
        );
        Assert.Contains("offers a file of 2026-11-24 that cannot be read", trouble.Message, StringComparison.Ordinal);
    }

    private static async Task<(int Listed, int Asked)> CountAsync(Func<NetworkHttp, IListing> kind, string body)
    {
        var (listed, asked) = await ListAsync(kind, _ => body);
        return (listed.Count, asked);
    }
}
