using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>A program's key. Only its hash is kept: it is shown once.</summary>
public sealed class ApiKey : IOfClient, IEntityTypeConfiguration<ApiKey>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public string Name { get; set; } = "";

    /// <summary>Its first characters, to tell keys apart.</summary>
    public string Start { get; set; } = "";

    /// <summary>SHA-256 of the whole key, which has 256 random bits of its own.</summary>
    public byte[] Hash { get; set; } = [];

    public Guid MadeBy { get; set; }

    public Instant MadeAt { get; set; }

    public Instant? UsedAt { get; set; }

    public Instant? RevokedAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<ApiKey> builder)
    {
        builder.HasIndex(k => k.Hash).IsUnique();
        builder.HasIndex(k => k.ClientId);
    }
}
