using System.Net.Http.Headers;
using System.Text;
using System.Xml;
using System.Xml.Linq;
using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;

namespace LitFuse.Connectors.Namewell;

/// <summary>A card as a server has it.</summary>
/// <param name="Href">Where.</param>
/// <param name="ETag">Its version.</param>
/// <param name="Text">As it stands.</param>
public sealed record StoredCard(Uri Href, string ETag, string Text);

/// <summary>The few words of CardDAV (RFC 6352) and WebDAV (RFC 4918) that are spoken here, to any server.</summary>
public sealed class CardDav(ConnectorHttp http)
{
    private const int MostBooks = 500;
    private static readonly XNamespace D = "DAV:";
    private static readonly XNamespace C = "urn:ietf:params:xml:ns:carddav";

    /// <summary>
    /// The books that this user may write into, whether the address is a book, their home, a principal or only a server
    /// (RFC 6764 §5).
    /// </summary>
    /// <exception cref="ServiceTroubleException">There are none to be found.</exception>
    public async Task<IReadOnlyList<ListItem>> BooksAsync(ConnectionAccess access, CancellationToken stop)
    {
        var start = await AskAsync(access, access.BaseUrl, "0", stop);
        if (start is null)
            start = await AskAsync(access, new Uri(access.BaseUrl, "/.well-known/carddav"), "0", stop);
        if (start is null)
            throw new ServiceTroubleException(
                "has no address books at this address. Copy the address from its page about CardDAV."
            );
        if (BooksIn(start) is { Count: > 0 } itself)
            return itself;
        if (HomeOf(start) is null && PrincipalOf(start) is { } principal)
            start = await AskAsync(access, principal, "0", stop) ?? start;
        var home = HomeOf(start) ?? access.BaseUrl;
        var books = await AskAsync(access, home, "1", stop) is { } inside ? BooksIn(inside) : [];
        return books.Count > 0 ? books : throw new ServiceTroubleException("shows no address book to this user.");
    }

    /// <summary>The card of a book with this UID, however its server names it.</summary>
    /// <returns>The card, or <c>null</c>; and, where the server could not be asked, the answer that says so.</returns>
    public async Task<(StoredCard? Card, ServiceAnswer? Trouble)> FindAsync(
        ConnectionAccess access,
        Uri book,
        string uid,
        CancellationToken stop
    )
    {
        var query = new XElement(
            C + "addressbook-query",
            new XElement(D + "prop", new XElement(D + "getetag"), new XElement(C + "address-data")),
            new XElement(
                C + "filter",
                new XElement(
                    C + "prop-filter",
                    new XAttribute("name", "UID"),
                    new XElement(
                        C + "text-match",
                        new XAttribute("collation", "i;unicode-casemap"),
                        new XAttribute("match-type", "contains"),
                        uid
                    )
                )
            )
        );
        var answer = await SendAsync(
            access,
            new HttpMethod("REPORT"),
            book,
            query.ToString(),
            "application/xml",
            r => r.Headers.Add("Depth", "1"),
            stop
        );
        if (!answer.Ok)
            return (null, answer);
        if (Read(answer.Text) is not { } told)
            return (
                null,
                answer with
                {
                    Fault = "answered with something that is no multistatus",
                    End = AttemptEnd.Temporary,
                }
            );
        var found = told.Descendants(D + "response")
            .Select(r => new StoredCard(
                new Uri(book, (string?)r.Element(D + "href") ?? ""),
                (string?)r.Descendants(D + "getetag").FirstOrDefault() ?? "",
                (string?)r.Descendants(C + "address-data").FirstOrDefault() ?? ""
            ));
        return (
            found.FirstOrDefault(c =>
                VCard.Values(c.Text, "UID").Any(u => u.EndsWith(uid, StringComparison.OrdinalIgnoreCase))
            ),
            null
        );
    }

    /// <summary>
    /// Puts a card there: a new one only where none is, an old one only where it is still the one that was read (RFC
    /// 9110 §13.1).
    /// </summary>
    public Task<ServiceAnswer> PutAsync(
        ConnectionAccess access,
        Uri href,
        string card,
        string? etag,
        CancellationToken stop
    ) =>
        SendAsync(
            access,
            HttpMethod.Put,
            href,
            card,
            "text/vcard",
            r => r.Headers.TryAddWithoutValidation(etag is null ? "If-None-Match" : "If-Match", etag ?? "*"),
            stop
        );

