using System.Net;
using System.Text;
using LitFuse.Server.Features.Accounts;
using LitFuse.Server.Features.Sources;

namespace LitFuse.Server.Features.Intake;

/// <summary>
/// The form as it is pasted into a page: plain HTML that works with JavaScript switched off, and one small script that
/// makes it kinder where it runs.
/// </summary>
public static class EmbedSnippet
{
    /// <summary>The HTML to paste.</summary>
    /// <param name="form">The form.</param>
    /// <param name="publicUrl">Where visitors reach this server.</param>
    public static string For(Form form, string publicUrl)
    {
        var html = new StringBuilder();
        html.Append($"<form class=\"lf-form\" action=\"{publicUrl}/in/{Encode(form.Key)}\" method=\"post\">\n");
        foreach (var field in form.Fields) Append(html, form, field);
        html.Append("  <p><button type=\"submit\">Send</button></p>\n");
        html.Append("</form>\n");
        html.Append($"<script src=\"{publicUrl}/embed.js\" defer></script>\n");
        return html.ToString();
    }

    /// <summary>Maps the script.</summary>
    public static void Map(IEndpointRouteBuilder app) =>
        app.MapGet("/embed.js", static () => TypedResults.Text(Script, "text/javascript; charset=utf-8")).OpenToAnyone("pages with our form load it").ExcludeFromDescription();

    private static void Append(StringBuilder html, Form form, FormField field)
    {
        var id = Encode($"lf-{form.Key}-{field.Name}");
        var required = field.Required ? " required" : "";
        html.Append($"  <p><label for=\"{id}\">{Encode(field.Label)}</label>\n");
        switch (field.Type)
        {
            case FormFieldType.Choice:
                html.Append($"  <select id=\"{id}\" name=\"{Encode(field.Name)}\"{required}>\n    <option value=\"\">Choose…</option>\n");
                foreach (var choice in field.Choices) html.Append($"    <option>{Encode(choice)}</option>\n");
                html.Append("  </select></p>\n");
                break;
            case FormFieldType.LongText:
                html.Append($"  <textarea id=\"{id}\" name=\"{Encode(field.Name)}\" rows=\"3\" maxlength=\"2000\"{required}></textarea></p>\n");
                break;
            default:
                var (type, complete) = field.Type switch
                {
                    FormFieldType.Email => ("email", "email"),
                    FormFieldType.Phone => ("tel", "tel"),
                    _ => ("text", field.Name is "first_name" ? "given-name" : field.Name is "last_name" ? "family-name" : field.Name is "full_name" ? "name" : "on"),
                };
                html.Append($"  <input id=\"{id}\" name=\"{Encode(field.Name)}\" type=\"{type}\" autocomplete=\"{complete}\" maxlength=\"250\"{required}></p>\n");
                break;
        }
    }

    private static string Encode(string text) => WebUtility.HtmlEncode(text);

    // Gives the submission an id of its own (a second press or a retry has one effect), keeps the typed words on the
    // page while the network is away, and tries again by itself. On any surprise the browser's own post takes over.
    private const string Script = """
        for (const form of document.querySelectorAll("form.lf-form")) {
          const hidden = (name, value) => {
            if (!value || form.elements.namedItem(name)) return;
            const input = document.createElement("input");
            input.type = "hidden"; input.name = name; input.value = value; form.append(input);
          };
          const here = new URL(location.href);
          hidden("id", crypto.randomUUID ? crypto.randomUUID() : String(Date.now()) + Math.random().toString(36).slice(2));
          hidden("landing_path", here.pathname);
          for (const name of ["utm_source", "utm_medium", "utm_campaign", "utm_term", "utm_content"]) hidden(name, here.searchParams.get(name));
          const note = document.createElement("p");
          note.setAttribute("role", "status"); form.append(note);
          const button = form.querySelector("button[type=submit]");
          form.addEventListener("submit", async (event) => {
            event.preventDefault();
            if (button.disabled) return;
            button.disabled = true; note.textContent = "Sending…";
            for (let tries = 1; tries <= 6; tries++) {
              try {
                const answer = await fetch(form.action, { method: "POST", headers: { Accept: "application/json" }, body: new URLSearchParams(new FormData(form)) });
                if (answer.status === 202) {
                  const { thankYou } = await answer.json();
                  if (thankYou) location.assign(thankYou);
                  else { note.textContent = "Thank you. Your answers have arrived."; form.reset(); }
                  return;
                }
                if (answer.status !== 429 && answer.status !== 503) break;
              } catch { /* the network is away: try again */ }
              note.textContent = "Not sent yet; trying again. Your answers stay here.";
              await new Promise((then) => setTimeout(then, Math.min(1000 * 2 ** tries, 15000)));
            }
            button.disabled = false;
            note.textContent = "";
            form.submit();
          });
        }
        """;
}
