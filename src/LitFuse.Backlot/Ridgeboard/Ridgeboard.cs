using LitFuse.Backlot.Faults;
using LitFuse.Backlot.Front;

namespace LitFuse.Backlot.Ridgeboard;

/// <summary>A place to post to.</summary>
public sealed record Place(string Key, string Name);

/// <summary>A post.</summary>
/// <param name="Channel">A channel with its #, or a person with an @.</param>
/// <param name="Status">What stands under it now.</param>
/// <param name="Links">To be pressed.</param>
public sealed record Post(
    int Id,
    string Channel,
    string From,
    string Text,
    DateTimeOffset At,
    string? IdempotencyKey,
    string? Status = null,
    IReadOnlyList<PostLink>? Links = null
)
{
    /// <summary>Answers, each under its label.</summary>
    public IReadOnlyList<PostBlock> Blocks { get; init; } = [];

    /// <summary>The address of a picture beside it.</summary>
    public string? Picture { get; init; }
}

/// <summary>An answer under a post.</summary>
public sealed record PostBlock(string Label, string Value);

/// <summary>A link under a post.</summary>
public sealed record PostLink(string Label, string Url);

/// <summary>What a caller wants posted.</summary>
public sealed record PostToMake(
    string? To,
    string? From,
    string? Text,
    IReadOnlyList<PostLink>? Links,
    string? Picture = null,
    IReadOnlyList<PostBlock>? Blocks = null
);

/// <summary>What is to stand under a post from now on.</summary>
public sealed record PostToChange(string? Status, IReadOnlyList<PostLink>? Links);

/// <summary>The team's chat: channels, people, posts.</summary>
public sealed class Board(TimeProvider time)
{
    private const int Most = 50_000;
    private readonly List<Post> posts = [];
    private int last;
    private readonly Dictionary<string, Post> byKey = new(StringComparer.Ordinal);

    /// <summary>Channels, by the business they belong to.</summary>
    public static IReadOnlyList<Place> Channels { get; } =
    [new("#ride-desk", "ride-desk"), new("#booth-quotes", "booth-quotes"), new("#marquee-dates", "marquee-dates")];

    /// <summary>People.</summary>
    public static IReadOnlyList<Place> People { get; } =
    [
        new("imke.sandoval", "Imke Sandoval"),
        new("tobias.renn", "Tobias Renn"),
        new("adaeze.whitlock", "Adaeze Whitlock"),
        new("marguerite.oyelaran", "Marguerite Oyelaran"),
        new("pim.castellan", "Pim Castellan"),
        new("siobhra.quill", "Siobhra Quill"),
    ];

    /// <summary>Posts once per key, unless keys are ignored.</summary>
    public Post Add(string channel, PostToMake make, string? key)
    {
        lock (posts)
        {
            if (key is not null && byKey.TryGetValue(key, out var before))
                return before;
            var post = new Post(
                ++last,
                channel,
                make.From ?? "",
                make.Text ?? "",
                time.GetUtcNow(),
                key,
                Links: make.Links
            )
            {
                Blocks = make.Blocks ?? [],
                Picture = make.Picture,
            };
            posts.Add(post);
            if (key is not null)
                byKey[key] = post;
            return post;
        }
    }

    /// <summary>Changes what stands under a post.</summary>
    public Post? Change(int id, PostToChange to)
    {
        lock (posts)
        {
            var at = posts.FindIndex(p => p.Id == id);
            return at < 0 ? null : posts[at] = posts[at] with { Status = to.Status, Links = to.Links };
        }
    }

    /// <summary>Takes a post back.</summary>
    public bool Remove(int id)
    {
        lock (posts)
            return posts.RemoveAll(p => p.Id == id) > 0;
    }

    /// <summary>Posts in a channel, or all, oldest first.</summary>
    public IReadOnlyList<Post> In(string? channel)
    {
        var name = channel?.TrimStart('#', '@');
        lock (posts)
            return posts.Where(p => string.IsNullOrEmpty(name) || p.Channel[1..] == name).TakeLast(Most).ToList();
    }
}

