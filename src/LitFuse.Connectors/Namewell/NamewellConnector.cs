using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Identity;
using LitFuse.Platform;

namespace LitFuse.Connectors.Namewell;

/// <summary>
/// Address books on any CardDAV server: a card for each lead, so that the phone of whoever is rung knows who rings. A
/// card is known again by its UID, which is the lead's; what others wrote on it stays.
/// </summary>
public sealed class NamewellConnector(CardDav dav, TimeProvider time) : IConnector
{
    /// <summary>The kind of connection.</summary>
    public const string Kind = "namewell";

    /// <summary>The step that writes a card.</summary>
    public const string Card_ = "address-card";

    /// <summary>The delivery that takes one out.</summary>
    public const string Out = "address-card-out";

    /// <inheritdoc />
    public int Place => 70;

    /// <inheritdoc />
    public ConnectorCard Card { get; } =
        new(
            Kind,
            "Address book",
            "cards on the phones of those who are rung (CardDAV)",
            [
                new(
                    ConnectorCard.Address,
                    "Address",
                    Hint: "Of the address books, or only of the server: the rest is found."
                ),
                new("user", "User"),
                new("password", "Password", Secret: true, Hint: "An app password, where the service makes them."),
            ],
            [],
            [
                "Make a user for Lit Fuse at your address book service, or an app password of your own.",
                "Let it read and write the books that phones use: one for everybody, or one for each who rings.",
                "Copy the address (its page says “CardDAV”), the user and the password.",
            ]
        );

    /// <inheritdoc />
    public IReadOnlyList<StepKind> Steps { get; } =
    [
        new(
            Card_,
            "Card in an address book",
            Lane.Systems,
            Kind,
            [
                new("whose", "Into", SettingType.Choice)
                {
                    Choices =
                    [
                        new("book", "the book chosen here"),
                        new("owner", "the book of whoever answers for them"),
                    ],
                },
                new("book", "Book", SettingType.Listed)
                {
                    List = "books",
                    Hint = "Where nobody answers for them, or has no book by their name, it is this one too.",
                },
                new("name", "Name as it shows when they ring", SettingType.Line) { Default = "{{ lead.name }}" },
                new("phone", "Number", SettingType.Line) { Default = "{{ lead.phone }}" },
                new("phone2", "Another number", SettingType.Line, Optional: true),
                new("email", "Email", SettingType.Line, Optional: true) { Default = "{{ lead.email }}" },
                new("company", "Company", SettingType.Line, Optional: true),
                new("note", "Note", SettingType.Words, Optional: true),
                new("link", "Link", SettingType.Line, Optional: true)
                {
                    Default = "{{ lead.link }}",
                    Hint = "Their page here, as a rule.",
                },
                new("owner", "Who answers for them", SettingType.Line, Optional: true)
                {
                    Default = "{{ owner.name }}",
                    OnlyIf = new("whose", "owner"),
                    Hint = "A book of this name is looked for.",
                },
            ],
            ["url"]
        )
        {
            TakenBackBy = Out,
        },
        new(Out, "Card out of an address book", Lane.Systems, Kind, [], []) { Hidden = true },
    ];

