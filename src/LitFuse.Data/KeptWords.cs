using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>One version of words ready for use. Versions never change; new words make the next.</summary>
public sealed class KeptWords : IOfClient, IEntityTypeConfiguration<KeptWords>
{
    public Guid ClientId { get; set; }

    /// <summary>Short and fixed: <c>thank-you</c>.</summary>
    public string Key { get; set; } = "";

    public int Version { get; set; }

    public string Name { get; set; } = "";

    public string Words { get; set; } = "";

    /// <summary>For letters.</summary>
    public string? Subject { get; set; }

    public Instant MadeAt { get; set; }

    public Guid? MadeBy { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<KeptWords> builder) =>
        builder.HasKey(w => new
        {
            w.ClientId,
            w.Key,
            w.Version,
        });
}
