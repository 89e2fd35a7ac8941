using System.Net;
using System.Net.Http.Headers;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Forms;
using LitFuse.Data;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Server.Ways;

/// <summary>Access to a network, opened for a call.</summary>
public sealed record NetworkAccess(Uri BaseUrl, string Token);

/// <summary>What a network says of an access.</summary>
/// <param name="Account">Whose it is.</param>
/// <param name="Granted">Permissions, by the network's keys.</param>
public sealed record NetworkAccount(string Account, IReadOnlyList<string> Granted, Instant? ExpiresAt);

/// <summary>A form as its network describes it.</summary>
public sealed record NetworkForm(
    string Id,
    ChosenPlace Place,
    string Name,
    string AdState,
    bool Archived,
    IReadOnlyList<FormField> Fields
);

/// <summary>One body that a network was asked for.</summary>
public sealed record NetworkBody(string FormId, byte[] Raw);

/// <summary>A page of what is new.</summary>
/// <param name="Cursor">Where to go on.</param>
/// <param name="More">There is more at once.</param>
public sealed record PolledPage(IReadOnlyList<NetworkBody> Bodies, string Cursor, bool More);

/// <summary>A network of ads: a person consents, then we ask with a token.</summary>
public interface INetwork
{
    /// <summary>Where a person consents, and where the code is exchanged; relative to the network's address.</summary>
    (string Consent, string Token) Paths { get; }

    /// <summary>Whose access it is and what it may do.</summary>
    /// <exception cref="NetworkTroubleException">It may nothing any more, or the network cannot be asked.</exception>
    Task<NetworkAccount> WhoAsync(NetworkAccess access, CancellationToken stop);

    /// <summary>Pages or ad accounts that the consent reaches.</summary>
    /// <exception cref="NetworkTroubleException">As above.</exception>
    Task<IReadOnlyList<ChosenPlace>> PlacesAsync(NetworkAccess access, CancellationToken stop);

    /// <summary>Their forms, archived ones too.</summary>
    /// <exception cref="NetworkTroubleException">As above.</exception>
    Task<IReadOnlyList<NetworkForm>> FormsAsync(
        NetworkAccess access,
        IReadOnlyList<ChosenPlace> places,
        CancellationToken stop
    );
}

/// <summary>A network that tells us of each submission, whose answers we then fetch.</summary>
public interface INotifyingNetwork : INetwork
{
    /// <summary>Asks to be told, at <paramref name="address"/>, signed with <paramref name="secret"/>.</summary>
    /// <exception cref="NetworkTroubleException">It will not.</exception>
    Task ListenAsync(
        NetworkAccess access,
        IReadOnlyList<ChosenPlace> places,
        string address,
        string secret,
        CancellationToken stop
    );

    /// <summary>Reads a notice: of which form, and which submission.</summary>
    (string FormId, string Id)? ReadNotice(ReadOnlyMemory<byte> body);

    /// <summary>The answers of one submission.</summary>
    /// <exception cref="NetworkTroubleException">They cannot be had.</exception>
    Task<NetworkBody> FetchAsync(NetworkAccess access, string id, CancellationToken stop);
}

/// <summary>A network that is asked for what is new.</summary>
public interface IPolledNetwork : INetwork
{
    /// <summary>How often.</summary>
    Duration Every { get; }

    /// <summary>The next page after <paramref name="cursor"/>.</summary>
    /// <exception cref="NetworkTroubleException">It cannot be had.</exception>
    Task<PolledPage> PollAsync(
        NetworkAccess access,
        IReadOnlyList<ChosenPlace> places,
        string? cursor,
        CancellationToken stop
    );
}

/// <summary>A submission as the place that it was sent at lists it.</summary>
/// <param name="Raw">Its answers, where they stand in the list; else they are fetched one by one.</param>
public sealed record ListedSubmission(string FormId, string Id, Instant SentAt, byte[]? Raw);

