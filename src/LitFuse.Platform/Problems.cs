using System.Net;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Http.HttpResults;
using Npgsql;

namespace LitFuse.Platform;

/// <summary>One kind of refusal, as Problem Details (RFC 9457) tell it.</summary>
/// <param name="Code">Stable, for programs.</param>
/// <param name="Status">The HTTP status.</param>
/// <param name="Title">What happened.</param>
/// <param name="Mend">What to do.</param>
public sealed record ProblemKind(string Code, int Status, string Title, string Mend);

/// <summary>The catalogue of refusals; <c>docs/errors.md</c> lists the same, and a test holds them together.</summary>
public static class Problems
{
    public static readonly ProblemKind SignInFirst = new(
        "sign-in-first",
        401,
        "Nobody is signed in.",
        "Sign in at POST /api/session and send the cookie along."
    );
    public static readonly ProblemKind WrongPassword = new(
        "wrong-password",
        401,
        "That email and password do not fit together.",
        "Check both; after five wrong tries the account rests for five minutes."
    );
    public static readonly ProblemKind NobodyYet = new(
        "nobody-yet",
        409,
        "There is no account here yet: the database is empty.",
        "Start the server with --demo true (./demo does) to load the demonstration and its accounts."
    );
    public static readonly ProblemKind LockedOut = new(
        "locked-out",
        429,
        "Too many wrong passwords.",
        "Wait five minutes, then try again."
    );
    public static readonly ProblemKind NotAllowed = new(
        "not-allowed",
        403,
        "Your role does not include this.",
        "Ask the agency lead for it."
    );
    public static readonly ProblemKind TokenMissing = new(
        "token-missing",
        400,
        "The request carries no valid antiforgery token.",
        "Send the XSRF-TOKEN cookie's value in the X-XSRF-TOKEN header."
    );
    public static readonly ProblemKind NotThere = new(
        "not-there",
        404,
        "There is nothing here by that name, or it is not yours to see.",
        "Check the address."
    );
    public static readonly ProblemKind BadInput = new(
        "bad-input",
        400,
        "Something in the request is not right.",
        "Mend the fields named in errors and send it again."
    );
    public static readonly ProblemKind TooBig = new(
        "too-big",
        413,
        "The submission is larger than 256 KB.",
        "Send files as links, and only the answers themselves."
    );
    public static readonly ProblemKind TooMany = new(
        "too-many",
        429,
        "Too many submissions from one address in a short time.",
        "Wait as long as Retry-After says and send it again with the same id."
    );
    public static readonly ProblemKind Busy = new(
        "busy",
        503,
        "More is arriving than can be stored at this moment.",
        "Wait as long as Retry-After says and send it again with the same id; nothing is stored twice."
    );
    public static readonly ProblemKind DatabaseDown = new(
        "database-down",
        503,
        "The database cannot be reached.",
        "Start PostgreSQL (./demo does) and look at GET /health/ready; what was acknowledged before is safe."
    );
    public static readonly ProblemKind AlreadyTaken = new(
        "already-taken",
        409,
        "Someone else has this lead.",
        "Talk to them, or take another."
    );
    public static readonly ProblemKind NotNow = new(
        "not-now",
        409,
        "That cannot be done as things stand.",
        "Read the detail; reload to see how things stand now."
    );
    public static readonly ProblemKind DraftMoved = new(
        "draft-moved",
        409,
        "Someone else saved this draft after you opened it.",
        "Reload to see their version, then make your change again."
    );
    public static readonly ProblemKind CannotArm = new(
        "cannot-arm",
        422,
        "The fuse has faults and cannot be armed.",
        "Mend what is listed in faults."
    );
    public static readonly ProblemKind BadSignature = new(
        "bad-signature",
        401,
        "The signature of this notice is not right.",
        "Sign by the Standard Webhooks scheme with the connection's secret."
    );
    public static readonly ProblemKind NotProven = new(
        "not-proven",
        401,
        "The sender did not prove who it is.",
        "Copy the key or the signing secret from the form's or the source's page again, and send it as the detail says."
    );
    public static readonly ProblemKind WrongHost = new(
        "wrong-host",
        403,
        "The form stands on a page where it may not.",
        "Add the page's host name to the form, or take the form off that page."
    );
    public static readonly ProblemKind NotConnected = new(
        "not-connected",
        502,
        "The network did not give what was asked.",
        "Read the detail; connect again where the access ran out or was taken back."
    );
    public static readonly ProblemKind StillUsed = new(
        "still-used",
        409,
        "Something still needs this.",
        "Take it out of use where the detail says, then try again."
    );
    public static readonly ProblemKind CannotPublish = new(
        "cannot-publish",
        422,
        "The form has gaps and cannot be published.",
        "Mend what is listed in faults."
    );
    public static readonly ProblemKind BadKey = new(
        "bad-key",
        401,
        "The API key is unknown or was revoked.",
        "Make a key under Setup and send it as Authorization: Bearer."
    );
    public static readonly ProblemKind Broken = new(
        "broken",
        500,
        "Something broke on our side.",
        "Try again; if it stays, the server's log has the trace."
    );

    /// <summary>All of them.</summary>
    public static IReadOnlyList<ProblemKind> All { get; } =
    [
        .. typeof(Problems)
            .GetFields()
            .Where(f => f.FieldType == typeof(ProblemKind))
            .Select(f => (ProblemKind)f.GetValue(null)!),
    ];

