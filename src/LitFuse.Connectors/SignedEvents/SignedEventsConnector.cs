using System.Globalization;
using System.Net.Http.Headers;
using System.Text;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Platform;

namespace LitFuse.Connectors.SignedEvents;

/// <summary>
/// Events to any address: CloudEvents 1.0 in either mode, signed by the Standard Webhooks scheme. While a secret is
/// being replaced, both sign, so that the other side can change over when it likes.
/// </summary>
public sealed class SignedEventsConnector(ConnectorHttp http, PublicAddress address, TimeProvider time) : IConnector
{
    /// <summary>The kind of connection.</summary>
    public const string Kind = "signed-events";

    /// <summary>The step that sends one.</summary>
    public const string Step = "signed-event";

    /// <summary>What is sent where nothing else is said.</summary>
    public const string WholeLead =
        """{"lead": "{{ lead }}", "answers": "{{ answers }}", "tracking": "{{ tracking }}", "form": "{{ form.name }}", "owner": "{{ owner.name }}"}""";

    /// <inheritdoc />
    public int Place => 90;

    /// <inheritdoc />
    public ConnectorCard Card { get; } =
        new(
            Kind,
            "Signed events",
            "tells any address what happened, as signed CloudEvents",
            [
                new(
                    ConnectorCard.Address,
                    "Address that events are posted to",
                    Hint: "Of a program of yours, or of a service that takes webhooks."
                ),
            ],
            [],
            [
                "Copy the address where your program takes events.",
                "Paste it here. One event of type “ping” is sent to it, signed; any answer from 200 to 299 will do.",
                "Then the signing secret is shown, once. Give it to your program: it checks webhook-signature with it (Standard Webhooks).",
            ]
        )
        {
            MakesSecret = true,
            OnDemandOnly = true,
            ExactAddress = true,
        };

    /// <inheritdoc />
    public IReadOnlyList<StepKind> Steps { get; } =
    [
        new(
            Step,
            "Signed event",
            Lane.Systems,
            Kind,
            [
                new("event", "Type of event", SettingType.Line)
                {
                    Default = "lead.asked",
                    Hint = "What your program goes by.",
                },
                new("mode", "Written", SettingType.Choice)
                {
                    Choices =
                    [
                        new("structured", "as one body (structured)"),
                        new("binary", "with its facts in headers (binary)"),
                    ],
                },
                new("body", "Data", SettingType.Json, Optional: true)
                {
                    Default = WholeLead,
                    Hint = "JSON; fields stand inside its strings. Left empty: the whole lead with all answers.",
                },
            ],
            []
        ),
    ];

    /// <inheritdoc />
    public async Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        var type = outgoing.Settings.GetValueOrDefault("event") ?? "lead";
        var data = outgoing.Settings.GetValueOrDefault("body") ?? "{}";
        return (
            await SendAsync(
                access,
                new(outgoing.Key, address.Url, outgoing.Test ? type + ".test" : type, outgoing.Lead, outgoing.At, data),
                outgoing.Settings.GetValueOrDefault("mode") == "binary",
                stop
            )
        ).AsResult();
    }

    /// <inheritdoc />
    public async Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop)
    {
        var answer = await SendAsync(
            access,
            new("ping-" + Guid.CreateVersion7().ToString("N"), address.Url, "ping", "", time.Now(), "{}"),
            binary: false,
            stop
        );
        return answer.Ok ? AccessTold.Works : throw new ServiceTroubleException(answer.Fault!, answer.Status);
    }

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body) => null;

    private async Task<ServiceAnswer> SendAsync(
        ConnectionAccess access,
        CloudEvent happened,
        bool binary,
        CancellationToken stop
    )
    {
        var body = Encoding.UTF8.GetBytes(binary ? happened.Data : happened.AsBody());
        var stamp = time.Now().ToUnixTimeSeconds();
        // The address as it was given: a stroke at its end that is not theirs would be another address.
        using var request = new HttpRequestMessage(HttpMethod.Post, access.BaseUrl)
        {
            Content = new ByteArrayContent(body),
        };
        request.Content.Headers.ContentType = MediaTypeHeaderValue.Parse(
            binary ? "application/json" : CloudEvent.Structured + "; charset=utf-8"
        );
        if (binary)
            foreach (var (name, value) in happened.AsHeaders())
                request.Headers.TryAddWithoutValidation(name, value);
        request.Headers.Add("Idempotency-Key", happened.Id);
        request.Headers.Add("webhook-id", happened.Id);
        request.Headers.Add("webhook-timestamp", stamp.ToString(CultureInfo.InvariantCulture));
        request.Headers.Add(
            "webhook-signature",
            string.Join(
                ' ',
                new[] { access.Token, access.OlderSecret }
                    .OfType<string>()
                    .Select(s => WebhookSignature.Sign(WebhookSignature.KeyOf(s), happened.Id, stamp, body))
            )
        );
        return await http.SendAsync(access, request, stop);
    }
}