/// <summary>What is to be listed.</summary>
/// <param name="Access">To the network; for a kind that offers files, with the key that is ours.</param>
/// <param name="Forms">By the network's ids.</param>
/// <param name="DailyFile">Where its file of a day is; <c>{date}</c> stands for the day.</param>
public sealed record ListingAsk(
    NetworkAccess Access,
    IReadOnlyList<string> Forms,
    string? DailyFile,
    Instant From,
    Instant To
)
{
    private const int MostPages = 500;

    /// <summary>Numbers of pages, for as long as a list may be.</summary>
    /// <exception cref="NetworkTroubleException">It has no end.</exception>
    public static IEnumerable<int> Pages()
    {
        for (var page = 0; page < MostPages; page++)
            yield return page;
        throw new NetworkTroubleException(
            NetworkTrouble.Temporary,
            $"lists without end: {MostPages} pages of one form were read, and it says that there are more"
        );
    }
}

/// <summary>A kind of source that has a list of its own, with which what is here can be compared.</summary>
public interface IListing
{
    /// <summary>What was sent between two moments and can be had by now, tests left out.</summary>
    /// <exception cref="NetworkTroubleException">It cannot be had.</exception>
    Task<IReadOnlyList<ListedSubmission>> ListAsync(ListingAsk ask, CancellationToken stop);
}

/// <summary>A network that sends a test lead when it is asked to.</summary>
public interface ITestingNetwork : INetwork
{
    /// <summary>Has it send one, with answers it makes up for the form as it is there.</summary>
    /// <returns>The network's id for it.</returns>
    /// <exception cref="NetworkTroubleException">It will not.</exception>
    Task<string> SendTestAsync(NetworkAccess access, string formId, CancellationToken stop);
}

/// <summary>What kind of trouble a network is.</summary>
public enum NetworkTrouble
{
    /// <summary>Try again later.</summary>
    Temporary,

    /// <summary>The access ran out.</summary>
    Expired,

    /// <summary>The access was taken back.</summary>
    Withdrawn,

    /// <summary>A permission is missing.</summary>
    NotPermitted,

    /// <summary>What was asked for is not there.</summary>
    Gone,
}

/// <summary>A network that did not give what was asked.</summary>
public sealed class NetworkTroubleException(NetworkTrouble trouble, string message) : Exception(message)
{
    /// <summary>What kind.</summary>
    public NetworkTrouble Trouble { get; } = trouble;
}

/// <summary>The HTTP part that networks share: bounded, and every trouble named.</summary>
public sealed class NetworkHttp(HttpClient http)
{
    private const int MostAnswer = 8 * 1024 * 1024;

    /// <summary>Gets a body as it is.</summary>
    public Task<byte[]> GetAsync(NetworkAccess access, string path, CancellationToken stop) =>
        SendAsync(access, new(HttpMethod.Get, new Uri(access.BaseUrl, path)), stop);

    /// <summary>Gets JSON.</summary>
    public async Task<T> GetAsync<T>(NetworkAccess access, string path, CancellationToken stop) =>
        Read<T>(await GetAsync(access, path, stop));

    /// <summary>Posts JSON.</summary>
    public Task PostAsync<T>(NetworkAccess access, string path, T body, CancellationToken stop) =>
        SendAsync(
            access,
            new(HttpMethod.Post, new Uri(access.BaseUrl, path))
            {
                Content = JsonContent.Create(body, options: CoreJson.Options),
            },
            stop
        );

    /// <summary>Posts JSON and reads what is answered.</summary>
    public async Task<TAnswer> PostAsync<T, TAnswer>(
        NetworkAccess access,
        string path,
        T body,
        CancellationToken stop
    ) =>
        Read<TAnswer>(
            await SendAsync(
                access,
                new(HttpMethod.Post, new Uri(access.BaseUrl, path))
                {
                    Content = JsonContent.Create(body, options: CoreJson.Options),
                },
                stop
            )
        );

    /// <summary>Exchanges a code for a token (RFC 6749 §4.1.3, with PKCE, RFC 7636).</summary>
    public async Task<NetworkToken> ExchangeAsync(
        Uri address,
        IReadOnlyDictionary<string, string> form,
        CancellationToken stop
    ) =>
        Read<NetworkToken>(
            await SendAsync(null, new(HttpMethod.Post, address) { Content = new FormUrlEncodedContent(form) }, stop)
        );

