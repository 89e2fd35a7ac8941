using LitFuse.Core.Delivering;
using LitFuse.Server.Platform;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>Access to one outside service, opened for one call.</summary>
public sealed record ConnectionAccess(Guid ConnectionId, Uri BaseUrl, string Token, string? Sender, string NoticesUrl);

/// <summary>What is to be sent.</summary>
/// <param name="Kind">The step's kind.</param>
/// <param name="Key">The idempotency key.</param>
/// <param name="Settings">Filled in.</param>
/// <param name="To">The lead's number, for kinds that speak to the lead.</param>
public sealed record Outgoing(string Kind, string Key, IReadOnlyDictionary<string, string> Settings, string? To);

/// <summary>Something a step can be aimed at: a channel, a person.</summary>
public sealed record ConnectionTarget(string Key, string Name);

/// <summary>One kind of outside service. Adding one touches one folder.</summary>
public interface IConnector
{
    /// <summary>As in <c>connections.kind</c> and <see cref="Core.Fuses.StepKind.Service"/>.</summary>
    string Kind { get; }

    /// <summary>Makes one attempt. Network trouble is an outcome, not an exception.</summary>
    Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop);

    /// <summary>What steps can be aimed at, by setting type; empty where there is nothing to choose.</summary>
    /// <exception cref="HttpRequestException">The service could not be asked.</exception>
    Task<IReadOnlyDictionary<string, IReadOnlyList<ConnectionTarget>>> TargetsAsync(ConnectionAccess access, CancellationToken stop);

    /// <summary>Whether the service can be asked about an access, rather than only be tried.</summary>
    bool CanVerify => false;

    /// <summary>Asks the service whether this access works.</summary>
    /// <returns>What is wrong, in words, or <c>null</c>.</returns>
    Task<string?> VerifyAsync(ConnectionAccess access, CancellationToken stop) => Task.FromResult<string?>(null);

    /// <summary>Takes back out there what was sent for a test.</summary>
    /// <returns>True when it is gone; <c>null</c> where the service cannot take such things back.</returns>
    /// <exception cref="HttpRequestException">The service could not be asked.</exception>
    Task<bool?> SweepAsync(ConnectionAccess access, string kind, string reference, CancellationToken stop) => Task.FromResult<bool?>(null);

    /// <summary>Reads a notice that the service sent us, its signature already checked.</summary>
    ServiceNotice? ReadNotice(ReadOnlySpan<byte> body);
}

/// <summary>What a service told us.</summary>
/// <param name="Reference">Its own id for what it is about.</param>
/// <param name="At">When, by the service's clock.</param>
public abstract record ServiceNotice(string Reference, Instant At)
{
    /// <summary>What became of something it took earlier.</summary>
    /// <param name="Arrived">True when it arrived, false when it never will.</param>
    /// <param name="Reason">In words.</param>
    public sealed record Receipt(string Reference, bool Arrived, Instant At, string Reason) : ServiceNotice(Reference, At);

    /// <summary>A text that somebody wrote to us.</summary>
    /// <param name="From">E.164.</param>
    public sealed record IncomingText(string Reference, string From, string To, string Words, Instant At) : ServiceNotice(Reference, At);

    /// <summary>A call that we asked for was answered, or was not.</summary>
    public sealed record Call(string Reference, bool Answered, Instant At, string Reason) : ServiceNotice(Reference, At);
}

/// <summary>The HTTP part that connectors share: one bounded call, read by <see cref="Trouble"/>.</summary>
public sealed class ConnectorHttp(IHttpClientFactory clients)
{
    /// <summary>The client's name at its factory.</summary>
    public const string Name = "connectors";

    private const int MostAnswer = 4000;