/// <summary>Ridgeboard's API and screen.</summary>
public static class RidgeboardApi
{
    /// <summary>Maps them.</summary>
    public static void Map(WebApplication app)
    {
        app.MapGet("/api/ridgeboard/places", (HttpContext http, Grounds grounds) =>
            http.Request.Headers.Authorization != "Bearer " + grounds.TokenOf("ridgeboard")
                ? Results.Problem("The token is not right.", statusCode: 401)
                : Results.Ok(new { Board.Channels, Board.People })
        );
        app.MapGet("/api/ridgeboard/posts", (Board board, string? channel) => board.In(channel));
        app.MapPost(
            "/api/ridgeboard/posts",
            (PostToMake make, HttpContext http, Board board, Grounds grounds, FaultBoard faults) =>
            {
                if (http.Request.Headers.Authorization != "Bearer " + grounds.TokenOf("ridgeboard"))
                    return Results.Problem("The token is not right.", statusCode: 401);
                if (string.IsNullOrWhiteSpace(make.Text))
                    return Results.Problem("There is no text in the post.", statusCode: 422);
                var channel =
                    Board.Channels.Any(c => c.Key == make.To) ? make.To!
                    : Board.People.Any(p => p.Key == make.To) ? "@" + make.To
                    : null;
                if (channel is null)
                    return Results.Problem($"There is no channel or person '{make.To}'.", statusCode: 404);
                var fault = faults.Of("ridgeboard");
                var key = fault.IgnoreKeys ? null : http.Request.Headers["Idempotency-Key"].FirstOrDefault();
                var post = board.Add(channel, make, key);
                if (fault.Repeat)
                    board.Add(channel, make, key);
                return Results.Ok(
                    new
                    {
                        post.Id,
                        post.Channel,
                        post.From,
                        post.Text,
                        post.At,
                        post.IdempotencyKey,
                        Url = $"{grounds.Url}/ridgeboard?channel={Uri.EscapeDataString(post.Channel)}#post-{post.Id}",
                    }
                );
            }
        );
        app.MapPatch(
            "/api/ridgeboard/posts/{id:int}",
            (int id, PostToChange change, HttpContext http, Board board, Grounds grounds) =>
                http.Request.Headers.Authorization != "Bearer " + grounds.TokenOf("ridgeboard")
                    ? Results.Problem("The token is not right.", statusCode: 401)
                : board.Change(id, change) is { } post ? Results.Ok(post)
                : Results.Problem("There is no such post.", statusCode: 404)
        );
        app.MapDelete("/api/ridgeboard/posts/{id:int}", (int id, HttpContext http, Board board, Grounds grounds) =>
            http.Request.Headers.Authorization != "Bearer " + grounds.TokenOf("ridgeboard")
                ? Results.Problem("The token is not right.", statusCode: 401)
            : board.Remove(id) ? Results.NoContent()
            : Results.Problem("There is no such post.", statusCode: 404)
        );
        app.MapGet("/ridgeboard", (Board board, string? channel) =>
            Paper.Page("Ridgeboard", Screen(board, channel ?? "#ride-desk"), refresh: "posts")
        );
    }

    private static string Screen(Board board, string channel)
    {
        var places = Board
            .Channels.Concat(Board.People.Select(p => new Place("@" + p.Key, p.Name)))
            .Select(p =>
                $"<li><a href=\"/ridgeboard?channel={Uri.EscapeDataString(p.Key)}\"{(p.Key == channel ? " aria-current=\"page\"" : "")}>{Paper.Text(p.Key[0] == '@' ? p.Name : p.Key)}</a> <span>{board.In(p.Key).Count}</span></li>"
            );
        var posts = board
            .In(channel)
            .TakeLast(100)
            .Select(p =>
                $"<article id=\"post-{p.Id}\"><h2>{Face(p)}{Paper.Text(p.From)} <time>{p.At:HH:mm:ss.fff}</time></h2><pre>{Paper.Text(p.Text)}</pre>{Answers(p)}{Under(p)}</article>"
            );
        return $"<div class=\"two\"><nav aria-label=\"Channels and people\"><ul>{string.Concat(places)}</ul></nav><section id=\"posts\" aria-live=\"polite\"><h1>{Paper.Text(channel)}</h1>{string.Concat(posts.DefaultIfEmpty("<p>Nobody has posted here yet.</p>"))}</section></div>";
    }

    private static string Face(Post post) =>
        Uri.TryCreate(post.Picture, UriKind.Absolute, out var at) && at.Scheme is "http" or "https"
            ? $"<img src=\"{Paper.Text(post.Picture!)}\" alt=\"\" width=\"32\" height=\"32\"> "
            : "";

    private static string Answers(Post post) =>
        post.Blocks.Count == 0
            ? ""
            : $"<dl class=\"blocks\">{string.Concat(post.Blocks.Select(b => $"<div><dt>{Paper.Text(b.Label)}</dt><dd>{Paper.Text(b.Value)}</dd></div>"))}</dl>";

    private static string Under(Post post)
    {
        var links = (post.Links ?? [])
            .Where(l => Uri.TryCreate(l.Url, UriKind.Absolute, out var to) && to.Scheme is "http" or "https")
            .Select(l => $"<a class=\"press\" href=\"{Paper.Text(l.Url)}\">{Paper.Text(l.Label)}</a>");
        return string.Concat(
            links.Prepend(post.Status is { } status ? $"<p class=\"status\">{Paper.Text(status)}</p>" : "")
        );
    }
}
