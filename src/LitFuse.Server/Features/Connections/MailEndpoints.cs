using System.Security.Cryptography;
using LitFuse.Connectors;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace LitFuse.Server.Features.Connections;

/// <summary>How a mail server tells us what comes in, and how letters are signed.</summary>
/// <param name="Address">Where it posts each message as it came (message/rfc822), signed by the Standard Webhooks
/// scheme.</param>
/// <param name="Hears">It has a secret to sign with.</param>
/// <param name="Record">The DNS record to publish: its name and its text; <c>null</c>: letters are not signed.</param>
public sealed record MailSetup(string Address, bool Hears, string? Domain, string? Selector, DnsRecord? Record)
{
    /// <summary>What it is to sign with, told once.</summary>
    public string? Secret { get; init; }
}

/// <summary>A TXT record.</summary>
public sealed record DnsRecord(string Name, string Text);

/// <summary>For which domain letters are to be signed; none: no more.</summary>
public sealed record DkimAsked(string? Domain, string? Selector);

/// <summary>A mail connection's other half: replies and bounces in, signatures out.</summary>
public static class MailEndpoints
{
    /// <summary>Maps them.</summary>
    public static void Map(RouteGroupBuilder connections)
    {
        connections
            .MapGet("/{connectionId}/mail", GetAsync)
            .Needs(Act.EditSources)
            .WithSummary("How replies come in, and how letters are signed");
        connections
            .MapPost("/{connectionId}/mail/secret", SecretAsync)
            .Needs(Act.EditSources)
            .WithSummary("A new secret for what comes in; told once");
        connections
            .MapPut("/{connectionId}/mail/dkim", DkimAsync)
            .Needs(Act.EditSources)
            .WithSummary("Sign letters (DKIM, RFC 6376), with a key made here; or no more");
    }

    private static async Task<Results<Ok<MailSetup>, ProblemHttpResult>> GetAsync(
        Guid connectionId,
        AppDb db,
        ConnectionOpener opener,
        CancellationToken stop
    ) =>
        await FindAsync(db, connectionId, stop) is { } mail
            ? TypedResults.Ok(Of(mail, opener))
            : Problems.No("mail server");

    private static async Task<Results<Ok<MailSetup>, ProblemHttpResult>> SecretAsync(
        Guid connectionId,
        AppDb db,
        Secrets secrets,
        ConnectionOpener opener,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, connectionId, stop) is not { } mail)
            return Problems.No("mail server");
        var secret = Keys.Signing();
        mail.NoticeSecret = secrets.Seal(secret);
        await db.SaveChangesAsync(stop);
        return TypedResults.Ok(Of(mail, opener) with { Secret = secret });
    }

    private static async Task<Results<Ok<MailSetup>, ProblemHttpResult>> DkimAsync(
        Guid connectionId,
        DkimAsked asked,
        AppDb db,
        Secrets secrets,
        ConnectionOpener opener,
        CancellationToken stop
    )
    {
        if (await FindAsync(db, connectionId, stop) is not { } mail)
            return Problems.No("mail server");
        var details = new Dictionary<string, string>(mail.Details, StringComparer.Ordinal);
        details.Remove(Connection.DkimDomain);
        details.Remove(Connection.DkimSelector);
        mail.SigningKey = null;
        if (!string.IsNullOrWhiteSpace(asked.Domain))
        {
            var (domain, selector) = (
                asked.Domain.Trim().ToLowerInvariant(),
                (asked.Selector ?? "").Trim().ToLowerInvariant()
            );
            if (
                domain.Length > 253
                || !domain.Contains('.', StringComparison.Ordinal)
                || Uri.CheckHostName(domain) != UriHostNameType.Dns
            )
                return Problems.Bad("domain", "Write the domain that letters come from, as in brackenwheel.example.");
            if (selector.Length is 0 or > 63 || !selector.All(c => char.IsAsciiLetterOrDigit(c) || c == '-'))
                return Problems.Bad("selector", "Give the key a name of letters, digits and hyphens, as in litfuse.");
            (details[Connection.DkimDomain], details[Connection.DkimSelector]) = (domain, selector);
            using var key = RSA.Create(2048);
            mail.SigningKey = secrets.Seal(key.ExportRSAPrivateKeyPem());
        }

        mail.Details = details;
        await db.SaveChangesAsync(stop);
        return TypedResults.Ok(Of(mail, opener));
    }

    private static Task<Connection?> FindAsync(AppDb db, Guid id, CancellationToken stop) =>
        db.Connections.SingleOrDefaultAsync(c => c.Id == id && c.Kind == "pillarpost", stop);

    private static MailSetup Of(Connection mail, ConnectionOpener opener)
    {
        var access = opener.Open(mail);
        return new(
            access.NoticesUrl,
            mail.NoticeSecret is not null,
            access.Dkim?.Domain,
            access.Dkim?.Selector,
            access.Dkim is { } dkim ? RecordOf(dkim) : null
        );
    }

    // RFC 6376 § 3.6.1: the public half, as SubjectPublicKeyInfo.
    private static DnsRecord RecordOf(DkimKey dkim)
    {
        using var key = RSA.Create();
        key.ImportFromPem(dkim.Pem);
        return new(
            $"{dkim.Selector}._domainkey.{dkim.Domain}",
            "v=DKIM1; k=rsa; p=" + Convert.ToBase64String(key.ExportSubjectPublicKeyInfo())
        );
    }
}
