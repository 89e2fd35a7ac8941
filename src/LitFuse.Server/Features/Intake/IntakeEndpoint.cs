using System.Buffers;
using System.Threading.RateLimiting;
using LitFuse.Server.Features.Accounts;
using LitFuse.Server.Platform;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace LitFuse.Server.Features.Intake;

/// <summary>A program's proof that its submission is on disk.</summary>
/// <param name="Receipt">The submission's id here.</param>
/// <param name="ThankYou">Where a visitor is to be sent, when the form has such a page.</param>
public sealed record IntakeReceipt(string Receipt, string? ThankYou);

/// <summary>How much one sender may send.</summary>
public sealed class IntakeLimits
{
    /// <summary>Submissions a second from one address to one form, in the long run.</summary>
    public int PerSecond { get; set; } = 500;

    /// <summary>How many may come at once on top of that.</summary>
    public int Burst { get; set; } = 5000;
}

/// <summary><c>POST /in/{formKey}</c>: the door. It bounds, reads lightly, stores and answers; all else comes after.</summary>
public static class IntakeEndpoint
{
    /// <summary>The largest body taken.</summary>
    public const int MostBytes = 256 * 1024;

    /// <summary>Maps the door. It is short-circuited: sessions and screens have nothing to do with it.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        // Taken once: asking for them in each request would make a scope of services for it.
        var (forms, writer, gate) = (app.ServiceProvider.GetRequiredService<FormDirectory>(), app.ServiceProvider.GetRequiredService<IntakeWriter>(), app.ServiceProvider.GetRequiredService<IntakeGate>());
        app.MapPost("/in/{formKey}", (HttpContext http, string formKey) => ReceiveAsync(http, formKey, forms, writer, gate)).OpenToAnyone("visitors and programs send submissions here, each to a form's own key")
            .WithTags("Intake").WithSummary("Send a submission")
            .WithDescription("JSON, urlencoded or multipart, at most 256 KB. Answers 202 with a receipt once it is on disk; a browser is sent on with 303. The same `id` (or `Idempotency-Key`) with the same content has one effect.")
            .AddOpenApiOperationTransformer(DescribeBody)
            .Produces<IntakeReceipt>(202).ProducesProblem(404).ProducesProblem(413).ProducesProblem(429).ProducesProblem(503)
            .ShortCircuit();
        app.MapMethods("/in/{formKey}", ["OPTIONS"], static (HttpContext http) => Preflight(http)).ShortCircuit().OpenToAnyone("browsers ask before an embedded form posts").ExcludeFromDescription();
        app.MapGet("/in/{formKey}", static (HttpContext http) => ForVisitorAsync(http, 405, "This address takes forms; it is not a page.", "Go back to the page with the form and send it from there.")).ShortCircuit().OpenToAnyone("a visitor who reloads lands here").ExcludeFromDescription();
    }

    // Described by hand: saying it to the router would make it refuse other content types, which must be kept and shown.
    private static Task DescribeBody(OpenApiOperation operation, OpenApiOperationTransformerContext context, CancellationToken stop)
    {
        OpenApiMediaType Answers() => new() { Schema = new OpenApiSchema { Type = JsonSchemaType.Object, AdditionalProperties = new OpenApiSchema { Type = JsonSchemaType.String } } };
        operation.RequestBody = new OpenApiRequestBody
        {
            Required = true,
            Content = new Dictionary<string, OpenApiMediaType>(StringComparer.Ordinal) { ["application/json"] = Answers(), ["application/x-www-form-urlencoded"] = Answers(), ["multipart/form-data"] = Answers() },
        };
        return Task.CompletedTask;
    }

    private static async Task ReceiveAsync(HttpContext http, string formKey, FormDirectory forms, IntakeWriter writer, IntakeGate gate)
    {
        AllowOrigins(http);
        FormAddress? form;
        try
        {
            form = await forms.FindAsync(formKey, http.RequestAborted);
        }
        catch (Npgsql.NpgsqlException)
        {
            await RefuseAsync(http, Problems.DatabaseDown, 2);
            return;
        }

        if (form is null)
        {
            await RefuseAsync(http, Problems.NotThere, detail: $"There is no form with the key '{formKey}'.");
            return;
        }

        if (gate.WaitFor(form.FormId, http.Connection.RemoteIpAddress?.ToString() ?? "") is { } wait)
        {
            await RefuseAsync(http, Problems.TooMany, wait);
            return;
        }

        var raw = await ReadBoundedAsync(http);
        if (raw is null)
        {
            await RefuseAsync(http, Problems.TooBig);
            return;
        }

        var contentType = http.Request.ContentType ?? "";
        var payload = await RawBody.ReadAsync(contentType, raw);
        var arrival = new Arrival(form.ClientId, form.FormId, contentType.Length > 200 ? contentType[..200] : contentType, raw, payload, payload.OwnId ?? HeaderId(http));
        if (!writer.TryQueue(arrival))
        {
            await RefuseAsync(http, Problems.Busy, 1);
            return;
        }

        try
        {
            var stored = await arrival.Done.Task;
            await AcknowledgeAsync(http, form, stored);
        }
        catch (Exception e) when (e is not OperationCanceledException || !http.RequestAborted.IsCancellationRequested)
        {
            await RefuseAsync(http, Problems.IsDatabaseDown(e) || e is OperationCanceledException ? Problems.DatabaseDown : Problems.Broken, 2);
        }
    }

    private static async Task AcknowledgeAsync(HttpContext http, FormAddress form, Stored stored)
    {
        if (!IsBrowser(http))
        {
            http.Response.StatusCode = 202;
            var body = System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(new IntakeReceipt(stored.Receipt.ToString("N"), form.ThankYouUrl), IntakeJson.Default.IntakeReceipt);
            http.Response.ContentType = "application/json; charset=utf-8";
            http.Response.ContentLength = body.Length;
            await http.Response.Body.WriteAsync(body);
            return;
        }

        if (form.ThankYouUrl is not null)
        {
            http.Response.StatusCode = 303;
            http.Response.Headers.Location = form.ThankYouUrl;
            return;
        }

        await VisitorPage.WriteAsync(http, 200, "Thank you.", $"Your answers to “{form.Name}” have arrived.", form.PageUrl);
    }

    /// <summary>A visitor gets a page, a program Problem Details.</summary>
    private static async Task RefuseAsync(HttpContext http, ProblemKind kind, int? retryAfterSeconds = null, string? detail = null)
    {
        if (retryAfterSeconds is { } seconds) http.Response.Headers.RetryAfter = seconds.ToString(System.Globalization.CultureInfo.InvariantCulture);
        if (!IsBrowser(http))
        {
            await kind.WriteAsync(http, detail);
            return;
        }

        var (said, then) = kind.Code switch
        {
            "not-there" => ("This form is no longer taken in.", "Please write to the business directly; their page will say how."),
            "too-big" => ("That was too much to send at once.", "Go back and send your answers without the attachment."),
            "too-many" => ("That was sent many times in a short while.", "Wait a minute, go back, and press once more. Your answers are still in the form."),
            _ => ("Your answers have not been sent yet.", "Something is busy here. Wait a moment, go back, and press once more: your answers are still in the form, and nothing will arrive twice."),
        };
        await ForVisitorAsync(http, kind.Status, said, then);
    }

    private static Task ForVisitorAsync(HttpContext http, int status, string said, string then) => VisitorPage.WriteAsync(http, status, said, then, null);

    private static bool IsBrowser(HttpContext http) =>
        http.Request.Headers.Accept.ToString().Contains("text/html", StringComparison.OrdinalIgnoreCase);

    private static string? HeaderId(HttpContext http)
    {
        var key = http.Request.Headers["Idempotency-Key"].ToString().Trim().Trim('"');
        return key.Length is > 0 and <= Core.Payloads.Payload.LongestOwnId ? key : null;
    }

    // Embedded forms stand on any page: the door carries no cookie, so any origin may knock.
    private static void AllowOrigins(HttpContext http)
    {
        http.Response.Headers.AccessControlAllowOrigin = "*";
        http.Response.Headers.AccessControlExposeHeaders = "Retry-After";
    }

    private static Task Preflight(HttpContext http)
    {
        AllowOrigins(http);
        http.Response.Headers.AccessControlAllowMethods = "POST";
        http.Response.Headers.AccessControlAllowHeaders = "content-type, idempotency-key";
        http.Response.Headers.AccessControlMaxAge = "86400";
        http.Response.StatusCode = 204;
        return Task.CompletedTask;
    }

    private static async Task<byte[]?> ReadBoundedAsync(HttpContext http)
    {
        if (http.Request.ContentLength is { } told)
        {
            if (told > MostBytes) return null;
            var exact = new byte[told];
            var filled = await http.Request.Body.ReadAtLeastAsync(exact, exact.Length, throwOnEndOfStream: false, http.RequestAborted);
            return filled == exact.Length ? exact : exact[..filled];
        }

        var buffer = ArrayPool<byte>.Shared.Rent(MostBytes + 1);
        try
        {
            var filled = await http.Request.Body.ReadAtLeastAsync(buffer.AsMemory(0, MostBytes + 1), MostBytes + 1, throwOnEndOfStream: false, http.RequestAborted);
            return filled > MostBytes ? null : buffer.AsSpan(0, filled).ToArray();
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }
}

