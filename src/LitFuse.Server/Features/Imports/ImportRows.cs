using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Fields;
using LitFuse.Core.Files;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Server.Ways;
using NodaTime;

namespace LitFuse.Server.Features.Imports;

/// <summary>One row, read.</summary>
/// <param name="Number">As counted in the file, the first row being 1.</param>
/// <param name="Fault">Why it cannot be imported.</param>
/// <param name="FormId">The form it belongs to.</param>
public sealed record ImportRow(
    int Number,
    string[] Cells,
    byte[] Raw,
    Payload Payload,
    MappedLead? Mapped,
    Guid? FormId,
    string? Fault
)
{
    /// <summary>
    /// What makes a second copy impossible: as the door makes it where there is an own id; else the content alone, so
    /// that the same row of the same file is the same, whenever.
    /// </summary>
    public byte[] DedupeKey { get; } = KeyOf(Payload, Raw);

    private static byte[] KeyOf(Payload payload, byte[] raw)
    {
        var key = new byte[24];
        if (payload.OwnId is { } id)
            SHA256.HashData(Encoding.UTF8.GetBytes(id)).AsSpan(0, 8).CopyTo(key);
        else
            BinaryPrimitives.WriteInt64BigEndian(key, long.MaxValue);
        payload.Digest(raw).AsSpan(0, 16).CopyTo(key.AsSpan(8));
        return key;
    }
}

/// <summary>What is needed to read rows: made once for an import.</summary>
/// <param name="Forms">Of the source, by the sender's id; empty for a file that has a form of its own.</param>
/// <param name="Maps">Confirmed maps, by form.</param>
public sealed record ImportSetup(
    ImportReading Reading,
    SourceKind Kind,
    Guid? FormId,
    IReadOnlyDictionary<string, Guid> Forms,
    IReadOnlyDictionary<Guid, CompiledMap> Maps,
    IReadOnlyList<LeadField> Fields
);

/// <summary>Turns rows of a file into submissions. Pure, so that rows can be read side by side.</summary>
public static class ImportRows
{
    /// <summary>The map that the columns say.</summary>
    public static FieldMap MapOf(ImportReading reading) =>
        new([
            .. reading.Columns.Select(c => new MapRow(c.Header, c.LeadField is "id" or "sent_at" ? null : c.LeadField)),
        ]);

    /// <summary>Reads one row.</summary>
    public static async ValueTask<ImportRow> ReadAsync(ImportSetup setup, int number, string[] cells)
    {
        var named = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var column in setup.Reading.Columns)
        {
            if (column.Index < cells.Length && cells[column.Index].Length > 0)
                named[column.Header] = cells[column.Index];
        }

        var raw = setup.FormId is null
            ? setup.Kind.OfRow(named).ToArray()
            : JsonSerializer.SerializeToUtf8Bytes(named, CoreJson.Options);
        var payload = setup.FormId is null
            ? await setup.Kind.ReadAsync([], "application/json", raw)
            : Own(setup.Reading, cells, named);
        if (payload.Unreadable is { } unreadable)
            return new(number, cells, raw, payload, null, null, unreadable);
        Guid? formId = setup.FormId
            ?? (payload.Form is { } form && setup.Forms.TryGetValue(form.Id, out var known) ? known : null);
        if (formId is null)
            return new(
                number,
                cells,
                raw,
                payload,
                null,
                null,
                payload.Form is { } other ? $"the form “{other.Name}” is not one of this source's" : "it names no form"
            );
        if (!setup.Maps.TryGetValue(formId.Value, out var map))
            return new(number, cells, raw, payload, null, formId, "its form's field map is not confirmed");
        var mapped = map.Read(payload.Answers);
        return new(
            number,
            cells,
            raw,
            payload,
            mapped,
            formId,
            mapped.Keys().Count > 0 ? null
                : mapped.Faults.Count > 0 ? string.Join("; ", mapped.Faults.Select(f => $"{f.Key}: {f.Value}"))
                : "there is neither an email address nor a telephone number in it"
        );
    }

    private static Payload Own(ImportReading reading, string[] cells, Dictionary<string, string> named)
    {
        var answers = new List<Answer>(named.Count);
        string? id = null;
        Instant? sentAt = null;
        foreach (var column in reading.Columns)
        {
            if (!named.TryGetValue(column.Header, out var value))
                continue;
            if (column.LeadField == "id")
                id = value.Trim();
            else if (column.LeadField == "sent_at")
                sentAt = FileLook.Moment(value, reading.Dates);
            if (column.LeadField is null or "id" or "sent_at")
                continue;
            answers.Add(new(column.Header, column.IsDate ? Day(value, reading.Dates) : value));
        }

        return Payload.FromAnswers(answers) with
        {
            OwnId = id is { Length: > 0 and <= Payload.LongestOwnId } ? id : null,
            SentAt = sentAt,
        };
    }

    private static string Day(string value, DateOrder order) =>
        FileLook.Moment(value, order) is { } moment
            ? moment.InUtc() is { TimeOfDay: var time } at && time == LocalTime.Midnight
                ? at.Date.ToString("yyyy-MM-dd", null)
                : NodaTime.Text.InstantPattern.General.Format(moment)
            : value;
}
