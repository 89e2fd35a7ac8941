using System.Globalization;
using LitFuse.Core.Junk;
using LitFuse.Core.Mapping;
using LitFuse.Core.Payloads;
using LitFuse.Core.Texts;

namespace LitFuse.Bench;

/// <summary>One made-up submission and whether it is junk.</summary>
public sealed record LabelledSubmission(bool Junk, Payload Payload, int Lately, int SameWords, string What);

/// <summary>How well junk was told.</summary>
public sealed record JunkResult(int Clean, int FalseAlarms, int Junk, int Caught, IReadOnlyList<string> Wrong);

/// <summary>
/// Made-up submissions, half of them junk, from a seed: people who write in many ways, and what programs and sellers
/// send.
/// </summary>
public static class LabelledJunk
{
    private static readonly FieldMap Map = new([
        new("name", "full_name"),
        new("email", "email"),
        new("phone", "phone"),
        new("company", "company"),
        new("message", "message"),
    ]);

    private static readonly string[] People =
    [
        "Odalys Fenwick",
        "Jorun Ashdown",
        "Casimir Oduya",
        "Perpetua Lindqvist",
        "Bram Tillotson",
        "Ines Calloway",
        "Hal Wetherby",
        "Krzysztof Wszędobylski",
        "Zbigniew Brzeczyk",
        "Przemysław Gwóźdź",
        "Ng Wei",
        "Schwarzschild Ulrike",
        "Siobhán Ní Dhomhnaill",
        "MacKenzie Drummond",
        "JOHANNA VON DER HEYDT",
        "mary-lou o'rourke",
        "Trịnh Thị Hương",
        "Nguyễn Văn Đức",
        "Hjörtur Þórðarson",
        "Bjørnstjerne Kjær",
        "Ludwig Pfeifferschmidt",
        "Xochitl Quetzalli",
        "Yvonne Przybylski",
        "山田 太郎",
        "김 민준",
        "Анна Кузнецова",
        "Ωμέγα Παπαδάκη",
        "Szczepan Chrząszcz",
        "DeShawn McAllister",
        "Tomasz",
        "J. P. Hargreaves",
        "Anouk Dijkstra",
        "Wojciech Strzałkowski",
        "Llewellyn Gwynfryn",
        "Mbali Nkosi",
        "Tshepo Mkhize",
        "Jürgen Schmalzgruber",
    ];

    private static readonly string[] Asks =
    [
        "We run parcels out of two depots in Leeds and would like to try a bike for a week.",
        "Price?",
        "Please call after 4pm, I'm on shift.",
        "Can you do 25 of them by March? Our present vans are at the end of their lease.",
        "hi do u deliver to bradford thx",
        "",
        "Need two booths for a call centre, ceilings 2.4 m, sprinklers above.",
        "Is the 14th of June free? Wedding, about 120 guests, garden in Kilkenny.",
        "Ich hätte gern ein Angebot für drei Kabinen, Lieferung nach Graz.",
        "Bonjour, nous sommes une association de quartier et cherchons un vélo cargo pour la livraison de repas.",
        "Hola, ¿tienen disponibilidad el 3 de julio? Somos unos 80.",
        "See our loading bay here: https://depot.example.org/bay - would it fit?",
        "ASAP!!!",
        "test ride please",
        "Our address is 12 Cable Street, gate code follows.",
        "We carry cakes. Tall ones. Will they survive cobbles? :)",
        "I saw your ad on my way home. What is the running cost a month, roughly, with insurance?",
        "Wir brauchen es bis KW 32, geht das?",
        "Second time I ask, nobody rang me back.",
        "looking for a quote, 3 booths (1 x 4 person, 2 x single), budget is about 20k, need them before the new lease starts",
        "Do you have anything to rent for just the one day? The council asks for a fire certificate.",
        "n/a",
        "-",
        "Dzień dobry, proszę o kontakt telefoniczny.",
    ];

