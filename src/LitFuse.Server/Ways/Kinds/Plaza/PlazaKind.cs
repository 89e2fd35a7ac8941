using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Forms;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using NodaTime;
using NodaTime.Text;

namespace LitFuse.Server.Ways.Kinds.Plaza;

/// <summary>A social network with lead ads: it notifies with an id, and the answers are fetched.</summary>
public sealed class PlazaKind(NetworkHttp http) : SourceKind, INotifyingNetwork, IListing, ITestingNetwork
{
    /// <inheritdoc />
    public override int Place => 10;

    /// <inheritdoc />
    public override SourceKindCard Card { get; } =
        new(
            "plaza",
            "Plaza",
            "Lead ads on a social network",
            "It tells us of each submission at once; we fetch the answers.",
            AccessBy.Consent,
            "page",
            [
                new("pages.see", "see your pages", "no page can be chosen, and none of its forms found"),
                new(
                    "forms.read",
                    "read the forms",
                    "forms and their fields are not found; a changed form is not noticed"
                ),
                new("answers.read", "read the answers", "we hear that somebody answered and cannot fetch what"),
                new("notices.send", "notify us", "nothing tells us of a submission; no lead arrives"),
            ],
            [
                "Sign in to Plaza with an account that runs the business's page.",
                "Press Connect Plaza. On Plaza's page tick the pages whose forms you want, and leave all four permissions ticked: each is used, and for nothing else.",
                "Back here, choose the pages and then the forms. Each form leads to its map.",
            ],
            MakesForms: false
        );

    /// <inheritdoc />
    public (string Consent, string Token) Paths => ("plaza/consent", "api/plaza/token");

    /// <inheritdoc />
    public async Task<NetworkAccount> WhoAsync(NetworkAccess access, CancellationToken stop)
    {
        var me = await http.GetAsync<PlazaMe>(access, "api/plaza/me", stop);
        return new(me.Name, me.Permissions, me.Until);
    }

    /// <inheritdoc />
    public async Task<IReadOnlyList<ChosenPlace>> PlacesAsync(NetworkAccess access, CancellationToken stop) =>
        [
            .. (await http.GetAsync<PlazaPages>(access, "api/plaza/pages", stop)).Pages.Select(p => new ChosenPlace(
                p.Page,
                p.Name
            )),
        ];

    /// <inheritdoc />
    public async Task<IReadOnlyList<NetworkForm>> FormsAsync(
        NetworkAccess access,
        IReadOnlyList<ChosenPlace> places,
        CancellationToken stop
    )
    {
        var forms = new List<NetworkForm>();
        foreach (var place in places)
        {
            var found = await http.GetAsync<PlazaForms>(
                access,
                $"api/plaza/pages/{Uri.EscapeDataString(place.Id)}/forms",
                stop
            );
            forms.AddRange(
                found.Forms.Select(f => new NetworkForm(
                    f.Form,
                    place,
                    f.Name,
                    f.Ad,
                    f.Archived,
                    [.. f.Asks.Select(FieldOf)]
                ))
            );
        }

        return forms;
    }

    /// <inheritdoc />
    public async Task ListenAsync(
        NetworkAccess access,
        IReadOnlyList<ChosenPlace> places,
        string address,
        string secret,
        CancellationToken stop
    )
    {
        foreach (var place in places)
            await http.PostAsync(
                access,
                $"api/plaza/pages/{Uri.EscapeDataString(place.Id)}/listener",
                new { address, secret },
                stop
            );
    }

    /// <inheritdoc />
    public (string FormId, string Id)? ReadNotice(ReadOnlyMemory<byte> body) =>
        JsonSerializer.Deserialize<PlazaNotice>(body.Span, CoreJson.Options)
            is { Form: { Length: > 0 } form, Lead: { Length: > 0 and <= Payload.LongestOwnId } lead }
            ? (form, lead)
            : null;

    /// <inheritdoc />
    public async Task<NetworkBody> FetchAsync(NetworkAccess access, string id, CancellationToken stop)
    {
        var raw = await http.GetAsync(access, $"api/plaza/leads/{Uri.EscapeDataString(id)}", stop);
        using var document = JsonDocument.Parse(raw);
        return new(document.RootElement.GetProperty("form").GetString()!, raw);
    }

