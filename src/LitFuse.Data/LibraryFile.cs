using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>A file that letters of a client can bring: a price list, a brochure.</summary>
public sealed class LibraryFile : IOfClient, IEntityTypeConfiguration<LibraryFile>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    /// <summary>With its ending.</summary>
    public string Name { get; set; } = "";

    /// <summary>Its media type, by its ending.</summary>
    public string Type { get; set; } = "";

    public int Size { get; set; }

    public byte[] Bytes { get; set; } = [];

    public Instant MadeAt { get; set; }

    public Guid MadeBy { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<LibraryFile> builder)
    {
        builder.ToTable("library_files");
        builder.HasIndex(f => new { f.ClientId, f.Name }).IsUnique();
    }
}
