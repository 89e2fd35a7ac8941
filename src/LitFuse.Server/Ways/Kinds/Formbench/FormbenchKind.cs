using System.Text.Json;
using LitFuse.Core.Delivering;
using LitFuse.Core.Forms;
using LitFuse.Core.Payloads;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Server.Ways.Kinds.Formbench;

/// <summary>
/// A form tool: a signed call with nested answers, or the visitor sent on with the answers in the address.
/// </summary>
public sealed class FormbenchKind : SourceKind
{
    /// <inheritdoc />
    public override int Place => 50;

    /// <inheritdoc />
    public override SourceKindCard Card { get; } =
        new(
            "formbench",
            "Formbench",
            "Forms made in a form tool",
            "It calls us, signed, with each entry; or it sends the visitor through us with the answers in the address.",
            AccessBy.KeyOfOurs,
            "",
            [],
            [
                "In Formbench open the form and its page “After sending”.",
                "To be called: paste the address and the signing secret that stand here. The form appears below with its first entry.",
                "Where the plan has no calls: make the form below, choose “send the visitor on” in Formbench, and paste the form's pass-through address there. The answers come in the address; set the thank-you address here.",
            ],
            MakesForms: true
        );

    /// <inheritdoc />
    public override string NewSecret() => Keys.Signing();

    /// <inheritdoc />
    public override string? Refuse(string secret, DoorCall call) =>
        WebhookSignature.Fault(
            WebhookSignature.KeyOf(secret),
            call.Headers["webhook-id"],
            call.Headers["webhook-timestamp"],
            call.Headers["webhook-signature"],
            call.Body.Span,
            call.Now
        );

    /// <inheritdoc />
    public override async ValueTask<Payload> ReadAsync(
        IReadOnlyList<Pick> picks,
        string contentType,
        ReadOnlyMemory<byte> raw
    )
    {
        if (Read(raw) is not ({ } entry, { } fields))
            return await base.ReadAsync(picks, contentType, raw);
        var answers = new List<Answer>();
        try
        {
            foreach (var field in fields)
                Payload.Flatten(field.Ref, field.Value, answers);
        }
        catch (InvalidOperationException)
        {
            return Payload.Bad(Payload.CutCharacter);
        }

        answers.AddRange((entry.Carried ?? []).Select(c => new Answer(c.Key, c.Value ?? "")));
        return Payload.FromAnswers(answers) with
        {
            OwnId = entry.Entry,
            SentAt = entry.Finished,
            Form = entry.Form is { Id.Length: > 0 and <= 100 } form
                ? new(form.Id, string.IsNullOrEmpty(form.Title) ? form.Id : form.Title)
                : null,
        };
    }

    /// <inheritdoc />
    public override IReadOnlyList<FormField> Learn(ReadOnlyMemory<byte> raw) =>
        [
            .. Read(raw)
                .Fields?.DistinctBy(f => f.Ref)
                .Select(f => new FormField(f.Ref, f.Label ?? f.Ref, TypeOf(f.Type), false, [], Means(f.Type)))
                ?? [],
        ];

    private static (BenchEntry? Entry, IReadOnlyList<BenchField>? Fields) Read(ReadOnlyMemory<byte> raw)
    {
        var entry = NetworkBodies.Read<BenchEntry>(raw);
        return (
            entry,
            entry?.Pages is null
                ? null
                :
                [
                    .. entry
                        .Pages.Where(p => p?.Fields is not null)
                        .SelectMany(p => p.Fields)
                        .Where(f => f is { Ref: not null, Value.ValueKind: not JsonValueKind.Undefined }),
                ]
        );
    }

    private static FormFieldType TypeOf(string type) =>
        type switch
        {
            "email" => FormFieldType.Email,
            "phone" => FormFieldType.Phone,
            "choices" => FormFieldType.Choices,
            "choice" => FormFieldType.Choice,
            _ => FormFieldType.Text,
        };

    private static string? Means(string type) =>
        type switch
        {
            "email" => "email",
            "phone" => "phone",
            "name" => "full_name",
            _ => null,
        };

    private sealed record BenchForm(string Id, string Title);

    private sealed record BenchField(string Ref, string Label, string Type, JsonElement Value);

    private sealed record BenchPage(IReadOnlyList<BenchField> Fields);

    private sealed record BenchEntry(
        string? Entry,
        BenchForm? Form,
        Instant? Finished,
        IReadOnlyList<BenchPage>? Pages,
        Dictionary<string, string>? Carried
    );
}
