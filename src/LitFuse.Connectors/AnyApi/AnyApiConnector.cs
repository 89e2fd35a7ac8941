using System.Net.Http.Headers;
using System.Text;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Texts;

namespace LitFuse.Connectors.AnyApi;

/// <summary>
/// Any API over HTTP: method, path, headers, query and body made with words, results read from the answer by JSON
/// Pointers.
/// </summary>
public sealed class AnyApiConnector(ConnectorHttp http) : IConnector
{
    /// <summary>The kind of connection.</summary>
    public const string Kind = "any-api";

    /// <summary>The step that calls it.</summary>
    public const string Step = "api-call";

    private const string WholeLead = """{"lead": "{{ lead }}", "answers": "{{ answers }}"}""";

    // What carries the call itself is not for a step to say.
    private static readonly HashSet<string> NotTheirs = new(StringComparer.OrdinalIgnoreCase)
    {
        "Host",
        "Content-Length",
        "Transfer-Encoding",
        "Connection",
        "Upgrade",
        "TE",
        "Trailer",
        "Expect",
        "Proxy-Authorization",
    };

    /// <inheritdoc />
    public int Place => 100;

    /// <inheritdoc />
    public ConnectorCard Card { get; } =
        new(
            Kind,
            "Any API",
            "calls any program that speaks HTTP and JSON",
            [
                new(
                    ConnectorCard.Address,
                    "Address that all calls begin with",
                    Hint: "As in https://api.example.com/v2."
                ),
                new(
                    "user",
                    "User",
                    Optional: true,
                    Hint: "Only where it wants user and password; the password goes into the next field."
                ),
                new(
                    "token",
                    "Key, token or password",
                    Secret: true,
                    Optional: true,
                    Hint: "Sent as “Authorization: Bearer …”, unless something else is said here."
                ),
                new(
                    "header",
                    "Header that carries the key",
                    Optional: true,
                    Hint: "As in X-Api-Key, where it is not Authorization."
                ),
            ],
            [],
            [
                "Look in the service's own documentation for “API” or “webhooks in”.",
                "Make a key there that may do no more than what you want done.",
                "Copy the address that all of its examples begin with, and the key.",
            ]
        )
        {
            OnDemandOnly = true,
        };

    /// <inheritdoc />
    public IReadOnlyList<StepKind> Steps { get; } =
    [
        new(
            Step,
            "Call an API",
            Lane.Systems,
            Kind,
            [
                new("method", "Method", SettingType.Choice)
                {
                    Choices =
                    [
                        new("POST", "POST: add something"),
                        new("PUT", "PUT: put something in its place"),
                        new("PATCH", "PATCH: change something"),
                        new("GET", "GET: ask for something"),
                        new("DELETE", "DELETE: take something out"),
                    ],
                },
                new("path", "Path", SettingType.Line, Optional: true)
                {
                    Hint = "After the connection's address, as in people/{{ lead.email | url_encode }}.",
                },
                new("query", "In the address, after ?", SettingType.Pairs, Optional: true),
                new("headers", "Headers", SettingType.Pairs, Optional: true),
                new("send", "Send", SettingType.Choice)
                {
                    Choices = [new("json", "JSON"), new("form", "form fields"), new("nothing", "nothing")],
                },
                new("body", "JSON", SettingType.Json, Optional: true)
                {
                    Default = WholeLead,
                    OnlyIf = new("send", "json"),
                    Hint = "Fields stand inside its strings. Left empty: the whole lead with all answers.",
                },
                new("form", "Form fields", SettingType.Pairs, Optional: true) { OnlyIf = new("send", "form") },
                new("results", "Take from the answer", SettingType.Pairs, Optional: true)
                {
                    Hint =
                        "A name of yours, and where it stands in the answer’s JSON, as in /data/id. Later steps can use it.",
                },
            ],
            ["code"]
        )
        {
            ResultsFrom = "results",
        },
    ];

    /// <inheritdoc />
    public async Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        var settings = outgoing.Settings;
        // A path is under the address that was given, and nowhere else.
        var path = (settings.GetValueOrDefault("path") ?? "").Trim().TrimStart('/');
        var query = string.Join(
            '&',
            outgoing.Columns("query").Select(q => $"{Uri.EscapeDataString(q.Key)}={Uri.EscapeDataString(q.Value)}")
        );
        if (
            !Uri.TryCreate(
                access.BaseUrl,
                path + (query.Length == 0 ? "" : (path.Contains('?', StringComparison.Ordinal) ? "&" : "?") + query),
                out var url
            )
            || url.GetLeftPart(UriPartial.Authority) != access.BaseUrl.GetLeftPart(UriPartial.Authority)
        )
            return new(AttemptEnd.Final, $"is not called at “{path}”: the path leads to another address");
        using var request = new HttpRequestMessage(
            new HttpMethod(settings.GetValueOrDefault("method") is { Length: > 0 } method ? method : "POST"),
            url
        );
        if (request.Method != HttpMethod.Get && BodyOf(settings, outgoing) is { } body)
            request.Content = body;
        Prove(request, access);
        request.Headers.TryAddWithoutValidation("Idempotency-Key", outgoing.Key);
        foreach (var (name, value) in outgoing.Columns("headers"))
        {
            if (NotTheirs.Contains(name) || (value.AsSpan().ContainsAny('\r', '\n') && value.Length > 0))
                return new(AttemptEnd.Final, $"is not called: the header “{name}” cannot be set");
            request.Headers.Remove(name);
            if (!request.Headers.TryAddWithoutValidation(name, value))
                return new(AttemptEnd.Final, $"is not called: “{name}” is no header that a step can set");
        }

        var answer = await http.SendAsync(access, request, stop);
        if (!answer.Ok)
            return answer.AsResult();
        var results = new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["code"] = answer.Status.ToString(System.Globalization.CultureInfo.InvariantCulture),
        };
        foreach (var (name, pointer) in outgoing.Columns("results"))
            if (JsonPath.Find(answer.Json, pointer) is { } found)
                results[name] = Clip.To(found, 2000);
        return answer.AsResult(results.GetValueOrDefault("id"), results);
    }

    /// <inheritdoc />
    public async Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop)
    {
        // What an API may be asked without harm is nobody's rule: that it answers at all is what can be known.
        using var request = new HttpRequestMessage(HttpMethod.Get, access.BaseUrl);
        Prove(request, access);
        var answer = await http.SendAsync(access, request, stop);
        return answer.Status is 0 or 401 or >= 500
            ? throw new ServiceTroubleException(answer.Fault!, answer.Status)
            : AccessTold.Works;
    }

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body) => null;

    private static HttpContent? BodyOf(IReadOnlyDictionary<string, string> settings, Outgoing outgoing) =>
        settings.GetValueOrDefault("send") switch
        {
            "form" => new FormUrlEncodedContent(outgoing.Columns("form")),
            "nothing" => null,
            _ => new StringContent(settings.GetValueOrDefault("body") ?? "{}", Encoding.UTF8, "application/json"),
        };

    private static void Prove(HttpRequestMessage request, ConnectionAccess access)
    {
        if (access.Token.Length == 0)
            return;
        if (access.Details.GetValueOrDefault("user") is { Length: > 0 } user)
            request.Headers.Authorization = ConnectorHttp.Basic(user, access.Token);
        else if (access.Details.GetValueOrDefault("header") is { Length: > 0 } header)
            request.Headers.TryAddWithoutValidation(header, access.Token);
        else
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", access.Token);
    }
}
