using System.Security.Cryptography;
using System.Text.Json;
using LitFuse.Core.Identity;
using LitFuse.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Demo;

/// <summary>
/// What is unfinished in the demonstration, as anywhere: a form whose map nobody confirmed, junk in the holding pen,
/// two leads that may be one. They are submissions like any other, and the engine makes of them what it would.
/// </summary>
public static class DemoLooseEnds
{
    /// <summary>The form whose map nobody confirmed.</summary>
    public const string NotConfirmed = "tarn-valley-school-fairs";

    /// <summary>Adds them.</summary>
    public static async Task AddAsync(
        AppDb db,
        DemoClient client,
        IReadOnlyDictionary<string, Form> forms,
        Instant now,
        CancellationToken stop
    )
    {
        switch (client.Client.Key)
        {
            case "tarn-valley":
                Fair(db, forms[NotConfirmed], now);
                break;
            case "brackenwheel":
                Junk(db, forms[DemoCast.TestRideForm], now);
                break;
            case "hollin-vane":
                await TwinsAsync(db, forms["hollin-vane-site-survey"], now, stop);
                break;
            default:
                break;
        }

        await db.SaveChangesAsync(stop);
    }

    private static void Fair(AppDb db, Form form, Instant now)
    {
        (string Name, string Mail, string Tel, string Day, string Children)[] came =
        [
            ("Perpetua Lindqvist", "perpetua.lindqvist@example.org", "020 910 4410", "14/06/2027", "180"),
            ("Hal Wetherby", "hal.wetherby@example.com", "020 911 2275", "21/06/2027", "240"),
            ("Jorun Ashdown", "jorun.ashdown@example.net", "020 915 0083", "5/7/2027", "90"),
            ("Casimir Oduya", "casimir.oduya@example.com", "", "28/06/2027", "310"),
        ];
        for (var i = 0; i < came.Length; i++)
        {
            var (name, mail, tel, day, children) = came[i];
            Put(
                db,
                form,
                now - Duration.FromMinutes(49 - (11 * i)),
                new()
                {
                    ["yourName"] = name,
                    ["school_mail"] = mail,
                    ["tel1"] = tel,
                    ["fairDate"] = day,
                    ["children"] = children,
                    ["q5"] = "We need one with walls.",
                }
            );
        }
    }

    private static void Junk(AppDb db, Form form, Instant now)
    {
        Put(
            db,
            form,
            now - Duration.FromMinutes(31),
            new()
            {
                ["first_name"] = "QeXvLoPkmz",
                ["last_name"] = "RtQwZxKj",
                ["email"] = "xkqvzt@throwaway-box.example",
                ["phone"] = "123",
                ["fleet_size"] = "25+",
                ["cargo"] = "food",
            }
        );
        Put(
            db,
            form,
            now - Duration.FromMinutes(17),
            new()
            {
                ["first_name"] = "Gareth",
                ["last_name"] = "Pell",
                ["email"] = "gareth.pell@example.net",
                ["phone"] = "0113 496 0733",
                ["company"] = "https://rank.example",
                ["fleet_size"] = "1–3",
                ["cargo"] = "tools",
                ["depot_postcode"] =
                    "Hello, I noticed you are not on the first page of results. Our agency can help you rank for your keywords, SEO audit 100% free.",
            }
        );
    }

    // Somebody who asked with one address and rang from another's number: nobody can tell whether they are one.
    private static async Task TwinsAsync(AppDb db, Form form, Instant now, CancellationToken stop)
    {
        var known = await db
            .LeadContacts.AsNoTracking()
            .Where(c => c.ClientId == form.ClientId)
            .Join(
                db.Leads.Where(l => l.FirstTouchAt != null),
                c => c.LeadId,
                l => l.Id,
                (c, l) =>
                    new
                    {
                        c.Kind,
                        c.Value,
                        l.Id,
                        l.FirstName,
                        l.LastName,
                    }
            )
            .OrderBy(c => c.Id)
            .Take(200)
            .ToListAsync(stop);
        if (
            known.Find(k => k.Kind == ContactKind.Email) is not { } one
            || known.Find(k => k.Kind == ContactKind.Phone && k.Id != one.Id) is not { } other
        )
            return;
        Put(
            db,
            form,
            now - Duration.FromHours(3),
            new()
            {
                ["full_name"] = PersonNames.Join(one.FirstName, one.LastName) ?? "",
                ["email"] = one.Value,
                ["phone"] = other.Value,
                ["company"] = "Stadium Row Offices",
                ["booths"] = "2–5",
                ["needed_by"] = "this month",
            },
            quiet: true
        );
    }

    private static void Put(AppDb db, Form form, Instant at, Dictionary<string, string> answers, bool quiet = false)
    {
        var raw = JsonSerializer.SerializeToUtf8Bytes(answers, Core.CoreJson.Options);
        db.Submissions.Add(
            new()
            {
                Id = Guid.CreateVersion7(at.ToDateTimeOffset()),
                ClientId = form.ClientId,
                FormId = form.Id,
                ReceivedAt = at,
                ContentType = "application/json",
                Raw = raw,
                DedupeKey = SHA256.HashData([.. raw, .. BitConverter.GetBytes(at.ToUnixTimeTicks())])[..24],
                Status = SubmissionStatus.Received,
                DueAt = at,
                Quiet = quiet,
                Envelope = new Envelope("door", "203.0.113.44", Page: form.PageUrl).Write(),
            }
        );
    }
}
