using System.Globalization;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Delivering;
using LitFuse.Core.Texts;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Connectors;

/// <summary>What a service answered, or what kept it from answering.</summary>
/// <param name="Status">0 when there was no answer.</param>
/// <param name="Text">The body, bounded.</param>
/// <param name="Fault">Why it is no success, in words; <c>null</c> for a success.</param>
public sealed record ServiceAnswer(int Status, string Text, string? Fault, AttemptEnd End, Duration? RetryAfter = null)
{
    /// <summary>True for a success.</summary>
    public bool Ok => Fault is null;

    /// <summary>The body read as JSON; an empty object where it is none.</summary>
    public JsonElement Json
    {
        get
        {
            try
            {
                return JsonDocument.Parse(Text).RootElement;
            }
            catch (JsonException)
            {
                return JsonDocument.Parse("{}").RootElement;
            }
        }
    }

    /// <summary>As the outcome of a delivery.</summary>
    /// <param name="reference">The service's own id for what it took.</param>
    /// <param name="results">What later steps can use.</param>
    public AttemptResult AsResult(string? reference = null, IReadOnlyDictionary<string, string>? results = null) =>
        new(End, Fault ?? "taken", RetryAfter, Ok ? reference : null, Ok && results is { Count: > 0 } ? results : null);

    /// <summary>Values of its JSON, by name; those that are not there are left out.</summary>
    public Dictionary<string, string> Pick(params string[] names)
    {
        var json = Json;
        return json.ValueKind != JsonValueKind.Object
            ? []
            : names
                .Where(n => json.TryGetProperty(n, out var v) && v.ValueKind != JsonValueKind.Null)
                .ToDictionary(n => n, n => json.GetProperty(n).ToString(), StringComparer.Ordinal);
    }
}

/// <summary>The HTTP part that connectors share: bounded calls, read by <see cref="Trouble"/>.</summary>
public sealed class ConnectorHttp(IHttpClientFactory clients)
{
    /// <summary>The client's name at its factory.</summary>
    public const string Name = "connectors";

    private const int MostAnswer = 2 * 1024 * 1024;
    private const int MostHops = 3;

    /// <summary>User and password as a header tells them (RFC 7617).</summary>
    public static AuthenticationHeaderValue Basic(string user, string password) =>
        new("Basic", Convert.ToBase64String(Encoding.UTF8.GetBytes($"{user}:{password}")));

    /// <summary>
    /// Calls with a bearer token and, where one is given, an idempotency key. Network trouble is an answer, not an
    /// exception.
    /// </summary>
    public Task<ServiceAnswer> CallAsync<T>(
        ConnectionAccess access,
        HttpMethod method,
        string path,
        string? key,
        T body,
        CancellationToken stop
    ) => SendAsync(access, method, path, key, JsonContent.Create(body, options: CoreJson.Options), stop);

    /// <summary>Calls without a body.</summary>
    public Task<ServiceAnswer> CallAsync(
        ConnectionAccess access,
        HttpMethod method,
        string path,
        CancellationToken stop
    ) => SendAsync(access, method, path, null, null, stop);

    /// <summary>Gets JSON for a list or a verification.</summary>
    /// <exception cref="ServiceTroubleException">It did not give it.</exception>
    public async Task<T> GetAsync<T>(ConnectionAccess access, string path, CancellationToken stop)
    {
        var answer = await CallAsync(access, HttpMethod.Get, path, stop);
        if (!answer.Ok)
            throw new ServiceTroubleException(answer.Fault!, answer.Status);
        try
        {
            return JsonSerializer.Deserialize<T>(answer.Text, CoreJson.Options)
                ?? throw new ServiceTroubleException("answered with nothing");
        }
        catch (JsonException e)
        {
            throw new ServiceTroubleException("answered with something that is not what it says: " + e.Message);
        }
    }

    /// <summary>
    /// Asks whose a token is, what it may do and until when, as services tell it: <c>account</c>, <c>permissions</c>,
    /// <c>until</c>.
    /// </summary>
    /// <exception cref="ServiceTroubleException">It does not take the token, or could not be asked.</exception>
    public async Task<AccessTold> AskWhoAsync(ConnectionAccess access, string path, CancellationToken stop)
    {
        var me = await GetAsync<TokenOwner>(access, path, stop);
        return AccessTold.Works with { Account = me.Account, Granted = me.Permissions, ExpiresAt = me.Until };
    }