    /// <summary>Takes a card out, if it is still the one that was read.</summary>
    public Task<ServiceAnswer> RemoveAsync(ConnectionAccess access, StoredCard card, CancellationToken stop) =>
        SendAsync(
            access,
            HttpMethod.Delete,
            card.Href,
            null,
            null,
            r => r.Headers.TryAddWithoutValidation("If-Match", card.ETag),
            stop
        );

    /// <summary>Puts a file into a folder, which is made where it is not there.</summary>
    public async Task<ServiceAnswer> PutFileAsync(
        ConnectionAccess access,
        Uri href,
        byte[] bytes,
        string type,
        CancellationToken stop
    )
    {
        async Task<ServiceAnswer> PutAsync()
        {
            using var request = new HttpRequestMessage(HttpMethod.Put, href) { Content = new ByteArrayContent(bytes) };
            request.Content.Headers.ContentType = MediaTypeHeaderValue.Parse(type);
            Prove(request, access);
            return await http.SendAsync(access, request, stop);
        }

        var answer = await PutAsync();
        if (answer.Status is not (404 or 409))
            return answer;
        // RFC 4918 §9.7.1: 409 says that a folder above it is missing.
        var made = await SendAsync(access, new HttpMethod("MKCOL"), new Uri(href, "."), null, null, null, stop);
        return made.Ok || made.Status == 405 ? await PutAsync() : answer;
    }

    private async Task<XElement?> AskAsync(ConnectionAccess access, Uri at, string depth, CancellationToken stop)
    {
        var wanted = new XElement(
            D + "propfind",
            new XElement(
                D + "prop",
                new XElement(D + "resourcetype"),
                new XElement(D + "displayname"),
                new XElement(D + "current-user-principal"),
                new XElement(C + "addressbook-home-set")
            )
        );
        var answer = await SendAsync(
            access,
            new HttpMethod("PROPFIND"),
            at,
            wanted.ToString(),
            "application/xml",
            r => r.Headers.Add("Depth", depth),
            stop
        );
        if (answer.Status is 404 or 405 or 501)
            return null;
        if (!answer.Ok)
            throw new ServiceTroubleException(answer.Fault!, answer.Status);
        return Read(answer.Text) ?? throw new ServiceTroubleException("answered with something that is no multistatus");
    }

    private static Uri? HrefOf(XElement told, XName property) =>
        told.Descendants(property).Descendants(D + "href").FirstOrDefault() is { } href
        && Uri.TryCreate(href.Value.Trim(), UriKind.RelativeOrAbsolute, out var uri)
            ? uri
            : null;

    private static Uri? PrincipalOf(XElement told) => HrefOf(told, D + "current-user-principal");

    private static Uri? HomeOf(XElement told) => HrefOf(told, C + "addressbook-home-set");

    private static List<ListItem> BooksIn(XElement told) =>
        [
            .. told.Descendants(D + "response")
                .Where(r => r.Descendants(C + "addressbook").Any())
                .Take(MostBooks)
                .Select(r =>
                    (
                        Href: (string?)r.Element(D + "href") ?? "",
                        Name: (string?)r.Descendants(D + "displayname").FirstOrDefault()
                    )
                )
                .Where(b => b.Href.Length > 0)
                .Select(b => new ListItem(b.Href, string.IsNullOrWhiteSpace(b.Name) ? b.Href : b.Name)),
        ];

    private async Task<ServiceAnswer> SendAsync(
        ConnectionAccess access,
        HttpMethod method,
        Uri at,
        string? body,
        string? type,
        Action<HttpRequestMessage>? more,
        CancellationToken stop
    )
    {
        using var request = new HttpRequestMessage(method, new Uri(access.BaseUrl, at));
        if (body is not null)
            request.Content = new StringContent(body, Encoding.UTF8, type!);
        Prove(request, access);
        more?.Invoke(request);
        return await http.SendAsync(access, request, stop);
    }

    private static void Prove(HttpRequestMessage request, ConnectionAccess access) =>
        request.Headers.Authorization = ConnectorHttp.Basic(
            access.Details.GetValueOrDefault("user") ?? "",
            access.Token
        );

    // What comes from outside names no files and no entities.
    private static XElement? Read(string text)
    {
        try
        {
            using var reader = XmlReader.Create(
                new StringReader(text),
                new XmlReaderSettings { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null }
            );
            return XElement.Load(reader);
        }
        catch (XmlException)
        {
            return null;
        }
    }
}
