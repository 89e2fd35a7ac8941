using System.Text;
using LitFuse.Core.Payloads;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Net.Http.Headers;

namespace LitFuse.Server.Ways;

/// <summary>Reads a stored or arriving body by its content type.</summary>
public static class RawBody
{
    private static readonly UTF8Encoding Strict = new(
        encoderShouldEmitUTF8Identifier: false,
        throwOnInvalidBytes: true
    );

    /// <summary>
    /// JSON, <c>application/x-www-form-urlencoded</c> or <c>multipart/form-data</c>, in any charset that they name. A
    /// body that begins with a brace is taken as JSON whatever it is called. Never throws: what cannot be read says
    /// why.
    /// </summary>
    public static async ValueTask<Payload> ReadAsync(string? contentType, ReadOnlyMemory<byte> body)
    {
        if (body.IsEmpty)
            return Payload.Bad("the body is empty");
        if (
            contentType is "application/json" or "application/json; charset=utf-8"
            && System.Text.Unicode.Utf8.IsValid(body.Span)
            && body.Span[0] == '{'
        )
            return Payload.FromJson(body);
        var type = MediaTypeHeaderValue.TryParse(contentType, out var parsed) ? parsed : null;
        var name = type?.MediaType.Value?.ToLowerInvariant();
        try
        {
            return name switch
            {
                "application/x-www-form-urlencoded" => FormPost(body, type!.Charset.Value),
                "multipart/form-data" => await MultipartAsync(type!, body),
                _ when IsJson(contentType, body.Span) => Payload.FromJson(Utf8(body, type?.Charset.Value)),
                null => Payload.Bad("there is no content type, and it does not begin as JSON does"),
                _ => Payload.Bad($"a body of type '{name}' is not read; send JSON or a form post"),
            };
        }
        catch (Exception e) when (e is InvalidDataException or IOException or FormatException or ArgumentException)
        {
            return Payload.Bad($"not readable as {name}: {e.Message}");
        }
    }

    /// <summary>True for a body that says it is JSON, or begins as a JSON object does.</summary>
    public static bool IsJson(string? contentType, ReadOnlySpan<byte> body)
    {
        var name = MediaTypeHeaderValue.TryParse(contentType, out var parsed)
            ? parsed.MediaType.Value?.ToLowerInvariant()
            : null;
        return name is "application/json"
            || name?.EndsWith("+json", StringComparison.Ordinal) == true
            || body.TrimStart(" \t\r\n\uFEFF"u8) is [(byte)'{', ..];
    }

    /// <summary>
    /// Reads name and value pairs as a form post or an address carries them; a charset that is not named is UTF-8 where
    /// it can be, else Windows-1252.
    /// </summary>
    public static Payload FormPost(ReadOnlyMemory<byte> body, string? charset)
    {
        var pairs = new List<KeyValuePair<byte[], byte[]>>();
        foreach (var range in body.Span.Split((byte)'&'))
        {
            var part = body.Span[range];
            if (part.IsEmpty)
                continue;
            if (pairs.Count > Payload.MostAnswers)
                return Payload.Bad($"more than {Payload.MostAnswers} fields; at most so many are read");
            var cut = part.IndexOf((byte)'=');
            pairs.Add(new(Unescaped(cut < 0 ? part : part[..cut]), cut < 0 ? [] : Unescaped(part[(cut + 1)..])));
        }

        // HTML: a field _charset_ tells what the browser used.
        var told = charset
            ?? pairs
                .Where(p => p.Key.AsSpan().SequenceEqual("_charset_"u8))
                .Select(p => Encoding.ASCII.GetString(p.Value))
                .FirstOrDefault();
        return Payload.FromPairs(
            pairs
                .Where(p => !p.Key.AsSpan().SequenceEqual("_charset_"u8))
                .Select(p => KeyValuePair.Create(Text(p.Key, told), Text(p.Value, told)))
        );
    }