    private async Task<byte[]> SendAsync(NetworkAccess? access, HttpRequestMessage request, CancellationToken stop)
    {
        using (request)
        {
            if (access is not null)
                request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", access.Token);
            try
            {
                using var answer = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop);
                var body = await ReadAsync(answer, stop);
                return answer.IsSuccessStatusCode ? body : throw Trouble(answer.StatusCode, body);
            }
            catch (OutboundRefusedException e)
            {
                throw new NetworkTroubleException(NetworkTrouble.Gone, "its address may not be called: " + e.Message);
            }
            catch (HttpRequestException e)
            {
                throw new NetworkTroubleException(
                    NetworkTrouble.Temporary,
                    "could not be reached: " + e.GetBaseException().Message
                );
            }
            catch (OperationCanceledException) when (!stop.IsCancellationRequested)
            {
                throw new NetworkTroubleException(NetworkTrouble.Temporary, "gave no answer in ten seconds");
            }
            catch (IOException e)
            {
                throw new NetworkTroubleException(
                    NetworkTrouble.Temporary,
                    "broke off: " + e.GetBaseException().Message
                );
            }
        }
    }

    private static NetworkTroubleException Trouble(HttpStatusCode status, byte[] body)
    {
        var (code, detail) = Problem(body);
        var said = string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"answered {(int)status}{(detail is null ? "" : ": " + detail)}"
        );
        return new(
            (status, code) switch
            {
                (_, "access-expired") => NetworkTrouble.Expired,
                (_, "access-withdrawn") => NetworkTrouble.Withdrawn,
                (HttpStatusCode.Unauthorized, _) => NetworkTrouble.Withdrawn,
                (HttpStatusCode.Forbidden, _) => NetworkTrouble.NotPermitted,
                (
                    HttpStatusCode.NotFound
                        or HttpStatusCode.Gone
                        or HttpStatusCode.BadRequest
                        or HttpStatusCode.UnprocessableEntity,
                    _
                ) => NetworkTrouble.Gone,
                _ => NetworkTrouble.Temporary,
            },
            said
        );
    }

    private static (string? Code, string? Detail) Problem(byte[] body)
    {
        try
        {
            using var document = JsonDocument.Parse(body);
            string? Text(string name) =>
                document.RootElement.ValueKind == JsonValueKind.Object
                && document.RootElement.TryGetProperty(name, out var value)
                && value.ValueKind == JsonValueKind.String
                    ? value.GetString()
                    : null;
            return (Text("code"), Text("detail") ?? Text("error_description"));
        }
        catch (JsonException)
        {
            return (null, null);
        }
    }

    private static async Task<byte[]> ReadAsync(HttpResponseMessage answer, CancellationToken stop)
    {
        await using var stream = await answer.Content.ReadAsStreamAsync(stop);
        using var all = new MemoryStream();
        var buffer = new byte[16 * 1024];
        int read;
        while ((read = await stream.ReadAsync(buffer, stop)) > 0)
        {
            if (all.Length + read > MostAnswer)
                throw new NetworkTroubleException(NetworkTrouble.Gone, "answered with more than 8 MB");
            all.Write(buffer, 0, read);
        }

        return all.ToArray();
    }

    private static T Read<T>(byte[] body)
    {
        try
        {
            return JsonSerializer.Deserialize<T>(body, CoreJson.Options)
                ?? throw new NetworkTroubleException(NetworkTrouble.Temporary, "answered with nothing");
        }
        catch (JsonException e)
        {
            throw new NetworkTroubleException(
                NetworkTrouble.Temporary,
                "answered with something that is not what it says: " + e.Message
            );
        }
    }
}

/// <summary>A token as a token endpoint answers it (RFC 6749 §5.1).</summary>
public sealed record NetworkToken(
    [property: System.Text.Json.Serialization.JsonPropertyName("access_token")] string AccessToken,
    [property: System.Text.Json.Serialization.JsonPropertyName("expires_in")] long? ExpiresIn,
    string? Scope
);
