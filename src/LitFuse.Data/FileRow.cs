using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>
/// A row of a file sheet of a client's. Rows are only ever added: of those with one key the newest is the row as it
/// stands, so that writing one needs to look for nothing.
/// </summary>
public sealed class FileRow : IOfClient, IEntityTypeConfiguration<FileRow>
{
    /// <summary>The longest name of a sheet.</summary>
    public const int LongestName = 60;

    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid LeadId { get; set; }

    /// <summary>The sheet's name.</summary>
    public string Sheet { get; set; } = "";

    /// <summary>Which row it is: the lead's, where it is changed each time; else its own.</summary>
    public Guid RowKey { get; set; }

    /// <summary>By column.</summary>
    public IReadOnlyDictionary<string, string> Cells { get; set; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    public Instant At { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<FileRow> builder)
    {
        builder.HasIndex(r => new
        {
            r.ClientId,
            r.Sheet,
            r.RowKey,
            r.Id,
        });
        builder.HasIndex(r => r.LeadId);
        builder.Property(r => r.Cells).AsJson();
    }
}