    /// <summary>
    /// The catalogue as a page: where the <c>type</c> of each refusal leads, with its code as the anchor.
    /// </summary>
    public static string AsPage()
    {
        var page = new System.Text.StringBuilder(
            "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\"><title>Refusals · Lit Fuse API</title><style>body{font:16px/1.5 system-ui;max-width:46rem;margin:2rem auto;padding:0 1rem;background:#eff1ec;color:#1d2021}h2{font-size:1.1rem;margin:2rem 0 0}code{font:14px monospace}h2:target{background:#b9cc2e}</style><h1>Refusals</h1><p>Every refusal is a Problem Details document (RFC 9457). Its <code>code</code> is one of these and stays the same; <code>mend</code> says what to do.</p>"
        );
        foreach (var kind in All)
            page.Append(
                System.Globalization.CultureInfo.InvariantCulture,
                $"<h2 id=\"{kind.Code}\"><code>{kind.Status} {kind.Code}</code></h2><p>{WebUtility.HtmlEncode(kind.Title)}<br>{WebUtility.HtmlEncode(kind.Mend)}</p>"
            );
        return page.Append("</html>").ToString();
    }

    /// <summary>The response for a refusal.</summary>
    /// <param name="kind">Which.</param>
    /// <param name="detail">What, in this very case.</param>
    /// <param name="more">Further members.</param>
    public static ProblemHttpResult Because(
        this ProblemKind kind,
        string? detail = null,
        IDictionary<string, object?>? more = null
    ) =>
        TypedResults.Problem(
            detail,
            statusCode: kind.Status,
            title: kind.Title,
            type: "/docs/errors#" + kind.Code,
            extensions: With(kind, more)
        );

    /// <summary>There is no such thing, or it is another client's: nobody is told which.</summary>
    /// <param name="thing">Its name in our words, as <c>lead</c>.</param>
    public static ProblemHttpResult No(string thing) => NotThere.Because($"There is no such {thing} for you.");

    /// <summary>Bad input, by field.</summary>
    public static ProblemHttpResult Bad(string field, string fault) =>
        BadInput.Because(
            fault,
            new Dictionary<string, object?>(StringComparer.Ordinal)
            {
                ["errors"] = new Dictionary<string, string[]>(StringComparer.Ordinal) { [field] = [fault] },
            }
        );

    /// <summary>Writes a refusal to a response by hand.</summary>
    public static Task WriteAsync(this ProblemKind kind, HttpContext http, string? detail = null) =>
        kind.Because(detail).ExecuteAsync(http);

    /// <summary>Turns what escapes an endpoint into a problem of the catalogue.</summary>
    public static Task OfException(HttpContext http)
    {
        var error = http.Features.Get<IExceptionHandlerFeature>()?.Error;
        return error switch
        {
            BadHttpRequestException { StatusCode: 413 } => TooBig.WriteAsync(http),
            BadHttpRequestException bad => BadInput.WriteAsync(http, InWords(bad)),
            _ when IsDatabaseDown(error) => DatabaseDown.WriteAsync(http),
            _ when Unkept(error) => BadInput.WriteAsync(
                http,
                "A value holds a character that cannot be kept (NUL, U+0000). Take it out and send it again."
            ),
            _ => Broken.WriteAsync(http),
        };
    }

    // What the framework says names our types.
    private static string InWords(BadHttpRequestException bad)
    {
        if (bad.InnerException is System.Text.Json.JsonException json)
            return $"The body cannot be read: {Core.CoreJson.InWords(json)}.";
        var quoted = bad.Message.Split('"');
        // Failed to bind parameter "Guid leadId" from "17".
        if (quoted.Length >= 4 && bad.Message.StartsWith("Failed to bind", StringComparison.Ordinal))
            return $"'{quoted[3]}' cannot be {quoted[1].Split(' ')[^1]}.";
        if (quoted.Length >= 2 && bad.Message.StartsWith("Required parameter", StringComparison.Ordinal))
            return $"'{quoted[1].Split(' ')[^1]}' is missing.";
        return
            bad.Message.Contains("content type", StringComparison.OrdinalIgnoreCase)
            || bad.Message.Contains("media type", StringComparison.OrdinalIgnoreCase)
            ? "Send the body as JSON, with Content-Type: application/json."
            : bad.Message;
    }

    // U+0000, which PostgreSQL keeps neither in a text (22021) nor in JSON (22P05).
    private static bool Unkept(Exception? error)
    {
        for (var e = error; e is not null; e = e.InnerException)
            if (
                e is PostgresException
                {
                    SqlState: PostgresErrorCodes.CharacterNotInRepertoire or PostgresErrorCodes.UntranslatableCharacter
                }
            )
                return true;
        return false;
    }

    /// <summary>True when the database itself is away, rather than a statement wrong.</summary>
    public static bool IsDatabaseDown(Exception? error)
    {
        for (var e = error; e is not null; e = e.InnerException)
        {
            if (e is PostgresException { SqlState: var state })
                return state.StartsWith("57P", StringComparison.Ordinal)
                    || state.StartsWith("08", StringComparison.Ordinal);
            if (e is NpgsqlException)
                return true;
        }

        return false;
    }

    private static Dictionary<string, object?> With(ProblemKind kind, IDictionary<string, object?>? more)
    {
        var all = more is null
            ? new Dictionary<string, object?>(StringComparer.Ordinal)
            : new Dictionary<string, object?>(more, StringComparer.Ordinal);
        all["code"] = kind.Code;
        all["mend"] = kind.Mend;
        return all;
    }
}