    private static byte[] Unescaped(ReadOnlySpan<byte> text)
    {
        var bytes = new byte[text.Length];
        var length = 0;
        for (var i = 0; i < text.Length; i++)
        {
            if (
                text[i] == '%'
                && i + 2 < text.Length
                && char.IsAsciiHexDigit((char)text[i + 1])
                && char.IsAsciiHexDigit((char)text[i + 2])
            )
            {
                bytes[length++] = Convert.FromHexString([(char)text[i + 1], (char)text[i + 2]])[0];
                i += 2;
            }
            else
            {
                bytes[length++] = text[i] == '+' ? (byte)' ' : text[i];
            }
        }

        return bytes[..length];
    }

    private static string Text(ReadOnlySpan<byte> bytes, string? charset)
    {
        if (string.IsNullOrEmpty(charset) || charset.Trim('"').Equals("utf-8", StringComparison.OrdinalIgnoreCase))
        {
            if (System.Text.Unicode.Utf8.IsValid(bytes))
                return Strict.GetString(bytes);
            charset = "windows-1252";
        }

        return EncodingOf(charset.Trim('"')).GetString(bytes);
    }

    // A charset that is unknown, or that nobody should use any more, is taken for what it most often is.
    private static Encoding EncodingOf(string charset)
    {
        try
        {
            return Encoding.GetEncoding(charset);
        }
        catch (Exception e) when (e is ArgumentException or NotSupportedException)
        {
            return Encoding.GetEncoding("windows-1252");
        }
    }

    private static bool Known(string charset) =>
        EncodingOf(charset.Trim('"')).WebName.Equals(charset.Trim('"'), StringComparison.OrdinalIgnoreCase);

    private static ReadOnlyMemory<byte> Utf8(ReadOnlyMemory<byte> body, string? charset)
    {
        var utf8 =
            string.IsNullOrEmpty(charset) || charset.Trim('"').Equals("utf-8", StringComparison.OrdinalIgnoreCase);
        if ((utf8 || !Known(charset!)) && System.Text.Unicode.Utf8.IsValid(body.Span))
            return body.Span.StartsWith("\uFEFF"u8) ? body[3..] : body;
        return Strict.GetBytes(Text(body.Span, charset).TrimStart('\uFEFF'));
    }

    private static async Task<Payload> MultipartAsync(MediaTypeHeaderValue type, ReadOnlyMemory<byte> body)
    {
        var boundary = HeaderUtilities.RemoveQuotes(type.Boundary).Value;
        if (string.IsNullOrEmpty(boundary))
            return Payload.Bad("the multipart content type names no boundary");
        using var stream = new MemoryStream(body.ToArray(), writable: false);
        var reader = new MultipartReader(boundary, stream) { HeadersCountLimit = 16 };
        var pairs = new List<KeyValuePair<string, byte[]>>();
        while (await reader.ReadNextSectionAsync() is { } section)
        {
            if (pairs.Count > Payload.MostAnswers)
                break;
            if (!ContentDispositionHeaderValue.TryParse(section.ContentDisposition, out var disposition))
                continue;
            var name = HeaderUtilities.RemoveQuotes(disposition.Name).Value ?? "";
            // A file's name stands for it: the bytes are not kept as an answer.
            if (disposition.IsFileDisposition())
            {
                pairs.Add(
                    new(name, Encoding.UTF8.GetBytes(HeaderUtilities.RemoveQuotes(disposition.FileName).Value ?? ""))
                );
                continue;
            }

            using var value = new MemoryStream();
            await section.Body.CopyToAsync(value);
            pairs.Add(new(name, value.ToArray()));
        }

        var charset = pairs
            .Where(p => p.Key == "_charset_")
            .Select(p => Encoding.ASCII.GetString(p.Value))
            .FirstOrDefault();
        return Payload.FromPairs(
            pairs.Where(p => p.Key != "_charset_").Select(p => KeyValuePair.Create(p.Key, Text(p.Value, charset)))
        );
    }
}
