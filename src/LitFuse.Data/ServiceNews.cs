using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Something that a service told us about a lead's record there.</summary>
public sealed class ServiceNews : IOfClient, IEntityTypeConfiguration<ServiceNews>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid ConnectionId { get; set; }

    /// <summary>The service's own id: the same news told twice is one.</summary>
    public string Reference { get; set; } = "";

    public string Event { get; set; } = "";

    public string Words { get; set; } = "";

    /// <summary>By the kind's details, so that past leads can be put through bands that pick by them.</summary>
    public IReadOnlyDictionary<string, string> Details { get; set; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    public Guid LeadId { get; set; }

    public Instant At { get; set; }

    public Instant KnownAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<ServiceNews> builder)
    {
        builder.ToTable("service_news");
        builder.HasIndex(n => new { n.ConnectionId, n.Reference }).IsUnique();
        builder.HasOne<Connection>().WithMany().HasForeignKey(n => n.ConnectionId);
        builder.HasIndex(n => n.LeadId);
        builder.Property(n => n.Details).AsJson().HasDefaultValueSql("'{}'::jsonb");
    }
}
