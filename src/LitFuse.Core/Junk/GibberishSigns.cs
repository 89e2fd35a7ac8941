using LitFuse.Core.Texts;

namespace LitFuse.Core.Junk;

/// <summary>Signs that nobody meant what was typed: letters that no language puts together.</summary>
public static class GibberishSigns
{
    private static readonly string[] Rows =
    [
        "qwert",
        "werty",
        "asdf",
        "sdfg",
        "dfgh",
        "fghj",
        "ghjk",
        "hjkl",
        "zxcv",
        "xcvb",
        "cvbn",
        "vbnm",
        "yxcv",
        "azerty",
        "qsdf",
        "1234",
        "abcd",
        "aaaa",
        "xxxx",
        "test test",
    ];

    // Pairs of letters that stand side by side in hardly any name or word of a language written in Latin letters.
    private static readonly HashSet<string> Odd = new(StringComparer.Ordinal)
    {
        "bq",
        "bx",
        "bz",
        "cb",
        "cj",
        "cv",
        "cx",
        "dx",
        "fb",
        "fj",
        "fk",
        "fq",
        "fv",
        "fw",
        "fx",
        "fz",
        "gq",
        "gv",
        "gx",
        "gz",
        "hb",
        "hj",
        "hk",
        "hq",
        "hv",
        "hx",
        "hz",
        "jb",
        "jc",
        "jf",
        "jg",
        "jh",
        "jl",
        "jp",
        "jq",
        "jr",
        "jt",
        "jv",
        "jw",
        "jx",
        "jy",
        "jz",
        "kf",
        "kg",
        "kq",
        "kx",
        "kz",
        "lq",
        "lx",
        "mq",
        "mx",
        "mz",
        "pq",
        "pv",
        "px",
        "pz",
        "qb",
        "qc",
        "qd",
        "qe",
        "qf",
        "qg",
        "qh",
        "qj",
        "qk",
        "ql",
        "qm",
        "qn",
        "qo",
        "qp",
        "qr",
        "qs",
        "qt",
        "qw",
        "qx",
        "qy",
        "qz",
        "rx",
        "sx",
        "tq",
        "tx",
        "vb",
        "vc",
        "vd",
        "vf",
        "vg",
        "vh",
        "vj",
        "vk",
        "vm",
        "vp",
        "vq",
        "vt",
        "vw",
        "vx",
        "vz",
        "wb",
        "wf",
        "wg",
        "wj",
        "wk",
        "wm",
        "wq",
        "wv",
        "wx",
        "wz",
        "xb",
        "xd",
        "xf",
        "xg",
        "xj",
        "xk",
        "xl",
        "xm",
        "xn",
        "xq",
        "xr",
        "xs",
        "xv",
        "xw",
        "xz",
        "yq",
        "yx",
        "zb",
        "zc",
        "zd",
        "zf",
        "zg",
        "zj",
        "zq",
        "zr",
        "zv",
        "zx",
    };

    /// <summary>Why <paramref name="text"/> looks like no name and no word, or <c>null</c>.</summary>
    public static string? Of(string text)
    {
        var plain = text.ToLowerInvariant();
        if (Array.Find(Rows, r => plain.Contains(r, StringComparison.Ordinal)) is { } row && plain.Length < 40)
            return $"“{Short(text)}” is keys side by side ({row})";
        foreach (
            var word in text.Split(
                [' ', '-', '.', ',', '\'', '_', '@', '/', '\u2019'],
                StringSplitOptions.RemoveEmptyEntries
            )
        )
        {
            if (word.Length >= 5 && word.All(char.IsAsciiLetter) && IsNoWord(word))
                return $"“{Short(word)}” is no word of any language";
        }

        return null;
    }

    private static bool IsNoWord(string word)
    {
        if (Turns(word) >= 3)
            return true;
        var small = word.ToLowerInvariant();
        var odd = 0;
        for (var i = 0; i + 1 < small.Length; i++)
        {
            if (Odd.Contains(small.Substring(i, 2)))
                odd++;
        }

        if (odd >= 2)
            return true;
        var run = LongestWithoutVowel(small);
        return run >= 6
            || (odd == 1 && run >= 5)
            || (
                run >= 5
                && small.Length >= 7
                && !small.Contains("sch", StringComparison.Ordinal)
                && !small.Contains("cz", StringComparison.Ordinal)
            );
    }

    // Small letter, then a capital, again and again: programs choose letters so, people do not.
    private static int Turns(string word)
    {
        var turns = 0;
        for (var i = 1; i < word.Length; i++)
        {
            if (char.IsUpper(word[i]) && char.IsLower(word[i - 1]))
                turns++;
        }

        return turns;
    }

    // Letters that are written together for one sound count once.
    private static int LongestWithoutVowel(string word)
    {
        var (longest, run) = (0, 0);
        for (var i = 0; i < word.Length; i++)
        {
            if ("aeiouy".Contains(word[i], StringComparison.Ordinal))
            {
                run = 0;
                continue;
            }

            var pair = i > 0 ? word.AsSpan(i - 1, 2) : [];
            if (
                pair
                is "ch"
                    or "sh"
                    or "th"
                    or "ph"
                    or "ck"
                    or "sz"
                    or "cz"
                    or "rz"
                    or "sc"
                    or "ss"
                    or "tt"
                    or "ll"
                    or "nn"
                    or "tz"
                    or "ng"
                    or "gh"
                    or "st"
                    or "dz"
            )
                continue;
            longest = Math.Max(longest, ++run);
        }

        return longest;
    }

    private static string Short(string text) => Clip.Short(text, 24);
}