    private static readonly string[] Firms =
    [
        "",
        "",
        "Pemberton Bakes",
        "Cable Street Couriers",
        "Lumen & Oak",
        "Stadtboten Graz",
        "Atelier Vermeil",
        "Kestrel Joinery Ltd",
        "HRS Logistik",
        "KPTZ Bydgoszcz",
        "Nook",
        "B2B Box",
        "Tyne Valley Food Bank",
    ];

    private static readonly string[] Sales =
    [
        "Hello, I was looking at your website and noticed it is not on the first page of results. Our agency can help you rank for your keywords. Shall I send a quote?",
        "We offer guest post services and backlink packages on high authority sites. Reply for prices.",
        "Dear Sir/Madam, we provide web design service at an affordable price with 100% free audit. Click here to unsubscribe.",
        "Want more customers? Increase your traffic by 500 percent with our proven SEO service. Limited time offer!",
        "Earn money from home with bitcoin, passive income guaranteed. Click here now.",
        "Business loan offer at 2% interest, no collateral. Apply today and make money work for you.",
        "I represent an investment opportunity in crypto assets that doubles in a month.",
    ];

    private static readonly string[] Links =
    [
        "https://win.example/a https://win.example/b https://win.example/c",
        "Best pills http://pills.example/1 http://pills.example/2 http://pills.example/3 order now",
        "<a href=\"https://casino.example\">casino</a> <a href=\"https://slots.example\">slots</a> free spins",
        "[url=https://replica.example]watches[/url] [url=https://replica.example/2]bags[/url] [url=https://replica.example/3]more[/url]",
        "Hi! My photos are here https://pics.example/me and here https://pics.example/more, adult only",
    ];

    private static readonly string[] Throwaway =
    [
        "tempmail.example",
        "trashmail.example",
        "10minutemail.example",
        "throwaway-box.example",
        "disposable.example",
        "spambox.example",
    ];

    /// <summary>Makes <paramref name="count"/> of them, every second one junk.</summary>
    public static IEnumerable<LabelledSubmission> Make(int count, int seed)
    {
        var random = new Random(seed);
        for (var i = 0; i < count; i++)
            yield return i % 2 == 0 ? Person(random) : Spam(random);
    }

    /// <summary>Scores them as the engine does.</summary>
    public static JunkResult Score(int count, int seed)
    {
        var (clean, alarms, junk, caught, wrong) = (0, 0, 0, 0, new List<string>());
        var map = CompiledMap.From(Map, "GB", []);
        foreach (var one in Make(count, seed))
        {
            var reading = JunkScore.OfAnswers(
                JunkScore.Of(one.Payload, one.Lately),
                one.Payload,
                map.Read(one.Payload.Answers),
                one.SameWords
            );
            var called = reading.Score >= JunkReading.Junk;
            if (one.Junk)
                (junk, caught) = (junk + 1, caught + (called ? 1 : 0));
            else
                (clean, alarms) = (clean + 1, alarms + (called ? 1 : 0));
            if (called != one.Junk)
                wrong.Add(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{(one.Junk ? "missed" : "false alarm")} {reading.Score}, {one.What}: {string.Join(" · ", one.Payload.Answers.Select(a => a.Value))} [{string.Join("; ", reading.Because)}]"
                    )
                );
        }