/// <summary>Keeps one address from flooding one form.</summary>
public sealed class IntakeGate(IntakeLimits limits) : IDisposable
{
    private readonly PartitionedRateLimiter<(Guid Form, string Address)> limiter =
        PartitionedRateLimiter.Create<(Guid, string), (Guid, string)>(sender => RateLimitPartition.GetTokenBucketLimiter(sender, _ => new TokenBucketRateLimiterOptions
        {
            TokenLimit = limits.Burst,
            TokensPerPeriod = Math.Max(1, limits.PerSecond / 4),
            ReplenishmentPeriod = TimeSpan.FromMilliseconds(250),
            QueueLimit = 0,
        }));

    /// <summary>How many seconds this sender must wait, or <c>null</c> to come in.</summary>
    public int? WaitFor(Guid formId, string address)
    {
        using var lease = limiter.AttemptAcquire((formId, address));
        if (lease.IsAcquired) return null;
        return lease.TryGetMetadata(MetadataName.RetryAfter, out var wait) ? Math.Max(1, (int)Math.Ceiling(wait.TotalSeconds)) : 1;
    }

    /// <inheritdoc />
    public void Dispose() => limiter.Dispose();
}

/// <summary>Generated JSON for the hot path.</summary>
[System.Text.Json.Serialization.JsonSourceGenerationOptions(System.Text.Json.JsonSerializerDefaults.Web)]
[System.Text.Json.Serialization.JsonSerializable(typeof(IntakeReceipt))]
internal sealed partial class IntakeJson : System.Text.Json.Serialization.JsonSerializerContext;
