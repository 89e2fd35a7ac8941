using System.Text;
using LitFuse.Core.Words;
using Xunit;

namespace LitFuse.Core.Tests;

/// <summary>
/// Segments against the tables of GSM 03.38 (3GPP TS 23.038 § 6.2.1), written out here by code point, and parts packed
/// one by one.
/// </summary>
public sealed class GsmTableTests
{
    // The default alphabet, row by row: code 0x00 to 0x7F. 0x1B is the escape to the extension table.
    private static readonly int[] Table =
    [
        0x40,
        0xA3,
        0x24,
        0xA5,
        0xE8,
        0xE9,
        0xF9,
        0xEC,
        0xF2,
        0xC7,
        0x0A,
        0xD8,
        0xF8,
        0x0D,
        0xC5,
        0xE5,
        0x394,
        0x5F,
        0x3A6,
        0x393,
        0x39B,
        0x3A9,
        0x3A0,
        0x3A8,
        0x3A3,
        0x398,
        0x39E,
        -1,
        0xC6,
        0xE6,
        0xDF,
        0xC9,
        0x20,
        0x21,
        0x22,
        0x23,
        0xA4,
        0x25,
        0x26,
        0x27,
        0x28,
        0x29,
        0x2A,
        0x2B,
        0x2C,
        0x2D,
        0x2E,
        0x2F,
        0x30,
        0x31,
        0x32,
        0x33,
        0x34,
        0x35,
        0x36,
        0x37,
        0x38,
        0x39,
        0x3A,
        0x3B,
        0x3C,
        0x3D,
        0x3E,
        0x3F,
        0xA1,
        0x41,
        0x42,
        0x43,
        0x44,
        0x45,
        0x46,
        0x47,
        0x48,
        0x49,
        0x4A,
        0x4B,
        0x4C,
        0x4D,
        0x4E,
        0x4F,
        0x50,
        0x51,
        0x52,
        0x53,
        0x54,
        0x55,
        0x56,
        0x57,
        0x58,
        0x59,
        0x5A,
        0xC4,
        0xD6,
        0xD1,
        0xDC,
        0xA7,
        0xBF,
        0x61,
        0x62,
        0x63,
        0x64,
        0x65,
        0x66,
        0x67,
        0x68,
        0x69,
        0x6A,
        0x6B,
        0x6C,
        0x6D,
        0x6E,
        0x6F,
        0x70,
        0x71,
        0x72,
        0x73,
        0x74,
        0x75,
        0x76,
        0x77,
        0x78,
        0x79,
        0x7A,
        0xE4,
        0xF6,
        0xF1,
        0xFC,
        0xE0,
    ];

    private static readonly int[] Extension = [0x0C, 0x5E, 0x7B, 0x7D, 0x5C, 0x5B, 0x7E, 0x5D, 0x7C, 0x20AC];

    [Fact]
    public void Every_character_there_is_counts_as_the_tables_say()
    {
        for (var c = 0; c <= 0xFFFF; c++)
        {
            if (char.IsSurrogate((char)c))
                continue;
            var (units, unicode) =
                Array.IndexOf(Table, c) >= 0 ? (1, false)
                : Array.IndexOf(Extension, c) >= 0 ? (2, false)
                : (1, true);
            Assert.Equal(new TextSize(units, 1, unicode), TextSegments.Count(((char)c).ToString()));
        }
    }

    [Fact]
    public void Generated_texts_are_cut_as_if_packed_by_hand()
    {
        var seed = Environment.TickCount;
        var chance = new Random(seed);
        for (var n = 0; n < Whole.Of(4_000, 20_000); n++)
        {
            var text = Text(chance, chance.Next(0, 700), chance.Next(4));
            var size = TextSegments.Count(text);
            Assert.True(
                Packed(text) == (size.Segments, size.Unicode),
                $"seed {seed}, text {n}: {size} for “{text}”, by hand {Packed(text)}"
            );
        }
    }

    private static string Text(Random chance, int length, int kind)
    {
        var text = new StringBuilder();
        while (text.Length < length)
        {
            if (kind == 3 && chance.Next(3) == 0)
                text.Append(char.ConvertFromUtf32(0x1F600 + chance.Next(60)));
            else if (kind == 2 && chance.Next(40) == 0)
                text.Append('ł');
            else if (kind > 0 && chance.Next(6) == 0)
                text.Append((char)Extension[chance.Next(Extension.Length)]);
            else
                text.Append((char)Table.Where(c => c > 0).ElementAt(chance.Next(Table.Length - 1)));
        }

        return text.ToString();
    }

    // Units of which none may be torn, put into parts one after the other.
    private static (int Segments, bool Unicode) Packed(string text)
    {
        var runes = text.EnumerateRunes().ToList();
        var unicode = runes.Exists(r => Array.IndexOf(Table, r.Value) < 0 && Array.IndexOf(Extension, r.Value) < 0);
        var pieces = runes.ConvertAll(r =>
            unicode ? r.Utf16SequenceLength
            : Array.IndexOf(Table, r.Value) >= 0 ? 1
            : 2
        );
        var (whole, part) = unicode ? (70, 67) : (160, 153);
        if (pieces.Sum() <= whole)
            return (1, unicode);
        var parts = new List<int> { 0 };
        foreach (var piece in pieces)
        {
            if (parts[^1] + piece > part)
                parts.Add(0);
            parts[^1] += piece;
        }

        return (parts.Count, unicode);
    }
}
