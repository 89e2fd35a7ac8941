using LitFuse.Backlot.Front;
using Microsoft.AspNetCore.Mvc;

namespace LitFuse.Backlot.Adverts;

/// <summary>
/// The screens on which people make forms and fill them in; the same for every service that has forms, under its own
/// address.
/// </summary>
/// <param name="Service">As in the address.</param>
/// <param name="Title">As people call it.</param>
/// <param name="PlaceWord">What its parts are called.</param>
/// <param name="Sent">Takes what a person sent; answers where they go, or <c>null</c> for a plain thank-you.</param>
/// <param name="More">What else stands on a form's page, as HTML.</param>
/// <param name="Given">What the service fills in for the person beforehand.</param>
public sealed record FormDesk(
    string Service,
    string Title,
    string PlaceWord,
    AdForms Forms,
    Func<AdForm, IReadOnlyDictionary<string, string>, string?> Sent,
    Func<AdForm, string>? More = null,
    IReadOnlyDictionary<string, string>? Given = null
)
{
    /// <summary>Maps the screens.</summary>
    public void Map(WebApplication app, string extra = "")
    {
        var at = app.MapGroup("/" + Service).DisableAntiforgery();
        at.MapGet("", () => Paper.Page(Title, Front() + extra));
        at.MapGet("forms/{id}", (string id) =>
            Forms.Find(id) is { } form ? Paper.Page(form.Title, FormPage(form)) : Results.NotFound()
        );
        at.MapGet("fill/{id}", (string id) =>
            Forms.Find(id) is { Archived: false } form ? Paper.Page(form.Title, Fill(form)) : Results.NotFound()
        );
        at.MapPost("fill/{id}", (string id, [FromForm] IFormCollection given) =>
            Forms.Find(id) is { Archived: false } form ? Take(form, given) : Results.NotFound()
        );
        at.MapPost("make", ([FromForm] string place, [FromForm] string title) =>
            Results.Redirect($"/{Service}/forms/{Forms.Make(place, title).Id}")
        );
        at.MapPost("forms/{id}/{act}", async (string id, string act, HttpContext http) =>
        {
            if (Forms.Find(id) is not { } form)
                return Results.NotFound();
            // A form of a button alone has an empty body, which no binding takes.
            var given = http.Request.HasFormContentType ? await http.Request.ReadFormAsync() : FormCollection.Empty;
            var after = Change(form, act, given);
            return after is null ? Results.BadRequest() : Results.Redirect($"/{Service}/forms/{after.Id}");
        });
    }

    private AdForm? Change(AdForm form, string act, IFormCollection given)
    {
        string Said(string name) => given[name].ToString().Trim();
        if (act == "copy")
            return Forms.Copy(form);
        var after = act switch
        {
            "rename" when Said("title").Length > 0 => form with { Title = Said("title") },
            "ad" => form with { Ad = Said("ad") },
            "archive" => form with { Archived = !form.Archived },
            "ask" when Said("words").Length > 0 => form with
            {
                Asks =
                [
                    .. form.Asks,
                    new(
                        form.FreeName(Said("words")),
                        Said("choices").Length > 0 ? "choice" : "short",
                        Said("words"),
                        false,
                        [
                            .. Said("choices")
                                .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries),
                        ]
                    ),
                ],
            },
            "reword" => form with
            {
                Asks = [.. form.Asks.Select(a => a.Name == Said("ask") ? a with { Words = Said("words") } : a)],
            },
            "drop" => form with { Asks = [.. form.Asks.Where(a => a.Name != Said("ask"))] },
            _ => null,
        };
        if (after is not null)
            Forms.Put(after);
        return after;
    }

    private IResult Take(AdForm form, IFormCollection given)
    {
        var answers = form
            .Asks.Select(a =>
                KeyValuePair.Create(
                    a.Name,
                    string.Join(", ", given[a.Name].Where(v => !string.IsNullOrWhiteSpace(v))).Trim()
                )
            )
            .Where(a => a.Value.Length > 0)
            .ToDictionary(StringComparer.Ordinal);
        if (form.Asks.FirstOrDefault(a => a.Must && !answers.ContainsKey(a.Name)) is { } missing)
            return Paper.Page(
                form.Title,
                $"<p role=\"alert\"><strong>“{Paper.Text(missing.Words)}” must be answered.</strong></p>" + Fill(form)
            );
        return Sent(form, answers) is { } onwards
            ? Results.Redirect(onwards)
            : Paper.Page(
                form.Title,
                $"<h1>Sent</h1><p>{Title} thanks you on behalf of {Paper.Text(PlaceOf(form))}.</p><p><a href=\"/{Service}/fill/{form.Id}\">Fill it in again</a></p>"
            );
    }

    private string Front()
    {
        var lists = Forms.Places.Select(p =>
            $"<h2>{Paper.Text(p.Name)}</h2><ul>{string.Concat(Forms.Of(p.Id).Select(f => $"<li><a href=\"/{Service}/forms/{f.Id}\">{Paper.Text(f.Title)}</a>{(f.Event is null ? "" : " (sign-ups for an event)")} · ad {f.Ad}{(f.Archived ? " · <strong>archived</strong>" : $" · <a href=\"/{Service}/fill/{f.Id}\">fill it in as a person</a>")}</li>").DefaultIfEmpty("<li>No form.</li>"))}</ul>"
        );
        var options = string.Concat(
            Forms.Places.Select(p => $"<option value=\"{p.Id}\">{Paper.Text(p.Name)}</option>")
        );
        return $"<h1>{Title}</h1>{string.Concat(lists)}<form method=\"post\" action=\"/{Service}/make\"><h2>Make a form</h2><p><label>For <select name=\"place\">{options}</select></label> <label>called <input name=\"title\" required></label> <button>Make it</button></p></form>";
    }

    private string FormPage(AdForm form)
    {
        string Act(string act, string inside) =>
            $"<form method=\"post\" action=\"/{Service}/forms/{form.Id}/{act}\">{inside}</form>";
        var asks = form.Asks.Select(a =>
            $"<tr><td>{Act("reword", $"<input type=\"hidden\" name=\"ask\" value=\"{a.Name}\"><input name=\"words\" aria-label=\"Words of {a.Name}\" value=\"{Paper.Text(a.Words)}\"> <button>Reword</button>")}</td><td>{a.Kind}{(a.Must ? ", must" : "")}</td><td class=\"small\">{Paper.Text(string.Join(" / ", a.Choices))}</td><td>{Act("drop", $"<input type=\"hidden\" name=\"ask\" value=\"{a.Name}\"><button>Drop</button>")}</td></tr>"
        );
        var ads = string.Concat(
            new[] { "running", "waiting", "stopped" }.Select(s =>
                $"<option{(s == form.Ad ? " selected" : "")}>{s}</option>"
            )
        );
        return $"""
            <p><a href="/{Service}">{Title}</a> · {Paper.Text(PlaceOf(form))}</p><h1>{Paper.Text(form.Title)}{(
                form.Archived ? " (archived)" : ""
            )}</h1>
            {(form.Archived ? "" : $"<p><a href=\"/{Service}/fill/{form.Id}\">Fill it in as a person</a></p>")}
            {More?.Invoke(form)}
            <h2>What it asks</h2><table><tbody>{string.Concat(asks)}</tbody></table>
            {Act(
                "ask",
                "<p><label>Ask something new <input name=\"words\" required></label> <label>choices, with commas <input name=\"choices\"></label> <button>Add</button></p>"
            )}
            <h2>The form</h2>{Act(
                "rename",
                $"<p><label>Its name <input name=\"title\" value=\"{Paper.Text(form.Title)}\"></label> <button>Rename</button></p>"
            )}
            {Act("ad", $"<p><label>Its ad is <select name=\"ad\">{ads}</select></label> <button>Set</button></p>")}
            {Act("copy", "<p><button>Copy it</button></p>")}{Act(
                "archive",
                $"<p><button>{(form.Archived ? "Bring it back" : "Archive it")}</button></p>"
            )}
            """;
    }

    private string Fill(AdForm form)
    {
        string Field(Ask ask)
        {
            var (id, must, value) = (
                $"a-{ask.Name}",
                ask.Must ? " required" : "",
                Paper.Text(Given?.GetValueOrDefault(ask.Name) ?? "")
            );
            return ask.Kind switch
            {
                "choice" =>
                    $"<p><label for=\"{id}\">{Paper.Text(ask.Words)}</label><br><select id=\"{id}\" name=\"{ask.Name}\"{must}><option value=\"\">Choose…</option>{string.Concat(ask.Choices.Select(c => $"<option>{Paper.Text(c)}</option>"))}</select></p>",
                "choices" =>
                    $"<fieldset><legend>{Paper.Text(ask.Words)}</legend>{string.Concat(ask.Choices.Select(c => $"<label><input type=\"checkbox\" name=\"{ask.Name}\" value=\"{Paper.Text(c)}\"> {Paper.Text(c)}</label> "))}</fieldset>",
                "long" =>
                    $"<p><label for=\"{id}\">{Paper.Text(ask.Words)}</label><br><textarea id=\"{id}\" name=\"{ask.Name}\"{must}></textarea></p>",
                _ =>
                    $"<p><label for=\"{id}\">{Paper.Text(ask.Words)}</label><br><input id=\"{id}\" name=\"{ask.Name}\" type=\"{(ask.Kind == "email" ? "email" : ask.Kind == "phone" ? "tel" : "text")}\" value=\"{value}\"{must}></p>",
            };
        }

        var stopped =
            form.Ad == "running"
                ? ""
                : $"<p class=\"small\">Its ad is {form.Ad}: nobody is shown it at the moment.</p>";
        return $"<p class=\"small\">An advertisement of {Paper.Text(PlaceOf(form))} on {Title}</p><h1>{Paper.Text(form.Event ?? form.Title)}</h1>{stopped}<form method=\"post\" action=\"/{Service}/fill/{form.Id}\">{string.Concat(form.Asks.Select(Field))}<p><button>Send</button></p></form>";
    }

    private string PlaceOf(AdForm form) => Forms.Places.First(p => p.Id == form.PlaceId).Name;
}
