using System.Text.Json;
using LitFuse.Core.Forms;
using LitFuse.Core.Payloads;
using LitFuse.Data;
using NodaTime;

namespace LitFuse.Server.Ways.Kinds.Tradehall;

/// <summary>A professional network with lead ads: it is asked for what is new, and shows it minutes late.</summary>
public sealed class TradehallKind(NetworkHttp http) : SourceKind, IPolledNetwork, IListing, ITestingNetwork
{
    private const int Most = 500;

    /// <inheritdoc />
    public override int Place => 20;

    /// <inheritdoc />
    public override SourceKindCard Card { get; } =
        new(
            "tradehall",
            "Tradehall",
            "Lead ads on a professional network",
            "We ask every minute; Tradehall shows a submission some minutes after it was sent.",
            AccessBy.Consent,
            "ad account",
            [
                new("accounts.see", "see your ad accounts", "no ad account can be chosen"),
                new(
                    "forms.read",
                    "read the forms",
                    "forms and their fields are not found; a changed form is not noticed"
                ),
                new("responses.read", "read the responses", "no lead arrives"),
            ],
            [
                "Sign in to Tradehall as somebody with at least the role “campaign reader” in the ad account.",
                "Press Connect Tradehall and leave all three permissions ticked.",
                "Back here, choose one, some or all ad accounts, then the forms. Sign-ups for events stand among the forms.",
            ],
            MakesForms: false
        );

    /// <inheritdoc />
    public (string Consent, string Token) Paths => ("tradehall/consent", "api/tradehall/token");

    /// <inheritdoc />
    public Duration Every => Duration.FromMinutes(1);

    /// <inheritdoc />
    public async Task<NetworkAccount> WhoAsync(NetworkAccess access, CancellationToken stop)
    {
        var me = await http.GetAsync<TradehallMember>(access, "api/tradehall/member", stop);
        return new(me.Name, me.Scopes, me.ValidUntil);
    }

    /// <inheritdoc />
    public async Task<IReadOnlyList<ChosenPlace>> PlacesAsync(NetworkAccess access, CancellationToken stop) =>
        [
            .. (await http.GetAsync<TradehallAccounts>(access, "api/tradehall/accounts", stop)).Accounts.Select(
                a => new ChosenPlace(a.Id, a.Title)
            ),
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
            var found = await http.GetAsync<TradehallForms>(
                access,
                $"api/tradehall/accounts/{Uri.EscapeDataString(place.Id)}/forms",
                stop
            );
            forms.AddRange(
                found.Forms.Select(f => new NetworkForm(
                    f.Id,
                    place,
                    f.Title,
                    f.Status,
                    f.Retired,
                    [
                        .. f.Profile.Select(ProfileField),
                        .. f.Questions.Select(q => new FormField(
                            q.Key,
                            q.Text,
                            q.Options.Count > 0 ? FormFieldType.Choice : FormFieldType.Text,
                            q.Needed,
                            q.Options
                        )),
                        .. f.Hidden.Select(h => new FormField(h, h, FormFieldType.Hidden, false, [], h)),
                    ]
                ))
            );
        }