    /// <summary>Posts JSON and reads what it was taken as.</summary>
    /// <param name="access">To whom.</param>
    /// <param name="path">Relative to the connection's address.</param>
    /// <param name="key">The idempotency key.</param>
    /// <param name="body">Written as JSON.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="results">Names in its answer that later steps can use; <c>id</c> is the reference.</param>
    public async Task<AttemptResult> PostAsync<T>(
        ConnectionAccess access,
        string path,
        string key,
        T body,
        CancellationToken stop,
        params string[] results
    )
    {
        var answer = await CallAsync(access, HttpMethod.Post, path, key, body, stop);
        return answer.AsResult(answer.Pick("id").GetValueOrDefault("id"), answer.Pick(results));
    }

    /// <summary>
    /// Asks a service to tell us what happens there, as services of this shape take it: where, and what to sign with.
    /// </summary>
    /// <exception cref="ServiceTroubleException">It does not want to.</exception>
    public async Task<bool> ListenAsync(ConnectionAccess access, string path, CancellationToken stop)
    {
        var answer = await CallAsync(
            access,
            HttpMethod.Put,
            path,
            null,
            new Hearer(access.NoticesUrl, access.NoticeSecret ?? ""),
            stop
        );
        return answer.Ok ? true : throw new ServiceTroubleException(answer.Fault!, answer.Status);
    }

    /// <summary>Deletes something; what is not there any more is gone too.</summary>
    /// <exception cref="HttpRequestException">The service could not be asked.</exception>
    public async Task<bool> DeleteAsync(ConnectionAccess access, string path, CancellationToken stop)
    {
        var answer = await CallAsync(access, HttpMethod.Delete, path, stop);
        if (answer.Status == 0)
            throw new HttpRequestException(answer.Fault);
        return answer.Ok || answer.Status == 404;
    }

    private sealed record Hearer(string Url, string Secret);

    private sealed record TokenOwner(string Account, IReadOnlyList<string> Permissions, Instant? Until);

    private async Task<ServiceAnswer> SendAsync(
        ConnectionAccess access,
        HttpMethod method,
        string path,
        string? key,
        HttpContent? body,
        CancellationToken stop
    )
    {
        using var request = new HttpRequestMessage(method, new Uri(access.BaseUrl, path)) { Content = body };
        request.Headers.Authorization = new("Bearer", access.Token);
        if (key is not null)
            request.Headers.Add("Idempotency-Key", key);
        return await SendAsync(access, request, stop);
    }

    /// <summary>
    /// Sends a request as it is, and follows where it is sent on to (RFC 9110 §15.4): every address is checked anew,
    /// and what proves who we are goes to no other host. Network trouble is an answer, not an exception.
    /// </summary>
    public async Task<ServiceAnswer> SendAsync(
        ConnectionAccess access,
        HttpRequestMessage first,
        CancellationToken stop
    )
    {
        var bytes = first.Content is null ? null : await first.Content.ReadAsByteArrayAsync(stop);
        var (method, url) = (first.Method, first.RequestUri!);
        for (var hops = 0; ; hops++)
        {
            using var request = new HttpRequestMessage(method, url);
            foreach (var (name, values) in first.Headers)
            {
                if (Same(url, first.RequestUri!) || ForAnyHost(name))
                    request.Headers.TryAddWithoutValidation(name, values);
            }

            if (bytes is not null && method != HttpMethod.Get)
            {
                request.Content = new ByteArrayContent(bytes);
                foreach (var (name, values) in first.Content!.Headers)
                    request.Content.Headers.TryAddWithoutValidation(name, values);
            }

            var (answer, onward) = await OnceAsync(access, request, bytes, stop);
            if (onward is not { } next)
                return answer;
            if (hops == MostHops)
                return answer with
                {
                    Fault = "sends on and on: more than three times from one address to another",
                    End = AttemptEnd.Final,
                };
            if (next.Scheme is not ("http" or "https") || (url.Scheme == "https" && next.Scheme == "http"))
                return answer with
                {
                    Fault =
                        $"sends on to {next.GetLeftPart(UriPartial.Path)}, which is not as safe as where it was asked",
                    End = AttemptEnd.Final,
                };
            // 307 and 308 keep the request as it is; after the others only what asks and changes nothing goes on.
            if (answer.Status is not (307 or 308) && !Asks(method))
                return answer with
                {
                    Fault = $"has moved to {next.GetLeftPart(UriPartial.Path)}. Give the connection that address",
                    End = AttemptEnd.Final,
                };
            url = next;
        }
    }

    private static bool Asks(HttpMethod method) =>
        method == HttpMethod.Get || method == HttpMethod.Head || method.Method is "PROPFIND" or "REPORT" or "OPTIONS";

