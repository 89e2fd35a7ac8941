using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>The record of one attempt: what was said, what was answered, how long it took, how it ended.</summary>
public sealed class DeliveryTry : IOfClient, IEntityTypeConfiguration<DeliveryTry>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid DeliveryId { get; set; }

    /// <summary>From 1.</summary>
    public int Number { get; set; }

    public Instant BeganAt { get; set; }

    public int TookMs { get; set; }

    /// <summary>Where the delivery stood after it.</summary>
    public DeliveryStatus Status { get; set; }

    /// <summary>In words.</summary>
    public string Reason { get; set; } = "";

    /// <summary>Secrets masked, bounded.</summary>
    public IReadOnlyList<Exchange> Exchanges { get; set; } = [];

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<DeliveryTry> builder)
    {
        builder.ToTable("delivery_tries");
        builder.HasIndex(t => new { t.DeliveryId, t.BeganAt });
        builder.Property(t => t.Exchanges).AsJson();
        builder.HasOne<OutboxDelivery>().WithMany().HasForeignKey(t => t.DeliveryId).OnDelete(DeleteBehavior.Cascade);
    }
}