        return forms;
    }

    /// <inheritdoc />
    public async Task<PolledPage> PollAsync(
        NetworkAccess access,
        IReadOnlyList<ChosenPlace> places,
        string? cursor,
        CancellationToken stop
    )
    {
        var query = string.Concat(places.Select(p => "&account=" + Uri.EscapeDataString(p.Id)));
        var page = await http.GetAsync<TradehallResponses>(
            access,
            $"api/tradehall/responses?most={Most}&after={Uri.EscapeDataString(cursor ?? "")}{query}",
            stop
        );
        return new(
            [
                .. page.Responses.Select(r => new NetworkBody(
                    r.GetProperty("form").GetString()!,
                    System.Text.Encoding.UTF8.GetBytes(r.GetRawText())
                )),
            ],
            page.Next,
            page.More
        );
    }

    /// <inheritdoc />
    public async Task<IReadOnlyList<ListedSubmission>> ListAsync(ListingAsk ask, CancellationToken stop)
    {
        var listed = new List<ListedSubmission>();
        foreach (var form in ask.Forms)
        {
            foreach (var number in ListingAsk.Pages())
            {
                var page = await http.GetAsync<TradehallResponses>(
                    ask.Access,
                    string.Create(
                        System.Globalization.CultureInfo.InvariantCulture,
                        $"api/tradehall/forms/{Uri.EscapeDataString(form)}/responses?since={Uri.EscapeDataString(NodaTime.Text.InstantPattern.ExtendedIso.Format(ask.From))}&skip={number * Most}&most={Most}"
                    ),
                    stop
                );
                foreach (var response in page.Responses)
                {
                    var raw = System.Text.Encoding.UTF8.GetBytes(response.GetRawText());
                    if (
                        NetworkBodies.Read<TradehallResponse>(raw)
                            is { Response: { } id, SubmittedAt: { } at, Trial: false }
                        && at <= ask.To
                    )
                        listed.Add(new(form, id, at, raw));
                }

                if (!page.More || page.Responses.Count == 0)
                    break;
            }
        }

        return listed;
    }

    /// <inheritdoc />
    public async Task<string> SendTestAsync(NetworkAccess access, string formId, CancellationToken stop) =>
        (
            await http.PostAsync<object, TradehallTried>(
                access,
                $"api/tradehall/forms/{Uri.EscapeDataString(formId)}/trial",
                new { },
                stop
            )
        ).Response;

    /// <inheritdoc />
    public override async ValueTask<Payload> ReadAsync(
        IReadOnlyList<Pick> picks,
        string contentType,
        ReadOnlyMemory<byte> raw
    )
    {
        if (NetworkBodies.Read<TradehallResponse>(raw) is not { Profile: { } profile } response)
            return await base.ReadAsync(picks, contentType, raw);
        var answers = profile
            .Concat(response.Questions ?? [])
            .Concat(response.Hidden ?? [])
            .Select(p => new Answer(p.Key, p.Value ?? ""))
            .ToList();
        if (response.Event is { Title: { } title, Starts: { } starts })
            answers.AddRange([new("event", title), new("event_starts", starts)]);
        return Payload.FromAnswers(answers) with
        {
            OwnId = response.Response,
            SentAt = response.SubmittedAt,
            Test = response.Trial,
        };
    }

    private static FormField ProfileField(string key) =>
        key switch
        {
            "email" or "work_email" => new(
                key,
                key == "email" ? "Email" : "Work email",
                FormFieldType.Email,
                true,
                [],
                "email"
            ),
            "phone" => new(key, "Phone number", FormFieldType.Phone, false, [], "phone"),
            "first_name" => new(key, "First name", FormFieldType.Text, true, [], "first_name"),
            "last_name" => new(key, "Last name", FormFieldType.Text, true, [], "last_name"),
            "full_name" => new(key, "Name", FormFieldType.Text, true, [], "full_name"),
            "company" => new(key, "Company", FormFieldType.Text, false, [], "company"),
            _ => new(key, key.Replace('_', ' '), FormFieldType.Text, false, []),
        };

    private sealed record TradehallMember(string Name, IReadOnlyList<string> Scopes, Instant? ValidUntil);

    private sealed record TradehallAccount(string Id, string Title);

    private sealed record TradehallAccounts(IReadOnlyList<TradehallAccount> Accounts);

    private sealed record TradehallQuestion(string Key, string Text, bool Needed, IReadOnlyList<string> Options);

    private sealed record TradehallForm(
        string Id,
        string Title,
        string Status,
        bool Retired,
        IReadOnlyList<string> Profile,
        IReadOnlyList<TradehallQuestion> Questions,
        IReadOnlyList<string> Hidden
    );

    private sealed record TradehallForms(IReadOnlyList<TradehallForm> Forms);

    private sealed record TradehallResponses(IReadOnlyList<JsonElement> Responses, string Next, bool More);

    private sealed record TradehallTried(string Response);

    private sealed record TradehallEvent(string Title, string Starts);

    private sealed record TradehallResponse(
        string? Response,
        Dictionary<string, string>? Profile,
        Dictionary<string, string>? Questions,
        Dictionary<string, string>? Hidden,
        TradehallEvent? Event,
        Instant? SubmittedAt,
        bool Trial
    );
}