    /// <inheritdoc />
    public Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop) =>
        outgoing.Kind == Out ? TakeOutAsync(access, outgoing, stop) : PutAsync(access, outgoing, stop);

    /// <inheritdoc />
    public Task<IReadOnlyList<ListItem>> ListAsync(
        ConnectionAccess access,
        string list,
        IReadOnlyDictionary<string, string> settings,
        CancellationToken stop
    ) => dav.BooksAsync(access, stop);

    /// <inheritdoc />
    public async Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop)
    {
        var books = await dav.BooksAsync(access, stop);
        return AccessTold.Works with
        {
            Account =
                $"{access.Details.GetValueOrDefault("user")}, {(books.Count == 1 ? books[0].Name : $"{books.Count} books")}",
        };
    }

    /// <inheritdoc />
    public async Task<bool?> SweepAsync(ConnectionAccess access, string kind, string reference, CancellationToken stop)
    {
        var (gone, trouble) = await RemoveAsync(access, reference, stop);
        if (trouble is { Status: 0 })
            throw new HttpRequestException(trouble.Fault);
        return gone;
    }

    /// <inheritdoc />
    public string? FilesGoTo => "Folder there, as in files/leads";

    /// <inheritdoc />
    public string? FaultOfFilesTo(string to) =>
        to.Length is 0 or > 200 || to.Contains("://", StringComparison.Ordinal) || to.Split('/').Contains("..")
            ? "Write the folder's path under the connection's address, as in files/leads."
            : null;

    /// <inheritdoc />
    public async Task<AttemptResult?> SendFileAsync(ConnectionAccess access, FileToSend file, CancellationToken stop)
    {
        var folder = string.Join(
            '/',
            file.To.Split('/', StringSplitOptions.RemoveEmptyEntries).Select(Uri.EscapeDataString)
        );
        return (
            await dav.PutFileAsync(
                access,
                new Uri(access.BaseUrl, $"{folder}/{Uri.EscapeDataString(file.Name)}"),
                file.Bytes,
                file.Type,
                stop
            )
        ).AsResult();
    }

    /// <inheritdoc />
    public ServiceNotice? ReadNotice(ReadOnlySpan<byte> body) => null;

    private async Task<AttemptResult> PutAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        string? Or(string key) =>
            outgoing.Settings.GetValueOrDefault(key) is { } value && !string.IsNullOrWhiteSpace(value)
                ? value.Trim()
                : null;
        if (Or("phone") is not { } phone)
            return new(AttemptEnd.Final, "is given no card: there is no number to know them by");
        var name = (outgoing.Test ? "TEST · " : "") + (Or("name") ?? phone);
        var (first, last) = PersonNames.Split(name);
        var card = new CardOf(outgoing.Lead, name, first, last)
        {
            Phones = [phone, .. Or("phone2") is { } other && other != phone ? [other] : Array.Empty<string>()],
            Email = Or("email"),
            Company = Or("company"),
            Note = Or("note"),
            Url = Or("link"),
            Tags = ["Lit Fuse"],
        };
        var (book, cannot) = await BookAsync(access, outgoing, stop);
        if (cannot is not null)
            return cannot;
        var (before, trouble) = await dav.FindAsync(access, book!, outgoing.Lead, stop);
        if (trouble is not null)
            return trouble.AsResult();
        var href = before?.Href ?? new Uri(book!, outgoing.Lead + ".vcf");
        var answer = await dav.PutAsync(access, href, VCard.Write(card, time.Now(), before?.Text), before?.ETag, stop);
        // Old servers take no vCard 4.0 (RFC 6352 §6.3.2.1, supported-address-data).
        if (
            answer.Status is 415
            || (answer.Status == 403 && answer.Text.Contains("supported-address-data", StringComparison.Ordinal))
        )
            answer = await dav.PutAsync(
                access,
                href,
                VCard.Write(card, time.Now(), before?.Text, version3: true),
                before?.ETag,
                stop
            );
        // Somebody changed it in between: it is read again and written anew.
        if (answer.Status is 412 or 409)
            return new(AttemptEnd.Temporary, "had another card there in between", null);
        return answer.AsResult(
            Reference(book!, outgoing.Lead),
            new Dictionary<string, string>(StringComparer.Ordinal) { ["url"] = href.ToString() }
        );
    }

    private async Task<(Uri? Book, AttemptResult? Cannot)> BookAsync(
        ConnectionAccess access,
        Outgoing outgoing,
        CancellationToken stop
    )
    {
        var chosen = outgoing.Settings.GetValueOrDefault("book") ?? "";
        if (
            outgoing.Settings.GetValueOrDefault("whose") == "owner"
            && outgoing.Settings.GetValueOrDefault("owner") is { Length: > 0 } owner
        )
        {
            try
            {
                if (
                    (await dav.BooksAsync(access, stop)).FirstOrDefault(b =>
                        b.Name.Equals(owner.Trim(), StringComparison.OrdinalIgnoreCase)
                    ) is
                    { } own
                )
                    chosen = own.Key;
            }
            catch (ServiceTroubleException e)
            {
                return (null, new(e.Status is { } status ? Trouble.OfStatus(status) : AttemptEnd.Temporary, e.Message));
            }
        }

        return
            Uri.TryCreate(access.BaseUrl, chosen.EndsWith('/') ? chosen : chosen + "/", out var book)
            && book.Host == access.BaseUrl.Host
            ? (book, null)
            : (null, new(AttemptEnd.Final, $"has no book at “{chosen}”"));
    }

    private async Task<AttemptResult> TakeOutAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop)
    {
        var (_, trouble) = await RemoveAsync(access, outgoing.Settings.GetValueOrDefault("reference") ?? "", stop);
        return trouble?.AsResult() ?? new(AttemptEnd.Accepted, "has no card of them any more");
    }

    // What is not there any more is gone too.
    private async Task<(bool Gone, ServiceAnswer? Trouble)> RemoveAsync(
        ConnectionAccess access,
        string reference,
        CancellationToken stop
    )
    {
        if (reference.Split('#') is not [var book, var uid] || !Uri.TryCreate(access.BaseUrl, book, out var at))
            return (true, null);
        var (card, trouble) = await dav.FindAsync(access, at, uid, stop);
        if (trouble is not null)
            return trouble.Status == 404 ? (true, null) : (false, trouble);
        if (card is null)
            return (true, null);
        var answer = await dav.RemoveAsync(access, card, stop);
        return answer.Ok || answer.Status == 404
            ? (true, null)
            : (false, answer.Status == 412 ? answer with { End = AttemptEnd.Temporary } : answer);
    }

    private static string Reference(Uri book, string uid) => $"{book.AbsolutePath}#{uid}";
}
