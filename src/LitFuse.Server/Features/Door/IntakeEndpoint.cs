using LitFuse.Core.Junk;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using LitFuse.Server.Intake;
using LitFuse.Server.Ways;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace LitFuse.Server.Features.Door;

/// <summary>A program's proof that its submission is on disk.</summary>
/// <param name="Receipt">The submission's id here.</param>
/// <param name="ThankYou">Where a visitor is to be sent, when the form has such a page.</param>
/// <param name="Ending">What to tell a visitor, where the form says so.</param>
/// <param name="Amend">A signed link to amend the answers later, where the form hands one out.</param>
public sealed record IntakeReceipt(string Receipt, string? ThankYou, IntakeEnding? Ending, string? Amend);

/// <summary>What a visitor is told after sending.</summary>
public sealed record IntakeEnding(string Words, string? Download, string? Call);

/// <summary>
/// All that the door needs, taken once: asking for it in each request would make a scope of services for it.
/// </summary>
public sealed record DoorServices(
    FormDirectory Forms,
    IntakeWriter Writer,
    IntakeRateLimiter Gate,
    SlidingWindowCounter Lately,
    DoorCounts Counts,
    FormsFound Found,
    EndingChooser Endings,
    AmendLinks Amends,
    TimeProvider Time
);

/// <summary>
/// <c>POST /in/{key}</c>: the door. It bounds, reads lightly, stores and answers; all else comes after.
/// </summary>
public static class IntakeEndpoint
{
    /// <summary>Maps the door. It is short-circuited: sessions and screens have nothing to do with it.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        T The<T>()
            where T : notnull => app.ServiceProvider.GetRequiredService<T>();
        var door = new DoorServices(
            The<FormDirectory>(),
            The<IntakeWriter>(),
            The<IntakeRateLimiter>(),
            The<SlidingWindowCounter>(),
            The<DoorCounts>(),
            The<FormsFound>(),
            The<EndingChooser>(),
            The<AmendLinks>(),
            The<TimeProvider>()
        );
        app.MapPost("/in/{formKey}", (HttpContext http, string formKey) => ReceiveAsync(http, formKey, door))
            .OpenToAnyone("visitors and programs send submissions here, each to a form's or a source's own key")
            .WithTags("Intake")
            .WithSummary("Send a submission")
            .WithDescription(
                "JSON, urlencoded or multipart, at most 256 KB (files of a multipart body are named and not kept). Answers 202 with a receipt once it is on disk; a browser is sent on with 303. The same `id` (or `Idempotency-Key`, or `webhook-id`) with the same content has one effect. Where the form or source has a key or a signing secret, the sender must show it."
            )
            .AddOpenApiOperationTransformer(DescribeBody)
            .Produces<IntakeReceipt>(202)
            .ProducesProblem(401)
            .ProducesProblem(403)
            .ProducesProblem(404)
            .ProducesProblem(413)
            .ProducesProblem(429)
            .ProducesProblem(503)
            .ShortCircuit();
        app.MapMethods("/in/{formKey}", ["OPTIONS"], static (HttpContext http) => Preflight(http))
            .ShortCircuit()
            .OpenToAnyone("browsers ask before an embedded form posts")
            .ExcludeFromDescription();
        app.MapGet("/in/{formKey}", static (HttpContext http) =>
                VisitorPage.WriteAsync(
                    http,
                    405,
                    "This address takes forms; it is not a page.",
                    "Go back to the page with the form and send it from there.",
                    null
                )
            )
            .ShortCircuit()
            .OpenToAnyone("a visitor who reloads lands here")
            .ExcludeFromDescription();
        app.MapGet("/through/{formKey}", (HttpContext http, string formKey) =>
                PassThrough.ReceiveAsync(http, formKey, door)
            )
            .ShortCircuit()
            .OpenToAnyone("form tools send visitors through with the answers in the address")
            .WithTags("Intake")
            .WithSummary("Pass a visitor through")
            .WithDescription(
                "The query's names and values are the answers. The visitor goes on to the form's own thank-you address, never to one in the query."
            );
    }

    // Described by hand: saying it to the router would make it refuse other content types, which must be kept and
    // shown.
    private static Task DescribeBody(
        OpenApiOperation operation,
        OpenApiOperationTransformerContext context,
        CancellationToken stop
    )
    {
        OpenApiMediaType Answers() =>
            new()
            {
                Schema = new OpenApiSchema
                {
                    Type = JsonSchemaType.Object,
                    AdditionalProperties = new OpenApiSchema { Type = JsonSchemaType.String },
                },
            };
        operation.RequestBody = new OpenApiRequestBody
        {
            Required = true,
            Content = new Dictionary<string, OpenApiMediaType>(StringComparer.Ordinal)
            {
                ["application/json"] = Answers(),
                ["application/x-www-form-urlencoded"] = Answers(),
                ["multipart/form-data"] = Answers(),
            },
        };
        return Task.CompletedTask;
    }

    private static async Task ReceiveAsync(HttpContext http, string key, DoorServices door)
    {
        AllowOrigins(http);
        FormAddress? form;
        SourceAddress? source;
        try
        {
            form = await door.Forms.FindAsync(key, http.RequestAborted);
            source = form is null ? await door.Forms.SourceAsync(key, http.RequestAborted) : form.Source;
        }
        catch (Npgsql.NpgsqlException)
        {
            await DoorAnswers.RefuseAsync(http, Problems.DatabaseDown, 2);
            return;
        }

        if (source is null)
        {
            await DoorAnswers.RefuseAsync(http, Problems.NotThere, detail: $"There is no form with the key '{key}'.");
            return;
        }

        var from = http.Connection.RemoteIpAddress?.ToString() ?? "";
        if (door.Gate.WaitFor(form?.FormId ?? source.SourceId, from) is { } wait)
        {
            door.Counts.Refused(
                source.ClientId,
                source.SourceId,
                form?.FormId,
                Problems.TooMany,
                $"More than a form can take at once came from {from}.",
                from
            );
            await DoorAnswers.RefuseAsync(http, Problems.TooMany, wait);
            return;
        }

        if (await DoorBody.ReadAsync(http) is not { } raw)
        {
            door.Counts.Refused(
                source.ClientId,
                source.SourceId,
                form?.FormId,
                Problems.TooBig,
                "A submission was larger than 256 KB.",
                from
            );
            await DoorAnswers.RefuseAsync(http, Problems.TooBig);
            return;
        }

        if (Hindrance(http, form, source, raw, door) is var (kind, why))
        {
            door.Counts.Refused(source.ClientId, source.SourceId, form?.FormId, kind, why, from);
            await DoorAnswers.RefuseAsync(http, kind, detail: why);
            return;
        }

        await AcceptAsync(http, form, source, raw, from, door);
    }

    private static async Task AcceptAsync(
        HttpContext http,
        FormAddress? form,
        SourceAddress source,
        byte[] raw,
        string from,
        DoorServices door
    )
    {
        try
        {
            var contentType = Cut(http.Request.ContentType ?? "", 200)!;
            var payload = await source.Kind.ReadAsync(form?.Picks ?? [], contentType, raw);
            form ??= await door.Found.OfAsync(source, payload.Form, raw, http.RequestAborted);
            var ending = await door.Endings.ChooseAsync(form, payload, http.RequestAborted);
            var stored = await StoreAsync(http, "door", form, contentType, raw, payload, from, door);
            if (form.Design is not null && !stored.Double)
                door.Counts.Count(form.ClientId, form.FormId, FormCount.Send);
            await DoorAnswers.AcknowledgeAsync(
                http,
                form,
                ending,
                stored,
                HandsOutAmendLink(http, form, payload) ? door.Amends.For(form, stored.Receipt) : null
            );
        }
        catch (IntakeFullException)
        {
            await DoorAnswers.RefuseAsync(http, Problems.Busy, 1);
        }
        catch (Exception e) when (e is not OperationCanceledException || !http.RequestAborted.IsCancellationRequested)
        {
            await DoorAnswers.RefuseAsync(
                http,
                Problems.IsDatabaseDown(e) || e is OperationCanceledException ? Problems.DatabaseDown : Problems.Broken,
                2
            );
        }
    }

    // To people who filled in the form, by our script or without; a program has nothing to amend by hand, and signing
    // costs.
    private static bool HandsOutAmendLink(HttpContext http, FormAddress form, Payload payload) =>
        form.Design?.AmendLink == true && (payload.Signs.Count > 0 || DoorAnswers.IsBrowser(http));

    /// <summary>Queues a submission and waits until it is on disk.</summary>
    internal static Task<Stored> StoreAsync(
        HttpContext http,
        string via,
        FormAddress form,
        string contentType,
        byte[] raw,
        Payload payload,
        string from,
        DoorServices door
    )
    {
        var headers = http.Request.Headers;
        var junk = form.Kind.Card.MakesForms
            ? JunkScore.Of(payload, door.Lately.Count(form.FormId, from))
            : JunkReading.Clean;
        var amends = payload.Signs.TryGetValue("amend", out var token) ? door.Amends.Open(form, token) : null;
        var envelope = new Envelope(
            via,
            from,
            Cut(headers.UserAgent, 200),
            Cut(payload.Signs.GetValueOrDefault("page") ?? headers.Referer.FirstOrDefault(), 500),
            null,
            junk.Score,
            junk.Because.Count == 0 ? null : junk.Because,
            amends
        );
        var arrival = new Arrival(
            form.ClientId,
            form.FormId,
            contentType,
            raw,
            payload,
            payload.OwnId ?? HeaderId(headers, "Idempotency-Key") ?? HeaderId(headers, "webhook-id")
        )
        {
            SentAt = payload.SentAt,
            Test = payload.Test,
            Envelope = envelope.Write(),
        };
        return door.Writer.TryQueue(arrival) ? arrival.Done.Task : throw new IntakeFullException();
    }

    private static (ProblemKind Kind, string Why)? Hindrance(
        HttpContext http,
        FormAddress? form,
        SourceAddress source,
        byte[] raw,
        DoorServices door
    )
    {
        var call = new DoorCall(http.Request.Headers, raw, door.Time.Now());
        if (form is { Proof: { } proof })
            return SenderProof.Refuse(proof, call) is { } unproven ? (Problems.NotProven, unproven) : null;
        if (source.Kind is INetwork)
            return (
                Problems.NotThere,
                $"{source.Kind.Card.Name} is asked for this form's answers; they cannot be posted here."
            );
        if (
            source is { Secret: { } secret, Kind.Card.Access: AccessBy.KeyOfOurs }
            && source.Kind.Refuse(secret, call) is { } refused
        )
            return (Problems.NotProven, refused);
        if (
            form?.Design is { Hosts: { Count: > 0 } hosts }
            && HostOf(http) is { } host
            && !hosts.Any(h =>
                host.Equals(h, StringComparison.OrdinalIgnoreCase)
                || host.EndsWith("." + h, StringComparison.OrdinalIgnoreCase)
            )
        )
        {
            return (
                Problems.WrongHost,
                $"The form was sent from a page on {host}; it may stand on {string.Join(", ", hosts)}."
            );
        }

        return null;
    }

    // A page on our own address (the hosted form) is always right.
    private static string? HostOf(HttpContext http)
    {
        var said =
            http.Request.Headers.Origin.FirstOrDefault() is { Length: > 4 } origin && origin != "null"
                ? origin
                : http.Request.Headers.Referer.FirstOrDefault();
        return Uri.TryCreate(said, UriKind.Absolute, out var from) && from.Authority != http.Request.Host.Value
            ? from.Authority
            : null;
    }

    private static string? HeaderId(IHeaderDictionary headers, string name)
    {
        var key = headers[name].ToString().Trim().Trim('"');
        return key.Length is > 0 and <= Payload.LongestOwnId ? key : null;
    }

    private static string? Cut(string? text, int most) => text is null || text.Length <= most ? text : text[..most];

    // Embedded forms stand on any page: the door carries no cookie, so any origin may knock.
    internal static void AllowOrigins(HttpContext http)
    {
        http.Response.Headers.AccessControlAllowOrigin = "*";
        http.Response.Headers.AccessControlExposeHeaders = "Retry-After";
    }

    internal static Task Preflight(HttpContext http)
    {
        AllowOrigins(http);
        http.Response.Headers.AccessControlAllowMethods = "POST";
        http.Response.Headers.AccessControlAllowHeaders = "content-type, idempotency-key";
        http.Response.Headers.AccessControlMaxAge = "86400";
        http.Response.StatusCode = 204;
        return Task.CompletedTask;
    }
}

/// <summary>Too many submissions wait for their commit.</summary>
public sealed class IntakeFullException() : Exception("too many submissions wait to be stored");
