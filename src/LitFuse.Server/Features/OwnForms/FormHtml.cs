using System.Net;
using System.Text;
using LitFuse.Core.Forms;
using LitFuse.Core.Junk;
using LitFuse.Core.Payloads;

namespace LitFuse.Server.Features.OwnForms;

/// <summary>How a form is rendered.</summary>
/// <param name="PublicUrl">Where visitors reach this server.</param>
/// <param name="Key">The form's.</param>
/// <param name="Given">Answers to begin with.</param>
/// <param name="Amend">The token of the submission that is amended.</param>
/// <param name="Counted">The view has been counted already.</param>
public sealed record FormRendering(
    string PublicUrl,
    string Key,
    IReadOnlyDictionary<string, string>? Given = null,
    string? Amend = null,
    bool Counted = false
);

/// <summary>
/// A form as plain HTML: it works with scripts switched off, has no styles of its own, and may be restyled at will.
/// </summary>
public static class FormHtml
{
    /// <summary>The form alone.</summary>
    public static string Of(FormDesign design, FormRendering how)
    {
        var html = new StringBuilder();
        var (url, key) = (how.PublicUrl, Encode(how.Key));
        // Without scripts the look-over is a page of ours between the form and the door.
        var action = design.LookOver ? $"{url}/f/{key}/look" : $"{url}/in/{key}";
        html.Append(
            $"<form class=\"lf-form\" action=\"{action}\" method=\"post\" data-lf-key=\"{key}\"{(design.LookOver ? " data-lf-look" : "")}{(how.Counted ? " data-lf-counted" : "")}>\n"
        );
        if (design.Opening is { } opening)
        {
            if (opening.Picture is { } picture)
                html.Append($"  <p><img src=\"{Encode(picture)}\" alt=\"{Encode(opening.PictureWords ?? "")}\"></p>\n");
            html.Append($"  <h2>{Encode(opening.Headline)}</h2>\n");
            if (opening.Words.Length > 0)
                html.Append($"  <p>{Encode(opening.Words)}</p>\n");
        }

        foreach (var field in design.Fields)
            Append(html, field, $"lf-{key}-{Encode(field.Name)}", how.Given?.GetValueOrDefault(field.Name) ?? "");
        html.Append(
            $"  <p hidden aria-hidden=\"true\"><label>Leave this empty <input name=\"{Payload.OwnPrefix}{JunkScore.Trap}\" tabindex=\"-1\" autocomplete=\"off\"></label></p>\n"
        );
        if (how.Amend is { } amend)
            html.Append($"  <input type=\"hidden\" name=\"{Payload.OwnPrefix}amend\" value=\"{Encode(amend)}\">\n");
        if (design.Consent is { } consent)
            Append(html, consent);
        html.Append($"  <p><button type=\"submit\">{Encode(design.SendWords)}</button></p>\n");
        html.Append("</form>\n");
        return html.ToString();
    }

    /// <summary>To paste: the form, and the script that makes it kinder where scripts run.</summary>
    public static string ToPaste(FormDesign design, FormRendering how) =>
        Of(design, how) + $"<script src=\"{how.PublicUrl}/embed.js\" defer></script>\n";

    /// <summary>One answer after another, to look over, with a form that sends them.</summary>
    public static string LookOver(
        FormDesign design,
        FormRendering how,
        Payload payload,
        IEnumerable<KeyValuePair<string, string>> all
    )
    {
        var html = new StringBuilder("<h1>Is this right?</h1>\n<dl>");
        foreach (var field in design.Fields.Where(f => f.Type != FormFieldType.Hidden))
        {
            var said = payload.Answers.FirstOrDefault(a => a.Field == field.Name)?.Value;
            html.Append($"<dt>{Encode(field.Label)}</dt><dd>{(string.IsNullOrEmpty(said) ? "–" : Encode(said))}</dd>");
        }

        html.Append($"</dl>\n<form action=\"{how.PublicUrl}/in/{Encode(how.Key)}\" method=\"post\">\n");
        foreach (var (name, value) in all)
            html.Append($"  <input type=\"hidden\" name=\"{Encode(name)}\" value=\"{Encode(value)}\">\n");
        html.Append(
            $"  <p><button type=\"submit\">{Encode(design.SendWords)}</button></p>\n</form>\n<p>Something to change? Go back with your browser: your answers are still in the form.</p>"
        );
        return html.ToString();
    }

