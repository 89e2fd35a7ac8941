using System.Net;
using System.Text;
using System.Text.Json;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace LitFuse.Server.Tests.WaysIn;

/// <summary>A world whose door lets everything through that knocks.</summary>
public sealed class WideWorld : World
{
    protected override string[] MoreSettings => ["--intake:perSecond", "1000000", "--intake:burst", "1000000"];
}

/// <summary>
/// Bodies made to break things, at every door that is open to anyone. The seed is printed: a failure can be made again.
/// </summary>
public sealed class HostileTests(WideWorld world, ITestOutputHelper output) : IClassFixture<WideWorld>
{
    // ./test sends some; the whole fifty thousand are sent with LITFUSE_HOSTILE=50000.
    private static readonly int Bodies = int.Parse(
        Environment.GetEnvironmentVariable("LITFUSE_HOSTILE") ?? "6000",
        System.Globalization.CultureInfo.InvariantCulture
    );
    private static readonly int Seed = int.Parse(
        Environment.GetEnvironmentVariable("LITFUSE_SEED")
            ?? Random.Shared.Next().ToString(System.Globalization.CultureInfo.InvariantCulture),
        System.Globalization.CultureInfo.InvariantCulture
    );

    private static readonly string[] Types =
    [
        "application/json",
        "application/x-www-form-urlencoded",
        "multipart/form-data; boundary=x",
        "multipart/form-data",
        "text/plain",
        "application/json; charset=utf-16",
        "application/json; charset=no-such",
        "application/x-www-form-urlencoded; charset=utf-7",
        "nonsense",
        "application/vnd.any+json",
        "",
        "multipart/form-data; boundary=\"\"",
    ];

    private static readonly string[] Pieces =
    [
        "{",
        "}",
        "[",
        "]",
        "\"",
        ":",
        ",",
        "\\",
        "\0",
        "\u202e",
        "😀",
        "\ud800",
        "null",
        "true",
        "1e999",
        "-0",
        "%00",
        "%",
        "%zz",
        "&",
        "=",
        "+",
        "--x\r\n",
        "--x--",
        "Content-Disposition: form-data; name=\"a\"\r\n\r\n",
        "filename=\"../../etc/passwd\"",
        "<script>alert(1)</script>",
        "' or 1=1 --",
        "{{ lead.name }}",
        "{% raw %}",
        "email",
        "phone",
        "id",
        "answers",
        "columns",
        "pages",
        "fields",
        "profile",
        "lead",
        "form",
        "key",
        "value",
        "2026-13-45T99:99:99Z",
        "99999999999999999999",
        "../",
        "\r\n\r\n",
        "__proto__",
        "$ref",
        "lf_amend",
        "lf_website",
        "_charset_",
        "a@b",
        "+44",
        "\t",
        "sentAt",
        "data:text/html,x",
    ];

    private static byte[] Hostile(Random chance)
    {
        switch (chance.Next(8))
        {
            case 0:
                var noise = new byte[chance.Next(400)];
                chance.NextBytes(noise);
                return noise;
            case 1:
                var deep = chance.Next(1, 3000);
                return Encoding.UTF8.GetBytes(
                    string.Concat(Enumerable.Repeat(chance.Next(2) == 0 ? "[" : "{\"a\":", deep))
                );
            case 2:
                return JsonSerializer.SerializeToUtf8Bytes(
                    Enumerable
                        .Range(0, chance.Next(1, 700))
                        .GroupBy(i => Pieces[i % Pieces.Length] + (i / Pieces.Length))
                        .ToDictionary(g => g.Key.Replace("\ud800", "", StringComparison.Ordinal), _ => "x")
                );
            case 3:
                return JsonSerializer.SerializeToUtf8Bytes(
                    new
                    {
                        lead = "x",
                        answers = new object?[]
                        {
                            null,
                            3,
                            new { ask = (string?)null, said = new[] { (string?)null } },
                        },
                        columns = new object?[] { null, new { key = (string?)null } },
                        pages = new object?[]
                        {
                            null,
                            new { fields = new object?[] { null, new { @ref = (string?)null } } },
                        },
                        id = new string('i', chance.Next(400)),
                    }
                );
            default:
                var text = new StringBuilder(chance.Next(3) == 0 ? "{" : "");
                for (var i = chance.Next(1, 40); i > 0; i--)
                    text.Append(Pieces[chance.Next(Pieces.Length)]);
                return Encoding.UTF8.GetBytes(text.ToString());
        }
    }

