using System.Globalization;

namespace LitFuse.Server.Demo;

/// <summary>A made-up person who asks.</summary>
public sealed record DemoAsker(int Number, string First, string Last, string Email, string? Phone, string Company);

/// <summary>
/// Makes people with invented names, example addresses and numbers from the ranges kept for fiction. No two share an
/// address or a number.
/// </summary>
public sealed class DemoPeople(Random chance, string country)
{
    private static readonly string[] Firsts =
    [
        "Odalys",
        "Jorun",
        "Casimir",
        "Perpetua",
        "Bram",
        "Ines",
        "Hal",
        "Wilhelmina",
        "Tamsin",
        "Ansel",
        "Briony",
        "Cormac",
        "Dilys",
        "Emeric",
        "Fenella",
        "Gethin",
        "Hesper",
        "Idris",
        "Jocasta",
        "Kerensa",
        "Linus",
        "Merrick",
        "Nerys",
        "Osric",
        "Petra",
        "Quill",
        "Rosalba",
        "Senan",
        "Thora",
        "Ulric",
        "Verity",
        "Wystan",
        "Xanthe",
        "Yorick",
        "Zelda",
        "Amabel",
        "Blaise",
        "Coralie",
        "Desmond",
        "Elowen",
        "Florian",
        "Greer",
        "Hollis",
        "Ivo",
        "Juno",
        "Kester",
        "Lorcan",
        "Maren",
        "Noll",
        "Orla",
        "Piers",
        "Rafe",
        "Sunniva",
        "Tobin",
        "Una",
        "Vesper",
        "Winnow",
    ];

    private static readonly string[] Lasts =
    [
        "Fenwick",
        "Ashdown",
        "Oduya",
        "Lindqvist",
        "Tillotson",
        "Calloway",
        "Wetherby",
        "Sandifer",
        "Brambleton",
        "Okonjo",
        "Thackery",
        "Varga",
        "Penhallow",
        "Quarrie",
        "Rusholme",
        "Skelton",
        "Trevanion",
        "Underhay",
        "Vantongeren",
        "Winterbourne",
        "Yardley",
        "Zeller",
        "Ainscow",
        "Birtwhistle",
        "Cruikshank",
        "Dunmore",
        "Eddowes",
        "Farquhar",
        "Garside",
        "Hathersage",
        "Ilkeston",
        "Jessamy",
        "Kingsnorth",
        "Lovelace",
        "Micklethwait",
        "Netherwood",
        "Ormerod",
        "Pettifer",
        "Rainsford",
        "Silverthorne",
        "Threlkeld",
        "Upjohn",
        "Wolstenholme",
        "Abara",
        "Castellane",
        "Dragomir",
    ];

    private static readonly string[] Trades =
    [
        "Deliveries",
        "Larder",
        "Works",
        "Supply",
        "Bakery",
        "Couriers",
        "Studios",
        "Repairs",
        "Kitchens",
        "Flowers",
        "Offices",
        "Rounds",
    ];
    private static readonly string[] Hosts = ["example.com", "example.org", "example.net"];

    private readonly Queue<string> phones = new(PhonesOf(country).OrderBy(_ => chance.Next()));
    private int made;

    /// <summary>The next person. Some give no phone.</summary>
    public DemoAsker Next()
    {
        var first = Firsts[chance.Next(Firsts.Length)];
        var last = Lasts[chance.Next(Lasts.Length)];
        var email = string.Create(
                CultureInfo.InvariantCulture,
                $"{first}.{last}.{++made}@{Hosts[chance.Next(Hosts.Length)]}"
            )
            .ToLowerInvariant();
        var phone = chance.NextDouble() < 0.1 || !phones.TryDequeue(out var number) ? null : number;
        return new(
            made,
            first,
            last,
            email,
            phone,
            $"{Lasts[chance.Next(Lasts.Length)]} {Trades[chance.Next(Trades.Length)]}"
        );
    }

    // Ofcom, NANPA and ComReg keep these for drama.
    private static IEnumerable<string> PhonesOf(string country) =>
        country switch
        {
            "GB" => Lines("+447700900", 1000, 3)
                .Concat(Lines("+442079460", 1000, 3))
                .Concat(Lines("+441632960", 1000, 3))
                .Concat(Lines("+441174960", 1000, 3)),
            "CA" => new[]
            {
                204,
                226,
                236,
                249,
                250,
                289,
                306,
                343,
                365,
                403,
                416,
                418,
                431,
                437,
                438,
                450,
                506,
                514,
                519,
                548,
                579,
                581,
            }.SelectMany(area => Lines($"+1{area}55501", 100, 2)),
            _ => Lines("+3532091", 4000, 5),
        };

    private static IEnumerable<string> Lines(string prefix, int count, int digits) =>
        Enumerable.Range(0, count).Select(n => prefix + n.ToString(CultureInfo.InvariantCulture).PadLeft(digits, '0'));
}