        return new(clean, alarms, junk, caught, wrong);
    }

    private static LabelledSubmission Person(Random random)
    {
        var name = Pick(random, People);
        var plain = Tokens.PlainOf(name).Replace(' ', '.');
        var email = random.Next(12) switch
        {
            0 => "info@" + Pick(random, ["nook.example.org", "kestrel.example.com"]),
            1 => string.Create(CultureInfo.InvariantCulture, $"{plain.Split('.')[0]}{random.Next(60, 99)}@example.com"),
            2 => "",
            _ => (plain.All(c => c < 128) ? plain : "kontakt")
                + "@"
                + Pick(random, ["example.com", "example.org", "mail.example.net"]),
        };
        var phone = random.Next(9) switch
        {
            0 => "",
            1 => "07700900" + random.Next(100, 999),
            2 => "+44 7700 900" + random.Next(100, 999),
            3 => "0113 496 0" + random.Next(100, 999) + " / 07700 900" + random.Next(100, 999),
            4 => "+1 416 555 01" + random.Next(10, 99),
            5 => "call my office",
            _ => "07700 900" + random.Next(100, 999),
        };
        var took = random.Next(4) == 0 ? "" : random.Next(4000, 90000).ToString(CultureInfo.InvariantCulture);
        return new(
            false,
            Of(name, email, phone, Pick(random, Firms), Pick(random, Asks), took, ""),
            random.Next(25) == 0 ? 9 : random.Next(3),
            random.Next(40) == 0 ? 1 : 0,
            "person"
        );
    }

    private static LabelledSubmission Spam(Random random)
    {
        var name = Pick(random, People);
        var email = Tokens.PlainOf(name).Replace(' ', '.') + "@example.net";
        var phone = "07700 900" + random.Next(100, 999);
        var slow = random.Next(5000, 60000).ToString(CultureInfo.InvariantCulture);
        var fast = random.Next(100, 1400).ToString(CultureInfo.InvariantCulture);
        return random.Next(8) switch
        {
            0 => new(
                true,
                Of(
                    Letters(random, mixed: true),
                    Letters(random, mixed: false) + "@example.com",
                    Digits(random),
                    Letters(random, mixed: true),
                    Letters(random, mixed: true),
                    slow,
                    ""
                ),
                0,
                0,
                "random letters"
            ),
            1 => new(
                true,
                Of(name, email, phone, "", Pick(random, Links), random.Next(2) == 0 ? fast : slow, ""),
                random.Next(4),
                0,
                "links"
            ),
            2 => new(true, Of(name, email, phone, "", Pick(random, Sales), slow, ""), 0, random.Next(4), "selling"),
            3 => new(
                true,
                Of(
                    Pick(random, ["asdf asdf", "qwerty qwerty", "test test", "aaaa bbbb", "Xxxx Xxxx", "sdfgh dfghj"]),
                    "asdf@" + Pick(random, Throwaway),
                    "123",
                    "",
                    "",
                    slow,
                    ""
                ),
                0,
                0,
                "keys"
            ),
            4 => new(
                true,
                Of(
                    name,
                    email,
                    phone,
                    "",
                    Pick(random, Asks),
                    fast,
                    random.Next(2) == 0 ? "https://own.example" : "filled"
                ),
                random.Next(10),
                0,
                "a program that fills in everything"
            ),
            5 => new(
                true,
                Of(
                    name,
                    Letters(random, mixed: false) + "@" + Pick(random, Throwaway),
                    "000000000",
                    "",
                    Pick(random, Asks),
                    slow,
                    ""
                ),
                0,
                0,
                "throw-away"
            ),
            6 => new(
                true,
                Of(name, email, phone, "", Pick(random, Sales), fast, ""),
                random.Next(6, 40),
                random.Next(3, 9),
                "repeats"
            ),
            _ => new(
                true,
                Of(
                    name + " https://go.example/x",
                    email,
                    random.Next(2) == 0 ? "1111111" : phone,
                    "",
                    Pick(random, Links),
                    slow,
                    ""
                ),
                0,
                0,
                "a link for a name"
            ),
        };
    }

    private static Payload Of(
        string name,
        string email,
        string phone,
        string company,
        string message,
        string took,
        string trap
    ) =>
        Payload.FromPairs(
            new (string, string)[]
            {
                ("name", name),
                ("email", email),
                ("phone", phone),
                ("company", company),
                ("message", message),
                ("lf_took", took),
                ("lf_website", trap),
            }
                .Where(p => p.Item2.Length > 0)
                .Select(p => KeyValuePair.Create(p.Item1, p.Item2))
        );

    private static string Letters(Random random, bool mixed) =>
        string.Concat(
            Enumerable
                .Range(0, random.Next(9, 15))
                .Select(_ => (char)((mixed && random.Next(2) == 0 ? 'A' : 'a') + random.Next(26)))
        );

    private static string Digits(Random random) =>
        string.Concat(Enumerable.Range(0, 10).Select(_ => (char)('0' + random.Next(10))));

    private static string Pick(Random random, string[] from) => from[random.Next(from.Length)];
}