    /// <inheritdoc />
    public async Task<IReadOnlyList<ListedSubmission>> ListAsync(ListingAsk ask, CancellationToken stop)
    {
        var listed = new List<ListedSubmission>();
        foreach (var form in ask.Forms)
        {
            var after = "";
            foreach (var _ in ListingAsk.Pages())
            {
                var page = await http.GetAsync<PlazaListed>(
                    ask.Access,
                    $"api/plaza/forms/{Uri.EscapeDataString(form)}/leads?since={Uri.EscapeDataString(InstantPattern.ExtendedIso.Format(ask.From))}&after={Uri.EscapeDataString(after)}",
                    stop
                );
                listed.AddRange(
                    page.Leads.Where(l => !l.Test && l.Sent <= ask.To)
                        .Select(l => new ListedSubmission(form, l.Lead, l.Sent, null))
                );
                if (!page.More || page.Leads.Count == 0)
                    break;
                after = page.Leads[^1].Lead;
            }
        }

        return listed;
    }

    /// <inheritdoc />
    public async Task<string> SendTestAsync(NetworkAccess access, string formId, CancellationToken stop) =>
        (
            await http.PostAsync<object, PlazaTested>(
                access,
                $"api/plaza/forms/{Uri.EscapeDataString(formId)}/test-lead",
                new { },
                stop
            )
        ).Lead;

    /// <inheritdoc />
    public override async ValueTask<Payload> ReadAsync(
        IReadOnlyList<Pick> picks,
        string contentType,
        ReadOnlyMemory<byte> raw
    )
    {
        if (NetworkBodies.Read<PlazaLead>(raw) is not { Answers: { } answers } lead)
            return await base.ReadAsync(picks, contentType, raw);
        var read = answers
            .Where(a => a is { Ask: not null, Said: not null })
            .Select(a => new Answer(a.Ask, string.Join(", ", a.Said)))
            .ToList();
        if (lead.Ad is { Campaign: { } campaign, Name: { } name })
            read.AddRange([new("campaign", campaign), new("ad", name)]);
        return Payload.FromAnswers(read) with { OwnId = lead.Lead, SentAt = lead.Sent, Test = lead.Test };
    }

    private static FormField FieldOf(PlazaAsk ask) =>
        new(
            ask.Name,
            ask.Words,
            ask.Kind switch
            {
                "email" => FormFieldType.Email,
                "phone" => FormFieldType.Phone,
                "choice" => FormFieldType.Choice,
                "long" => FormFieldType.LongText,
                _ => FormFieldType.Text,
            },
            ask.Must,
            ask.Choices ?? [],
            ask.Kind switch
            {
                "full-name" => "full_name",
                "first-name" => "first_name",
                "last-name" => "last_name",
                "email" => "email",
                "phone" => "phone",
                "company" => "company",
                _ => null,
            }
        );

    private sealed record PlazaMe(string Name, IReadOnlyList<string> Permissions, Instant? Until);

    private sealed record PlazaPage(string Page, string Name);

    private sealed record PlazaPages(IReadOnlyList<PlazaPage> Pages);

    private sealed record PlazaAsk(string Name, string Kind, string Words, bool Must, IReadOnlyList<string>? Choices);

    private sealed record PlazaForm(string Form, string Name, string Ad, bool Archived, IReadOnlyList<PlazaAsk> Asks);

    private sealed record PlazaForms(IReadOnlyList<PlazaForm> Forms);

    private sealed record PlazaListedLead(string Lead, Instant Sent, bool Test);

    private sealed record PlazaListed(IReadOnlyList<PlazaListedLead> Leads, bool More);

    private sealed record PlazaTested(string Lead);

    private sealed record PlazaNotice(string? Form, string? Lead);

    private sealed record PlazaAnswer(string Ask, IReadOnlyList<string> Said);

    private sealed record PlazaAd(string Campaign, string Name);

    private sealed record PlazaLead(
        string? Lead,
        IReadOnlyList<PlazaAnswer>? Answers,
        Instant? Sent,
        PlazaAd? Ad,
        bool Test
    );
}
