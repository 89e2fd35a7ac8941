using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>A first-party id that a page gave, with consent, to a browser whose person became a lead.</summary>
public sealed class Visitor : IOfClient, IEntityTypeConfiguration<Visitor>
{
    public Guid ClientId { get; set; }

    public string VisitorId { get; set; } = "";

    public Guid LeadId { get; set; }

    public string? LastPath { get; set; }

    public Instant SeenAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Visitor> builder)
    {
        builder.HasKey(v => new { v.ClientId, v.VisitorId });
        builder.HasIndex(v => v.LeadId);
    }
}