    private static bool Same(Uri a, Uri b) => a.Scheme == b.Scheme && a.Host == b.Host && a.Port == b.Port;

    // Only what says nothing of who we are may be told to another host.
    private static bool ForAnyHost(string header) => header is "Accept" or "Depth" or "Idempotency-Key";

    private async Task<(ServiceAnswer Answer, Uri? Onward)> OnceAsync(
        ConnectionAccess access,
        HttpRequestMessage request,
        byte[]? body,
        CancellationToken stop
    )
    {
        var began = access.Tape?.Begin() ?? 0;
        var (read, onward) = await AskAsync(request, stop);
        access.Tape?.Note(
            $"{request.Method} {request.RequestUri}",
            request
                .Headers.Concat(
                    request.Content?.Headers ?? Enumerable.Empty<KeyValuePair<string, IEnumerable<string>>>()
                )
                .Select(h => KeyValuePair.Create(h.Key, string.Join(", ", h.Value))),
            request.Content is null || body is null ? null : Encoding.UTF8.GetString(body),
            read.Status,
            read.Status == 0 ? null : read.Text,
            began
        );
        return (read, onward);
    }

    private async Task<(ServiceAnswer Answer, Uri? Onward)> AskAsync(HttpRequestMessage request, CancellationToken stop)
    {
        try
        {
            using var http = clients.CreateClient(Name);
            using var answer = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop);
            var read = Read(answer, await ReadAsync(answer, stop));
            return (
                read,
                read.Status is 301 or 302 or 303 or 307 or 308 && answer.Headers.Location is { } to
                    ? new Uri(request.RequestUri!, to)
                    : null
            );
        }
        catch (OutboundRefusedException e)
        {
            return (new(0, "", "may not be called at this address: " + e.Message, AttemptEnd.Final), null);
        }
        catch (HttpRequestException e)
        {
            var trouble = e.InnerException is OutboundRefusedException refused
                ? "may not be called at this address: " + refused.Message
                : "could not be reached: " + e.GetBaseException().Message;
            return (
                new(
                    0,
                    "",
                    trouble,
                    e.InnerException is OutboundRefusedException ? AttemptEnd.Final : AttemptEnd.Temporary
                ),
                null
            );
        }
        catch (OperationCanceledException) when (!stop.IsCancellationRequested)
        {
            return (new(0, "", "gave no answer in ten seconds", AttemptEnd.Temporary), null);
        }
        catch (IOException e)
        {
            return (new(0, "", "broke off: " + e.GetBaseException().Message, AttemptEnd.Temporary), null);
        }
    }

    // What the service says of a refusal (RFC 9457) is said on, so that who reads it can mend it.
    private static ServiceAnswer Read(HttpResponseMessage answer, string text)
    {
        var status = (int)answer.StatusCode;
        var end = Trouble.OfStatus(status);
        if (end == AttemptEnd.Accepted)
            return new(status, text, null, end);
        var read = new ServiceAnswer(status, text, "", end, WaitOf(answer.Headers));
        var detail = read.Pick("detail").GetValueOrDefault("detail");
        return read with
        {
            Fault = string.Create(
                CultureInfo.InvariantCulture,
                $"answered {status} {answer.ReasonPhrase}{(string.IsNullOrEmpty(detail) ? "" : ": " + (Clip.To(detail, 300)))}"
            ),
        };
    }

    /// <summary>
    /// How long <c>Retry-After</c> asks to wait (RFC 9110, section 10.2.3): so many seconds, or until a date by the
    /// answer's own clock.
    /// </summary>
    public static Duration? WaitOf(System.Net.Http.Headers.HttpResponseHeaders headers) =>
        headers.RetryAfter switch
        {
            { Delta: { } delta } => Duration.FromTimeSpan(delta),
            { Date: { } until } when headers.Date is { } sent => Duration.Max(
                Duration.Zero,
                Duration.FromTimeSpan(until - sent)
            ),
            _ => null,
        };

    private static async Task<string> ReadAsync(HttpResponseMessage answer, CancellationToken stop)
    {
        await using var stream = await answer.Content.ReadAsStreamAsync(stop);
        using var all = new MemoryStream();
        var buffer = new byte[16 * 1024];
        int read;
        while (all.Length < MostAnswer && (read = await stream.ReadAsync(buffer, stop)) > 0)
            all.Write(buffer, 0, read);
        return Encoding.UTF8.GetString(all.GetBuffer(), 0, (int)all.Length).Replace("\0", "", StringComparison.Ordinal);
    }
}