    private static (HttpMethod Method, string Path) Door(Random chance) =>
        chance.Next(11) switch
        {
            0 => (HttpMethod.Post, "/in/brackenwheel-lanternfind"),
            1 => (HttpMethod.Post, "/in/brackenwheel-formbench"),
            2 => (HttpMethod.Post, "/told/brackenwheel-plaza"),
            3 => (
                HttpMethod.Get,
                "/through/brackenwheel-callback?"
                    + Uri.EscapeDataString(
                        Encoding.Latin1.GetString(
                            Hostile(chance) is var noise ? noise[..Math.Min(noise.Length, 200)] : []
                        )
                    )
                    + string.Concat(
                        Enumerable
                            .Range(0, chance.Next(6))
                            .Select(_ =>
                                Uri.EscapeDataString(
                                    Pieces[chance.Next(Pieces.Length)].Replace("\ud800", "", StringComparison.Ordinal)
                                ) + (chance.Next(2) == 0 ? "=" : "&")
                            )
                    )
            ),
            4 => (HttpMethod.Post, "/visit/brackenwheel-visit"),
            5 => (HttpMethod.Post, "/f/brackenwheel-test-ride/look"),
            6 => (
                HttpMethod.Post,
                "/f/brackenwheel-test-ride/seen?what="
                    + Uri.EscapeDataString(
                        Pieces[chance.Next(Pieces.Length)].Replace("\ud800", "", StringComparison.Ordinal)
                    )
            ),
            7 => (HttpMethod.Post, "/in/brackenwheel-second-hand"),
            8 => (HttpMethod.Post, $"/receive/{Guid.Empty}"),
            _ => (HttpMethod.Post, "/in/brackenwheel-test-ride"),
        };

    [Fact]
    public async Task No_body_breaks_anything_and_none_that_was_acknowledged_is_lost()
    {
        output.WriteLine($"LITFUSE_SEED={Seed} LITFUSE_HOSTILE={Bodies}");
        var receipts = new System.Collections.Concurrent.ConcurrentBag<Guid>();
        var broken = new System.Collections.Concurrent.ConcurrentBag<string>();
        await Parallel.ForEachAsync(
            Enumerable.Range(0, Bodies),
            new ParallelOptions { MaxDegreeOfParallelism = 8 },
            async (n, stop) =>
            {
                var chance = new Random(Seed + n);
                var (method, path) = Door(chance);
                using var request = new HttpRequestMessage(method, path);
                if (method == HttpMethod.Post)
                {
                    request.Content = new ByteArrayContent(Hostile(chance));
                    if (Types[chance.Next(Types.Length)] is { Length: > 0 } type)
                        request.Content.Headers.TryAddWithoutValidation("Content-Type", type);
                }

                if (path.StartsWith("/in/brackenwheel-lanternfind", StringComparison.Ordinal))
                    request.Headers.TryAddWithoutValidation(
                        "Lantern-Key",
                        chance.Next(4) == 0 ? "wrong" : "backlot-demo-brackenwheel-lanternfind"
                    );
                if (chance.Next(5) == 0)
                    request.Headers.TryAddWithoutValidation("Accept", "text/html");
                if (chance.Next(5) == 0)
                    request.Headers.TryAddWithoutValidation(
                        "Idempotency-Key",
                        string.Concat(Pieces[chance.Next(Pieces.Length)].Where(c => c is > (char)31 and < (char)127))
                            + n
                    );
                using var answer = await world.Anyone.SendAsync(request, stop);
                if ((int)answer.StatusCode >= 500)
                    broken.Add(
                        $"{n}: {method} {path} answered {(int)answer.StatusCode}: {await answer.Content.ReadAsStringAsync(stop)}"
                    );
                if (answer.StatusCode == HttpStatusCode.Accepted && path.StartsWith("/in/", StringComparison.Ordinal))
                    receipts.Add(Guid.Parse((await answer.BodyAsync()).Text("receipt")!));
            }
        );
        Assert.True(broken.IsEmpty, $"LITFUSE_SEED={Seed}\n" + string.Join('\n', broken.Take(5)));
        Assert.NotEmpty(receipts);
        await world.InsideAsync(async s =>
        {
            var kept = await s.GetRequiredService<AppDb>().Submissions.Select(x => x.Id).ToHashSetAsync();
            Assert.All(receipts.Distinct(), r => Assert.Contains(r, kept));
            return 0;
        });
        // And the engine comes to an end with all of them: read, waiting, or set aside with a reason.
        await World.EventuallyAsync(
            async () =>
                await world.InsideAsync(async s =>
                    !await s.GetRequiredService<AppDb>()
                        .Submissions.AnyAsync(x => x.Status == SubmissionStatus.Received)
                ),
            "end of reading",
            seconds: 120
        );
        await world.InsideAsync(async s =>
        {
            Assert.Equal(
                [],
                await s.GetRequiredService<AppDb>()
                    .Submissions.Where(x => x.Status == SubmissionStatus.Stuck)
                    .Select(x => x.Reason)
                    .Distinct()
                    .ToListAsync()
            );
            return 0;
        });
        output.WriteLine($"{receipts.Count} of {Bodies} were acknowledged");
    }
}
