using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Where a connection stands.</summary>
public enum ConnectionState
{
    /// <summary>It was asked and may do what it is needed for.</summary>
    /// <remarks>
    /// Set when the service was asked and grants all that is needed. Ends with the next asking that finds otherwise.
    /// </remarks>
    Whole,

    /// <summary>It works, but some permissions were not given.</summary>
    /// <remarks>
    /// Set when a permission is missing, or what the service should tell us cannot be heard. Ends when the next asking
    /// finds everything.
    /// </remarks>
    Partial,

    /// <summary>It ran out.</summary>
    /// <remarks>Set when the service says that the access ran out. Ends when somebody connects it again.</remarks>
    Expired,

    /// <summary>Somebody took it back on the other side.</summary>
    /// <remarks>Set when the service no longer knows the access. Ends when somebody connects it again.</remarks>
    Withdrawn,

    /// <summary>The service could not be asked.</summary>
    /// <remarks>
    /// Set when it does not answer. Ends by itself: it is asked again, and what is delivered through it shows that it
    /// is back.
    /// </remarks>
    Unreachable,
}

/// <summary>Stored access to one outside service, used by many sources and fuses.</summary>
public sealed class Connection : IOfClient, IEntityTypeConfiguration<Connection>
{
    /// <summary>
    /// How long before it runs out people are told: a working week, so that who can renew it is there.
    /// </summary>
    public static readonly Duration RunsOutSoon = Duration.FromDays(7);

    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    /// <summary>Which kind of service: a connector's or a network's kind.</summary>
    public string Kind { get; set; } = "";

    public string Name { get; set; } = "";

    public string BaseUrl { get; set; } = "";

    /// <summary>The access token, encrypted.</summary>
    public string Secret { get; set; } = "";

    /// <summary>The secret that the service signs its notices with, encrypted.</summary>
    public string? NoticeSecret { get; set; }

    /// <summary>The private half of the key that letters are signed with (PEM), encrypted.</summary>
    public string? SigningKey { get; set; }

    /// <summary>The detail that says for which domain letters are signed.</summary>
    public const string DkimDomain = "dkim-domain";

    /// <summary>The detail that says under which selector the key is found.</summary>
    public const string DkimSelector = "dkim-selector";

    /// <summary>Own sender: a number or a name.</summary>
    public string? Sender { get; set; }

    /// <summary>What else was asked for when it was connected, by key; nothing secret.</summary>
    public IReadOnlyDictionary<string, string> Details { get; set; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    /// <summary>Whose access it is, in the service's words.</summary>
    public string? Account { get; set; }

    /// <summary>Permissions given, by the service's keys.</summary>
    public IReadOnlyList<string> Granted { get; set; } = [];

    public ConnectionState State { get; set; }

    /// <summary>What is wrong, in words; <c>null</c> when nothing is.</summary>
    public string? Fault { get; set; }

    public Instant? ExpiresAt { get; set; }

    /// <summary>When the service was last asked what this may do.</summary>
    public Instant? VerifiedAt { get; set; }

    /// <summary>When it last worked.</summary>
    public Instant? GoodAt { get; set; }

    /// <summary>Since when nothing is sent through it: what is to be sent waits, in order.</summary>
    public Instant? PausedAt { get; set; }

    public Guid? PausedBy { get; set; }

    /// <summary>How many deliveries may be under way at once; <c>null</c>: as many as usual.</summary>
    public int? AtOnce { get; set; }

    /// <summary>How many may begin in a minute, of all processes together; <c>null</c>: any number.</summary>
    public int? PerMinute { get; set; }

    /// <summary>
    /// How many of this minute's share are left, as of <see cref="TokensAt"/>; they come back evenly. Set by each
    /// claim, taken away with the limit.
    /// </summary>
    public double? Tokens { get; set; }

    public Instant? TokensAt { get; set; }

    /// <summary>Temporary failures in a row; the first success ends them.</summary>
    public int Failures { get; set; }

    /// <summary>
    /// Until when it is left alone, after too many failures, or while the one attempt is under way that tries it.
    /// </summary>
    public Instant? RestUntil { get; set; }

    /// <summary>How many may be under way while it opens again after a rest; <c>null</c>: it is open.</summary>
    public int? Width { get; set; }

    /// <summary>The secret before the present one, encrypted, while both are good.</summary>
    public string? OlderSecret { get; set; }

    /// <summary>Until when.</summary>
    public Instant? OlderUntil { get; set; }

    public Instant? MadeAt { get; set; }

    public Guid? MadeBy { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Connection> builder)
    {
        builder.HasIndex(c => new { c.ClientId, c.Kind });
        builder.Property(c => c.Failures).HasDefaultValue(0);
        builder.Property(c => c.Granted).AsJson().HasDefaultValueSql("'[]'::jsonb");
        builder.Property(c => c.Details).AsJson().HasDefaultValueSql("'{}'::jsonb");
        builder.Property(c => c.State).HasDefaultValue(ConnectionState.Whole);
    }
}
