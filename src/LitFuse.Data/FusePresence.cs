using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Somebody who has a fuse's sheet open, in any window of any process.</summary>
public sealed class FusePresence : IOfClient, IEntityTypeConfiguration<FusePresence>
{
    public Guid FuseId { get; set; }

    public Guid UserId { get; set; }

    public Guid ClientId { get; set; }

    public Instant SeenAt { get; set; }

    /// <summary>When they changed something last, since they came.</summary>
    public Instant? EditedAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<FusePresence> builder)
    {
        builder.ToTable("fuse_presences");
        builder.HasKey(p => new { p.FuseId, p.UserId });
        builder.HasOne<Fuse>().WithMany().HasForeignKey(p => p.FuseId);
    }
}