    private static void Append(StringBuilder html, DesignField field, string id, string given)
    {
        var required = field.Required ? " required" : "";
        var name = Encode(field.Name);
        switch (field.Type)
        {
            case FormFieldType.Hidden:
                html.Append(
                    $"  <input type=\"hidden\" name=\"{name}\" value=\"{Encode(field.Hidden?.Fixed ?? given)}\"{(field.Hidden?.Tracked is { Length: > 0 } tracked ? $" data-lf-tracks=\"{Encode(tracked)}\"" : "")}>\n"
                );
                break;
            case FormFieldType.Choices or FormFieldType.YesNo:
                AppendBoxes(html, field, id, given);
                break;
            case FormFieldType.Choice:
                html.Append(
                    $"  <p><label for=\"{id}\">{Encode(field.Label)}</label>\n  <select id=\"{id}\" name=\"{name}\"{required}>\n    <option value=\"\">Choose…</option>\n"
                );
                foreach (var choice in field.Choices)
                    html.Append($"    <option{(choice == given ? " selected" : "")}>{Encode(choice)}</option>\n");
                html.Append("  </select></p>\n");
                break;
            case FormFieldType.LongText:
                html.Append(
                    $"  <p><label for=\"{id}\">{Encode(field.Label)}</label>\n  <textarea id=\"{id}\" name=\"{name}\" rows=\"3\" maxlength=\"2000\"{required}>{Encode(given)}</textarea></p>\n"
                );
                break;
            default:
                var value = given.Length > 0 ? $" value=\"{Encode(given)}\"" : "";
                html.Append(
                    $"  <p><label for=\"{id}\">{Encode(field.Label)}</label>\n  <input id=\"{id}\" name=\"{name}\" type=\"{TypeOf(field.Type)}\" autocomplete=\"{Autocomplete(field)}\" maxlength=\"250\"{value}{required}></p>\n"
                );
                break;
        }
    }

    // A browser cannot ask for at least one of several boxes without a script; of two radio buttons it can.
    private static void AppendBoxes(StringBuilder html, DesignField field, string id, string given)
    {
        var one = field.Type == FormFieldType.YesNo;
        html.Append($"  <fieldset class=\"lf-choice\"><legend>{Encode(field.Label)}</legend>\n");
        var chosen = given.Split(", ");
        foreach (var (choice, i) in (one ? ["yes", "no"] : field.Choices).Select((c, i) => (c, i)))
        {
            html.Append(
                $"  <label for=\"{id}-{i}\"><input id=\"{id}-{i}\" type=\"{(one ? "radio" : "checkbox")}\" name=\"{Encode(field.Name)}\" value=\"{Encode(choice)}\"{(chosen.Contains(choice) ? " checked" : "")}{(one && field.Required ? " required" : "")}> {Encode(choice)}</label>\n"
            );
        }

        html.Append("  </fieldset>\n");
    }

    private static void Append(StringBuilder html, FormConsent consent)
    {
        var link = $"<a href=\"{Encode(consent.PrivacyUrl)}\">Privacy notice</a>";
        html.Append($"  <input type=\"hidden\" name=\"{Payload.OwnPrefix}consent\" value=\"{consent.Mark}\">\n");
        html.Append(
            consent.MustAgree
                ? $"  <p class=\"lf-consent lf-agree\"><label><input type=\"checkbox\" name=\"consent\" value=\"yes\" required> {Encode(consent.Words)}</label> {link}</p>\n"
                : $"  <p class=\"lf-consent\">{Encode(consent.Words)} {link}</p>\n"
        );
    }

    private static string TypeOf(FormFieldType type) =>
        type switch
        {
            FormFieldType.Email => "email",
            FormFieldType.Phone => "tel",
            FormFieldType.Number => "number",
            FormFieldType.Date => "date",
            _ => "text",
        };

    // HTML, autofill: the browser offers what it knows of the person.
    private static string Autocomplete(DesignField field) =>
        (field.Means ?? "", field.Type) switch
        {
            (_, FormFieldType.Email) => "email",
            (_, FormFieldType.Phone) => "tel",
            ("first_name", _) => "given-name",
            ("last_name", _) => "family-name",
            ("full_name", _) => "name",
            ("company", _) => "organization",
            _ => "on",
        };

    private static string Encode(string text) => WebUtility.HtmlEncode(text);
}
