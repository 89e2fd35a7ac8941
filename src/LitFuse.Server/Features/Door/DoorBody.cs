using System.Buffers;
using System.Text;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Net.Http.Headers;

namespace LitFuse.Server.Features.Door;

/// <summary>Reads what arrives at the door, bounded.</summary>
public static class DoorBody
{
    /// <summary>The largest body kept.</summary>
    public const int MostBytes = 256 * 1024;

    /// <summary>The largest body read, its files and all: a form with an attachment must not lose the lead.</summary>
    public const int MostWithFiles = 16 * 1024 * 1024;

    /// <summary>The body; of a multipart body with files all but the files' bytes.</summary>
    /// <returns><c>null</c> when it is too big.</returns>
    public static async Task<byte[]?> ReadAsync(HttpContext http)
    {
        var multipart =
            http.Request.ContentType?.StartsWith("multipart/form-data", StringComparison.OrdinalIgnoreCase) == true;
        if (multipart && http.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
            limit.MaxRequestBodySize = MostWithFiles;
        if (http.Request.ContentLength > (multipart ? MostWithFiles : MostBytes))
            return null;
        var (head, whole) = await HeadAsync(http);
        if (!multipart)
            return whole ? head : null;
        if (whole && head.AsSpan().IndexOf("filename"u8) < 0)
            return head;
        return await WithoutFilesAsync(http, head, whole);
    }

    private static async Task<(byte[] Head, bool Whole)> HeadAsync(HttpContext http)
    {
        if (http.Request.ContentLength is { } told and <= MostBytes)
        {
            var exact = new byte[told];
            var length = await http.Request.Body.ReadAtLeastAsync(
                exact,
                exact.Length,
                throwOnEndOfStream: false,
                http.RequestAborted
            );
            return (length == exact.Length ? exact : exact[..length], true);
        }

        var buffer = ArrayPool<byte>.Shared.Rent(MostBytes + 1);
        try
        {
            var filled = await http.Request.Body.ReadAtLeastAsync(
                buffer.AsMemory(0, MostBytes + 1),
                MostBytes + 1,
                throwOnEndOfStream: false,
                http.RequestAborted
            );
            return (buffer.AsSpan(0, filled).ToArray(), filled <= MostBytes);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    private static async Task<byte[]?> WithoutFilesAsync(HttpContext http, byte[] head, bool whole)
    {
        var type = MediaTypeHeaderValue.TryParse(http.Request.ContentType, out var parsed) ? parsed : null;
        var boundary = HeaderUtilities.RemoveQuotes(type?.Boundary ?? default).Value;
        if (string.IsNullOrEmpty(boundary))
            return whole ? head : null;
        using var kept = new MemoryStream();
        try
        {
            await using var body = new HeadThenRest(head, whole ? Stream.Null : http.Request.Body);
            var reader = new MultipartReader(boundary, body) { HeadersCountLimit = 16 };
            while (await reader.ReadNextSectionAsync(http.RequestAborted) is { } section)
            {
                kept.Write(Encoding.UTF8.GetBytes($"--{boundary}\r\n"));
                foreach (var header in section.Headers ?? [])
                    kept.Write(Encoding.UTF8.GetBytes($"{header.Key}: {header.Value}\r\n"));
                kept.Write("\r\n"u8);
                var file =
                    ContentDispositionHeaderValue.TryParse(section.ContentDisposition, out var disposition)
                    && disposition.IsFileDisposition();
                await CopyAsync(section.Body, file ? null : kept, http.RequestAborted);
                kept.Write("\r\n"u8);
            }

            kept.Write(Encoding.UTF8.GetBytes($"--{boundary}--\r\n"));
            return kept.Length > MostBytes ? null : kept.ToArray();
        }
        catch (Exception e) when (e is InvalidDataException || (e is IOException and not BadHttpRequestException))
        {
            // Not readable as it stands: what there is of it is kept and says so later.
            return head.Length > MostBytes ? head[..MostBytes] : head;
        }
    }

    private static async Task CopyAsync(Stream from, MemoryStream? to, CancellationToken stop)
    {
        var buffer = ArrayPool<byte>.Shared.Rent(16 * 1024);
        try
        {
            int read;
            while ((read = await from.ReadAsync(buffer, stop)) > 0)
            {
                if (to is not null && to.Length <= MostBytes)
                    to.Write(buffer, 0, read);
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    /// <summary>What was read already, then the rest.</summary>
    private sealed class HeadThenRest(byte[] head, Stream rest) : Stream
    {
        private int at;

        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => false;

        public override long Length => throw new NotSupportedException();

        public override long Position
        {
            get => at;
            set => throw new NotSupportedException();
        }

        public override async ValueTask<int> ReadAsync(
            Memory<byte> buffer,
            CancellationToken cancellationToken = default
        )
        {
            if (at >= head.Length)
                return await rest.ReadAsync(buffer, cancellationToken);
            var count = Math.Min(buffer.Length, head.Length - at);
            head.AsMemory(at, count).CopyTo(buffer);
            at += count;
            return count;
        }

        public override Task<int> ReadAsync(
            byte[] buffer,
            int offset,
            int count,
            CancellationToken cancellationToken
        ) => ReadAsync(buffer.AsMemory(offset, count), cancellationToken).AsTask();

        public override int Read(byte[] buffer, int offset, int count) => throw new NotSupportedException();

        public override void Flush()
        {
            // Only for reading.
        }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}
