using System.Text;
using System.Xml.Linq;
using LitFuse.Backlot.Faults;

namespace LitFuse.Backlot.Namewell;

/// <summary>
/// Namewell's doors: CardDAV (RFC 6352) for books, and WebDAV (RFC 4918) for a folder; user and password (RFC 7617).
/// </summary>
public static class DavApi
{
    private const string Service = "namewell";
    private const int MostBytes = 32 * 1024 * 1024;
    private static readonly XNamespace D = "DAV:";
    private static readonly XNamespace C = "urn:ietf:params:xml:ns:carddav";

    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        app.MapMethods("/.well-known/carddav", ["GET", "PROPFIND"], () =>
            Results.Redirect("/dav/", permanent: true, preserveMethod: true)
        );
        app.MapMethods(
            "/dav/{**path}",
            ["OPTIONS", "PROPFIND", "REPORT", "GET", "PUT", "DELETE", "MKCOL"],
            HandleAsync
        );
    }

    private static async Task<IResult> HandleAsync(
        HttpContext http,
        Books books,
        Grounds grounds,
        FaultBoard faults,
        string? path
    )
    {
        if (http.Request.Method == "OPTIONS")
        {
            http.Response.Headers.Append("DAV", "1, 3, addressbook");
            return Results.Ok();
        }

        var proof = Convert.ToBase64String(Encoding.UTF8.GetBytes($"team:{grounds.TokenOf(Service)}"));
        if (books.Withdrawn || http.Request.Headers.Authorization.ToString() != "Basic " + proof)
        {
            http.Response.Headers.WWWAuthenticate = "Basic realm=\"Namewell\"";
            return Results.StatusCode(401);
        }

        using var body = new MemoryStream();
        if (http.Request.ContentLength > MostBytes)
            return Results.StatusCode(413);
        await http.Request.Body.CopyToAsync(body, http.RequestAborted);
        var parts = (path ?? "").Split('/', StringSplitOptions.RemoveEmptyEntries);
        if (parts is ["files", .. var file])
            return Folder(http, books, string.Join('/', file), body.ToArray());
        if (parts is ["books", var key, ..] && Books.All.All(b => b.Key != key))
            return Results.NotFound();
        return (http.Request.Method, parts) switch
        {
            ("PROPFIND", []) => Multi(
                Answer("/dav/", new XElement(D + "current-user-principal", Href("/dav/principals/team/")), Kind())
            ),
            ("PROPFIND", ["principals", "team"]) => Multi(
                Answer("/dav/principals/team/", new XElement(C + "addressbook-home-set", Href("/dav/books/")))
            ),
            ("PROPFIND", ["books"]) => Multi([
                Answer("/dav/books/", Kind()),
                .. http.Request.Headers["Depth"] == "0" ? [] : Books.All.Select(AnswerOf),
            ]),
            ("PROPFIND", ["books", var book]) => Multi([
                AnswerOf(Books.All.First(b => b.Key == book)),
                .. http.Request.Headers["Depth"] == "0"
                    ? []
                    : books
                        .Of(book)
                        .Select(c => Answer($"/dav/books/{book}/{c.Name}", new XElement(D + "getetag", c.ETag))),
            ]),
            ("REPORT", ["books", var book]) => Report(books, book, body.ToArray()),
            ("GET", ["books", var book, var name]) => books.Find(book, name) is { } card
                ? Told(http, card.Text, card.ETag)
                : Results.NotFound(),
            ("PUT", ["books", var book, var name]) => Put(
                http,
                books,
                book,
                name,
                body.ToArray(),
                faults.Of(Service).Repeat
            ),
            ("DELETE", ["books", var book, var name]) => Delete(http, books, book, name),
            _ => Results.NotFound(),
        };
    }

    private static XElement AnswerOf(Book book) =>
        Answer($"/dav/books/{book.Key}/", Kind(C + "addressbook"), new XElement(D + "displayname", book.Name));

    private static IResult Put(HttpContext http, Books books, string book, string name, byte[] body, bool twice)
    {
        var now = books.Find(book, name);
        if (http.Request.ContentType?.StartsWith("text/vcard", StringComparison.OrdinalIgnoreCase) != true)
            return Results.StatusCode(415);
        if (http.Request.Headers.IfNoneMatch == "*" && now is not null)
            return Results.StatusCode(412);
        if (http.Request.Headers.IfMatch.ToString() is { Length: > 0 } tag && tag != now?.ETag)
            return Results.StatusCode(412);
        var text = Encoding.UTF8.GetString(body);
        if (
            !text.StartsWith("BEGIN:VCARD\r\n", StringComparison.Ordinal)
            || !text.TrimEnd().EndsWith("END:VCARD", StringComparison.Ordinal)
            || !Books.Values(text, "FN").Any()
            || Books.Values(text, "UID").FirstOrDefault() is not { } uid
        )
            return Results.Problem("That is no vCard.", statusCode: 403);
        // RFC 6352 §6.3.2.1: no two cards of a book have the same UID.
        if (books.WithUid(book, uid) is { } other && other.Name != name)
            return Results.Problem("Another card has that UID.", statusCode: 409);
        var card = books.Put(book, name, text);
        if (twice)
            card = books.Put(book, name, text);
        http.Response.Headers.ETag = card.ETag;
        return Results.StatusCode(now is null ? 201 : 204);
    }

    private static IResult Delete(HttpContext http, Books books, string book, string name)
    {
        if (books.Find(book, name) is not { } card)
            return Results.NotFound();
        if (http.Request.Headers.IfMatch.ToString() is { Length: > 0 } tag && tag != card.ETag)
            return Results.StatusCode(412);
        books.Remove(book, name);
        return Results.NoContent();
    }

    // addressbook-query (RFC 6352 §8.6): prop-filters with text-match, any or all of them.
    private static IResult Report(Books books, string book, byte[] body)
    {
        XElement query;
        try
        {
            query = XElement.Load(new MemoryStream(body));
        }
        catch (System.Xml.XmlException e)
        {
            return Results.Problem(e.Message, statusCode: 400);
        }

        if (query.Name != C + "addressbook-query")
            return Results.Problem("There is no such report.", statusCode: 403);
        var filter = query.Element(C + "filter");
        var wanted = filter
            ?.Elements(C + "prop-filter")
            .Select(p =>
                (
                    Name: (string?)p.Attribute("name") ?? "",
                    Text: (string?)p.Element(C + "text-match") ?? "",
                    Type: (string?)p.Element(C + "text-match")?.Attribute("match-type") ?? "contains"
                )
            )
            .ToList()
            ?? [];
        bool Has(Card c, (string Name, string Text, string Type) w) =>
            Books
                .Values(c.Text, w.Name.ToUpperInvariant())
                .Any(v =>
                    w.Type == "equals"
                        ? v.Equals(w.Text, StringComparison.OrdinalIgnoreCase)
                        : v.Contains(w.Text, StringComparison.OrdinalIgnoreCase)
                );
        var all = (string?)filter?.Attribute("test") == "allof";
        // Asked for by UID, which there is once: no book is read from end to end.
        if (wanted is [{ Name: "UID", Text: var uid }] && books.WithUid(book, uid) is { } known)
            return Multi([AnswerOf(book, known)]);
        if (wanted is [{ Name: "UID", Text: { Length: >= 32 } }])
            return Multi();
        var found = books.Of(book).Where(c => all ? wanted.TrueForAll(w => Has(c, w)) : wanted.Exists(w => Has(c, w)));
        return Multi([.. found.Select(c => AnswerOf(book, c))]);
    }

    private static XElement AnswerOf(string book, Card card) =>
        Answer(
            $"/dav/books/{book}/{card.Name}",
            new XElement(D + "getetag", card.ETag),
            new XElement(C + "address-data", card.Text)
        );

    private static IResult Folder(HttpContext http, Books books, string path, byte[] body)
    {
        var parent = path.Contains('/', StringComparison.Ordinal) ? path[..path.LastIndexOf('/')] : "";
        var there = parent.Length == 0 || books.Folders.ContainsKey(parent);
        switch (http.Request.Method)
        {
            case "PROPFIND" when path.Length == 0 || books.Folders.ContainsKey(path):
                return Multi([
                    Answer($"/dav/files/{path}", Kind()),
                    .. books
                        .Files.Where(f =>
                            f.Key.StartsWith(path.Length == 0 ? "" : path + "/", StringComparison.Ordinal)
                        )
                        .Select(f =>
                            Answer(
                                "/dav/files/" + f.Key,
                                new XElement(D + "getetag", f.Value.ETag),
                                new XElement(D + "getcontentlength", f.Value.Bytes.Length)
                            )
                        ),
                ]);
            case "MKCOL":
                return !there ? Results.StatusCode(409)
                    : books.Folders.TryAdd(path, 0) ? Results.StatusCode(201)
                    : Results.StatusCode(405);
            case "PUT":
                if (!there)
                    return Results.StatusCode(409);
                var fresh = !books.Files.ContainsKey(path);
                books.Files[path] = new(
                    body,
                    http.Request.ContentType ?? "application/octet-stream",
                    Books.EtagOf(body),
                    DateTimeOffset.UtcNow
                );
                return Results.StatusCode(fresh ? 201 : 204);
            case "GET" when books.Files.TryGetValue(path, out var file):
                return Results.Bytes(file.Bytes, file.Type);
            case "DELETE" when books.Files.TryRemove(path, out _):
                return Results.NoContent();
            default:
                return Results.NotFound();
        }
    }

    private static IResult Told(HttpContext http, string card, string tag)
    {
        http.Response.Headers.ETag = tag;
        return Results.Text(card, "text/vcard; charset=utf-8");
    }

    private static XElement Href(string to) => new(D + "href", to);

    private static XElement Kind(XName? more = null) =>
        new(D + "resourcetype", new XElement(D + "collection"), more is null ? null : new XElement(more));

    private static XElement Answer(string href, params XElement[] props) =>
        new(
            D + "response",
            Href(href),
            new XElement(D + "propstat", new XElement(D + "prop", props), new XElement(D + "status", "HTTP/1.1 200 OK"))
        );

    private static IResult Multi(params IEnumerable<XElement> answers) =>
        Results.Text(
            new XDocument(
                new XElement(
                    D + "multistatus",
                    new XAttribute(XNamespace.Xmlns + "d", D.NamespaceName),
                    new XAttribute(XNamespace.Xmlns + "card", C.NamespaceName),
                    answers
                )
            ).ToString(),
            "application/xml; charset=utf-8",
            Encoding.UTF8,
            207
        );
}
