using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace LitFuse.Backlot.Calling;

/// <summary>
/// Calls out as services do: signed where there is a secret, and again until it is heard, for about five minutes.
/// </summary>
public sealed class Caller(TimeProvider time, IHttpClientFactory http, IHostApplicationLifetime life)
{
    private const int MostTries = 10;
    private int underWay;

    /// <summary>How many pieces of news are still being told, or will be told again.</summary>
    public int UnderWay => Volatile.Read(ref underWay);

    /// <summary>Calls without waiting for it.</summary>
    public void Tell(Call call)
    {
        Interlocked.Increment(ref underWay);
        _ = Task.Run(async () =>
        {
            try
            {
                await TellAsync(call, life.ApplicationStopping);
            }
            finally
            {
                Interlocked.Decrement(ref underWay);
            }
        });
    }

    /// <summary>Calls until it is heard or is refused for good.</summary>
    public async Task TellAsync(Call call, CancellationToken stop)
    {
        for (var tries = 0; tries < MostTries; tries++)
        {
            var (status, _) = await OnceAsync(call, stop);
            if (status is >= 200 and < 500 and not (404 or 408 or 429))
                return;
            await Task.Delay(TimeSpan.FromMilliseconds(200 * Math.Pow(2, tries)), time, stop);
        }
    }

    /// <summary>Calls once.</summary>
    /// <returns>The status, 0 when nobody answered; and what was answered.</returns>
    public async Task<(int Status, string Answer)> OnceAsync(Call call, CancellationToken stop)
    {
        try
        {
            using var client = http.CreateClient();
            client.Timeout = TimeSpan.FromSeconds(10);
            using var request = new HttpRequestMessage(HttpMethod.Post, call.Address)
            {
                Content = new ByteArrayContent(call.Body),
            };
            request.Content.Headers.ContentType = new("application/json");
            foreach (var (name, value) in call.Headers ?? [])
                request.Headers.TryAddWithoutValidation(name, value);
            if (call.Secret is { } secret)
            {
                var stamp = time.GetUtcNow().ToUnixTimeSeconds();
                request.Headers.Add("webhook-id", call.Id);
                request.Headers.Add("webhook-timestamp", stamp.ToString(CultureInfo.InvariantCulture));
                request.Headers.Add("webhook-signature", Sign(secret, call.Id, stamp, call.Body));
            }

            using var answer = await client.SendAsync(request, stop);
            return ((int)answer.StatusCode, await answer.Content.ReadAsStringAsync(stop));
        }
        catch (Exception e)
            when (e is HttpRequestException or UriFormatException or InvalidOperationException or NotSupportedException
                || (e is TaskCanceledException && !stop.IsCancellationRequested)
            )
        {
            return (0, e.GetBaseException().Message);
        }
    }

    // Secrets are written as base64 after whsec_ (Standard Webhooks), or plainly.
    private static byte[] KeyOf(string secret) =>
        secret.StartsWith("whsec_", StringComparison.Ordinal)
            ? Convert.FromBase64String(secret[6..])
            : Encoding.UTF8.GetBytes(secret);

    private static string Sign(string secret, string id, long stamp, byte[] body)
    {
        var head = Encoding.UTF8.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{id}.{stamp}."));
        return "v1," + Convert.ToBase64String(HMACSHA256.HashData(KeyOf(secret), (byte[])[.. head, .. body]));
    }
}

/// <summary>One call.</summary>
/// <param name="Id">Its id; the same for the same news.</param>
/// <param name="Secret">Signs it by the Standard Webhooks scheme.</param>
public sealed record Call(
    string Address,
    string Id,
    byte[] Body,
    string? Secret,
    IReadOnlyList<(string Name, string Value)>? Headers = null
);

/// <summary>A program that wants to be told, and what its news is signed with.</summary>
public sealed record Hearer(string Url, string? Secret);
