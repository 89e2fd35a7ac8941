using LitFuse.Backlot.Front;

namespace LitFuse.Backlot.Namewell;

/// <summary>Namewell as people see it: the books on their phones, who rings, and the folder.</summary>
public static class NamewellPages
{
    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        app.MapGet("/namewell", (Books books) => Paper.Page("Namewell", All(books), refresh: "books"));
        app.MapGet("/namewell/access", (Books books, Grounds grounds) =>
            Paper.Page("Namewell", Access(books, grounds))
        );
        app.MapPost("/namewell/access/{act}", (string act, Books books) =>
            {
                books.Withdrawn = act == "withdraw";
                return Results.Redirect("/namewell/access");
            })
            .DisableAntiforgery();
        app.MapGet("/namewell/ring", (string book, string from, Books books) =>
            Paper.Page("Namewell", Ring(books, book, from))
        );
        app.MapGet("/namewell/books/{book}/{name}", (string book, string name, Books books) =>
            books.Find(book, name) is { } card
                ? Paper.Page(
                    "Namewell",
                    $"<p><a href=\"/namewell\">All books</a></p><pre id=\"card\">{Paper.Text(card.Text)}</pre>"
                )
                : Results.NotFound()
        );
        app.MapGet("/api/seen/namewell/cards", (Books books) => Books.All.SelectMany(b =>
                books
                    .Of(b.Key)
                    .Select(c => new
                    {
                        Book = b.Key,
                        c.Name,
                        c.Text,
                        c.ETag,
                    })
            ));
        app.MapGet("/api/seen/namewell/files", (Books books) => books.Files.Select(f => new
            {
                Path = f.Key,
                f.Value.Bytes.Length,
                f.Value.Type,
            }));
        app.MapGet("/api/seen/namewell/files/{**path}", (string path, Books books) =>
            books.Files.TryGetValue(path, out var file) ? Results.Bytes(file.Bytes, file.Type) : Results.NotFound()
        );
    }

    private static string NameOf(Card card) => Books.Values(card.Text, "FN").FirstOrDefault() ?? card.Name;

    private static string All(Books books)
    {
        string Line(string book, Card c) =>
            $"<tr><td><a href=\"/namewell/books/{book}/{Uri.EscapeDataString(c.Name)}\">{Paper.Text(NameOf(c))}</a></td><td>{Paper.Text(string.Join(", ", Books.Values(c.Text, "TEL")))}</td><td>{Paper.Text(string.Join(", ", Books.Values(c.Text, "EMAIL")))}</td><td>{Paper.Text(string.Join(", ", Books.Values(c.Text, "ORG")))}</td></tr>";
        var sections = Books
            .All.Select(b => (Book: b, Cards: books.Of(b.Key)))
            .Where(b => b.Cards.Count > 0)
            .Select(b =>
                $"<h2>{Paper.Text(b.Book.Name)}</h2><table><tbody>{string.Concat(b.Cards.Take(100).Select(c => Line(b.Book.Key, c)))}</tbody></table>"
            );
        var files = books
            .Files.OrderBy(f => f.Key)
            .Select(f =>
                $"<li><a href=\"/api/seen/namewell/files/{Paper.Text(f.Key)}\">{Paper.Text(f.Key)}</a>, {f.Value.Bytes.Length} bytes</li>"
            );
        var options = Books.All.Select(b => $"<option value=\"{b.Key}\">{Paper.Text(b.Name)}</option>");
        return $"""
            <p><a href="/namewell/access">User and password</a></p><h1>Address books on phones</h1>
            <form action="/namewell/ring"><p><label>The phone of <select name="book">{string.Concat(
                options
            )}</select></label> <label>is rung from <input name="from" placeholder="+447700900123" required></label> <button>Ring</button></p></form>
            <section id="books">{string.Concat(
                sections.DefaultIfEmpty("<p>Nobody stands in them yet.</p>")
            )}<h2>The folder</h2><ul>{string.Concat(files.DefaultIfEmpty("<li>It is empty.</li>"))}</ul></section>
            """;
    }

    private static string Ring(Books books, string book, string from)
    {
        var digits = string.Concat(from.Where(char.IsAsciiDigit));
        bool Same(string number) =>
            string.Concat(number.Where(char.IsAsciiDigit)) is var own
            && own.Length > 6
            && (own == digits || own.EndsWith(digits.TrimStart('0'), StringComparison.Ordinal));
        var who = books
            .Of(book)
            .Concat(books.Of("everybody"))
            .FirstOrDefault(c => Books.Values(c.Text, "TEL").Any(Same));
        return $"<p><a href=\"/namewell\">All books</a></p><h1 id=\"ringing\">{Paper.Text(who is null ? from : NameOf(who))}</h1><p>{(who is null ? "is ringing, and nobody knows who that is." : "is ringing.")}</p>";
    }

    private static string Access(Books books, Grounds grounds) =>
        $"""
            <p><a href="/namewell">The books</a></p><h1>User and password</h1>
            <p>For programs that read and write address books (CardDAV) or files (WebDAV):</p>
            <table><tbody><tr><th scope="row">Address</th><td><code>{grounds.Url}/dav/</code></td></tr><tr><th scope="row">User</th><td><code>team</code></td></tr><tr><th scope="row">Password</th><td><code id="password">{(
                books.Withdrawn ? "taken back" : grounds.TokenOf("namewell")
            )}</code></td></tr></tbody></table>
            <form method="post" action="/namewell/access/{(books.Withdrawn ? "give" : "withdraw")}"><button>{(
                books.Withdrawn ? "Give it again" : "Take it back"
            )}</button></form>
            """;
}