    /// <summary>Posts JSON with a bearer token and an idempotency key.</summary>
    /// <param name="access">To whom.</param>
    /// <param name="path">Relative to the connection's address.</param>
    /// <param name="key">The idempotency key.</param>
    /// <param name="body">Written as JSON.</param>
    /// <param name="referenceOf">Reads the service's own id from its answer.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="results">Names in its answer that later steps can use.</param>
    public async Task<AttemptResult> PostAsync<T>(ConnectionAccess access, string path, string key, T body, Func<System.Text.Json.JsonElement, string?> referenceOf, CancellationToken stop, params string[] results)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, new Uri(access.BaseUrl, path)) { Content = JsonContent.Create(body) };
        request.Headers.Authorization = new("Bearer", access.Token);
        request.Headers.Add("Idempotency-Key", key);
        try
        {
            using var http = clients.CreateClient(Name);
            using var answer = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop);
            var text = await ReadAsync(answer, stop);
            var status = (int)answer.StatusCode;
            var end = Trouble.OfStatus(status);
            if (end == AttemptEnd.Accepted) return new(end, "taken", null, text, Read(text, referenceOf), Read(text, answered => Results(answered, results)));
            var wait = answer.Headers.RetryAfter?.Delta is { } delta ? Duration.FromTimeSpan(delta) : (Duration?)null;
            return new(end, string.Create(System.Globalization.CultureInfo.InvariantCulture, $"answered {status} {answer.ReasonPhrase}"), wait, text);
        }
        catch (OutboundRefusedException e)
        {
            return new(AttemptEnd.Final, "the connection's address may not be called: " + e.Message);
        }
        catch (HttpRequestException e)
        {
            return new(AttemptEnd.Temporary, e.InnerException is OutboundRefusedException ? "the connection's address may not be called" : "could not be reached: " + e.GetBaseException().Message);
        }
        catch (OperationCanceledException) when (!stop.IsCancellationRequested)
        {
            return new(AttemptEnd.Temporary, "gave no answer in ten seconds");
        }
        catch (IOException e)
        {
            return new(AttemptEnd.Temporary, "broke off: " + e.GetBaseException().Message);
        }
    }

    /// <summary>Deletes something; what is not there any more is gone too.</summary>
    public async Task<bool> DeleteAsync(ConnectionAccess access, string path, CancellationToken stop)
    {
        using var request = new HttpRequestMessage(HttpMethod.Delete, new Uri(access.BaseUrl, path));
        request.Headers.Authorization = new("Bearer", access.Token);
        using var http = clients.CreateClient(Name);
        using var answer = await http.SendAsync(request, stop);
        return answer.IsSuccessStatusCode || answer.StatusCode == System.Net.HttpStatusCode.NotFound;
    }

    /// <summary>Gets JSON.</summary>
    public async Task<T> GetAsync<T>(ConnectionAccess access, string path, CancellationToken stop)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, new Uri(access.BaseUrl, path));
        request.Headers.Authorization = new("Bearer", access.Token);
        using var http = clients.CreateClient(Name);
        using var answer = await http.SendAsync(request, stop);
        answer.EnsureSuccessStatusCode();
        return await answer.Content.ReadFromJsonAsync<T>(stop) ?? throw new HttpRequestException("the answer was empty");
    }

    private static async Task<string> ReadAsync(HttpResponseMessage answer, CancellationToken stop)
    {
        await using var stream = await answer.Content.ReadAsStreamAsync(stop);
        var buffer = new byte[MostAnswer];
        var length = await stream.ReadAtLeastAsync(buffer, MostAnswer, throwOnEndOfStream: false, stop);
        return System.Text.Encoding.UTF8.GetString(buffer, 0, length).Replace("\0", "", StringComparison.Ordinal);
    }

    private static Dictionary<string, string>? Results(System.Text.Json.JsonElement answer, string[] names)
    {
        var found = names.Where(n => answer.TryGetProperty(n, out _)).ToDictionary(n => n, n => answer.GetProperty(n).ToString(), StringComparer.Ordinal);
        return found.Count == 0 ? null : found;
    }

    private static T? Read<T>(string text, Func<System.Text.Json.JsonElement, T?> read)
        where T : class
    {
        try
        {
            using var document = System.Text.Json.JsonDocument.Parse(text);
            return document.RootElement.ValueKind == System.Text.Json.JsonValueKind.Object ? read(document.RootElement) : null;
        }
        catch (System.Text.Json.JsonException)
        {
            return null;
        }
    }
}
