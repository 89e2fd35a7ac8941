using LitFuse.Core.Payloads;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Net.Http.Headers;

namespace LitFuse.Server.Features.Intake;

/// <summary>Reads a stored or arriving body by its content type.</summary>
public static class RawBody
{
    /// <summary>
    /// JSON, <c>application/x-www-form-urlencoded</c> or <c>multipart/form-data</c>. Without a usable content type, a
    /// body that begins with a brace is taken as JSON. Never throws: what cannot be read says why.
    /// </summary>
    public static async ValueTask<Payload> ReadAsync(string? contentType, ReadOnlyMemory<byte> body)
    {
        if (body.IsEmpty) return Payload.Bad("the body is empty");
        var type = MediaTypeHeaderValue.TryParse(contentType, out var parsed) ? parsed : null;
        var name = type?.MediaType.Value?.ToLowerInvariant();
        try
        {
            return name switch
            {
                "application/x-www-form-urlencoded" => await FormAsync(body),
                "multipart/form-data" => await MultipartAsync(type!, body),
                not null when name == "application/json" || name.EndsWith("+json", StringComparison.Ordinal) => Payload.FromJson(body),
                _ when body.Span.TrimStart(" \t\r\n"u8) is [(byte)'{', ..] => Payload.FromJson(body),
                null => Payload.Bad("there is no content type, and it does not begin as JSON does"),
                _ => Payload.Bad($"a body of type '{name}' is not read; send JSON or a form post"),
            };
        }
        catch (Exception e) when (e is InvalidDataException or IOException or FormatException)
        {
            return Payload.Bad($"not readable as {name}: {e.Message}");
        }
    }

    private static async Task<Payload> FormAsync(ReadOnlyMemory<byte> body)
    {
        using var stream = new MemoryStream(body.ToArray(), writable: false);
        using var reader = new FormReader(stream) { ValueCountLimit = Payload.MostAnswers, ValueLengthLimit = IntakeEndpoint.MostBytes };
        var form = await reader.ReadFormAsync();
        return Payload.FromPairs(form.SelectMany(f => f.Value.Select(v => KeyValuePair.Create(f.Key, v ?? ""))));
    }

    private static async Task<Payload> MultipartAsync(MediaTypeHeaderValue type, ReadOnlyMemory<byte> body)
    {
        var boundary = HeaderUtilities.RemoveQuotes(type.Boundary).Value;
        if (string.IsNullOrEmpty(boundary)) return Payload.Bad("the multipart content type names no boundary");
        using var stream = new MemoryStream(body.ToArray(), writable: false);
        var reader = new MultipartReader(boundary, stream) { HeadersCountLimit = 16 };
        var pairs = new List<KeyValuePair<string, string>>();
        while (await reader.ReadNextSectionAsync() is { } section)
        {
            if (pairs.Count > Payload.MostAnswers) break;
            if (!ContentDispositionHeaderValue.TryParse(section.ContentDisposition, out var disposition)) continue;
            var name = HeaderUtilities.RemoveQuotes(disposition.Name).Value ?? "";
            // A file's name stands for it: the bytes stay in the raw submission.
            if (disposition.IsFileDisposition()) pairs.Add(new(name, HeaderUtilities.RemoveQuotes(disposition.FileName).Value ?? ""));
            else pairs.Add(new(name, await new StreamReader(section.Body).ReadToEndAsync()));
        }

        return Payload.FromPairs(pairs);
    }
}
