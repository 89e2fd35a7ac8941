using NodaTime;

namespace LitFuse.Core.Hours;

/// <summary>
/// The outer hours for texts and calls that no fuse can go beyond, on the lead's own clock. Where a country's law names
/// hours for calls of this kind, they are those, asked for or not; elsewhere they are ours: nobody is disturbed at
/// night.
/// </summary>
/// <param name="Name">As the story names it.</param>
/// <param name="Source">Where it is written.</param>
/// <param name="Hours">Any part of them is open.</param>
public sealed record HoursLaw(string Name, string Source, IReadOnlyList<OpenHours> Hours)
{
    private static readonly IsoDayOfWeek[] Weekdays =
    [
        IsoDayOfWeek.Monday,
        IsoDayOfWeek.Tuesday,
        IsoDayOfWeek.Wednesday,
        IsoDayOfWeek.Thursday,
        IsoDayOfWeek.Friday,
    ];
    private static readonly IsoDayOfWeek[] Weekend = [IsoDayOfWeek.Saturday, IsoDayOfWeek.Sunday];

    private const string Ours = "our own rule: no source";

    /// <summary>For texts, where no law names hours.</summary>
    public static HoursLaw DecentTexts { get; } =
        new("the night's rest from texts", Ours, [Between(7, 0, 22, 0, OpenHours.EveryDay)]);

    /// <summary>For calls, where no law names hours.</summary>
    public static HoursLaw DecentCalls { get; } =
        new("the night's rest from calls", Ours, [Between(8, 0, 21, 0, OpenHours.EveryDay)]);

    private static readonly HoursLaw UnitedStates = new(
        "the hours of US law",
        "47 CFR § 64.1200(c)(1)",
        [Between(8, 0, 21, 0, OpenHours.EveryDay)]
    );
    private static readonly HoursLaw Canada = new(
        "the hours of Canadian law",
        "CRTC Unsolicited Telecommunications Rules, part III",
        [Between(9, 0, 21, 30, Weekdays), Between(10, 0, 18, 0, Weekend)]
    );

    /// <summary>By country (ISO 3166-1 alpha-2).</summary>
    public static IReadOnlyDictionary<string, HoursLaw> Texts { get; } =
        new Dictionary<string, HoursLaw>(StringComparer.Ordinal) { ["US"] = UnitedStates, ["CA"] = Canada };

    /// <summary>By country (ISO 3166-1 alpha-2).</summary>
    public static IReadOnlyDictionary<string, HoursLaw> Calls { get; } =
        new Dictionary<string, HoursLaw>(StringComparer.Ordinal)
        {
            ["US"] = UnitedStates,
            ["CA"] = Canada,
            ["AU"] = new(
                "the hours of Australian law",
                "Telecommunications (Telemarketing and Research Calls) Industry Standard 2017",
                [Between(9, 0, 20, 0, Weekdays), Between(9, 0, 17, 0, [IsoDayOfWeek.Saturday])]
            ),
            ["FR"] = new(
                "the hours of French law",
                "décret n° 2022-1313 du 13 octobre 2022",
                [Between(10, 0, 13, 0, Weekdays), Between(14, 0, 20, 0, Weekdays)]
            ),
        };

    /// <summary>The hours for speaking like this to somebody with a number of this country.</summary>
    public static HoursLaw For(Voice voice, string? country) =>
        voice == Voice.Call
            ? country is null
                ? DecentCalls
                : Calls.GetValueOrDefault(country, DecentCalls)
            : country is null
                ? DecentTexts
                : Texts.GetValueOrDefault(country, DecentTexts);

    private static OpenHours Between(
        int from,
        int fromMinute,
        int to,
        int toMinute,
        IReadOnlyList<IsoDayOfWeek> days
    ) => new(new(from, fromMinute), new(to, toMinute), days);
}
