using LitFuse.Core.Files;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Where an import stands.</summary>
public enum ImportStatus
{
    /// <summary>The file is here and has been looked at; nothing was imported.</summary>
    /// <remarks>
    /// Set when a file was read in and looked over. Ends when a person starts the import, or removes it.
    /// </remarks>
    Ready,

    /// <summary>Rows are being read.</summary>
    /// <remarks>Set when a person starts it. Ends with the last row, a cancel, or a fault.</remarks>
    Running,

    /// <summary>All rows were read.</summary>
    /// <remarks>Set after the last row. Ends when somebody undoes it.</remarks>
    Done,

    /// <summary>Stopped by a person; what was imported stays until it is undone.</summary>
    /// <remarks>Set by a person. Ends when somebody undoes it.</remarks>
    Cancelled,

    /// <summary>What it had made is being taken out again.</summary>
    /// <remarks>Set when a person undoes it. Ends when nothing of it is left.</remarks>
    Undoing,

    /// <summary>All that it had made was taken out again.</summary>
    /// <remarks>Set when nothing of it is left. For good.</remarks>
    Undone,

    /// <summary>It could not go on; the reason stands beside it.</summary>
    /// <remarks>Set when it cannot go on. Ends when somebody undoes it.</remarks>
    Failed,
}

/// <summary>One file of leads, and how it is read.</summary>
public sealed class Import : IOfClient, IEntityTypeConfiguration<Import>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid SourceId { get; set; }

    /// <summary>
    /// The form made for this file; <c>null</c> where the rows belong to forms of the source already.
    /// </summary>
    public Guid? FormId { get; set; }

    public string FileName { get; set; } = "";

    public long Bytes { get; set; }

    public ImportStatus Status { get; set; }

    public ImportReading Reading { get; set; } = ImportReading.Nothing;

    /// <summary>True when the imported rows light fuses as submissions do.</summary>
    public bool Lights { get; set; }

    /// <summary>Files of a source that were picked up by themselves are not picked up twice.</summary>
    public string? PickedUp { get; set; }

    /// <summary>Data rows read so far.</summary>
    public int RowsDone { get; set; }

    /// <summary>Bytes of the file read so far.</summary>
    public long BytesDone { get; set; }

    public int NewLeads { get; set; }

    public int Updates { get; set; }

    public int Doubles { get; set; }

    public int BadRows { get; set; }

    public string? Reason { get; set; }

    /// <summary>The person, or <c>null</c> for a scheduled pick-up.</summary>
    public Guid? MadeBy { get; set; }

    public Instant MadeAt { get; set; }

    public Instant? StartedAt { get; set; }

    public Instant? EndedAt { get; set; }

    public Instant? LeasedUntil { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Import> builder)
    {
        builder.HasIndex(i => new { i.ClientId, i.MadeAt });
        builder.HasIndex(i => new { i.SourceId, i.PickedUp }).IsUnique().HasFilter("picked_up is not null");
        builder
            .HasIndex(i => i.Status)
            .HasFilter("status in ('running', 'undoing')")
            .HasDatabaseName("ix_imports_under_way");
        builder.Property(i => i.Reading).AsJson();
    }
}

/// <summary>A piece of an import's file.</summary>
public sealed class ImportChunk : IOfClient, IEntityTypeConfiguration<ImportChunk>
{
    public Guid ImportId { get; set; }

    public int Number { get; set; }

    public Guid ClientId { get; set; }

    public byte[] Data { get; set; } = [];

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<ImportChunk> builder) => builder.HasKey(c => new { c.ImportId, c.Number });
}

/// <summary>A row that could not be imported.</summary>
public sealed class ImportBadRow : IOfClient, IEntityTypeConfiguration<ImportBadRow>
{
    public Guid ImportId { get; set; }

    /// <summary>As counted in the file, the header row being 1.</summary>
    public int Row { get; set; }

    public Guid ClientId { get; set; }

    public string Reason { get; set; } = "";

    public IReadOnlyList<string> Cells { get; set; } = [];

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<ImportBadRow> builder)
    {
        builder.HasKey(r => new { r.ImportId, r.Row });
        builder.Property(r => r.Cells).AsJson();
    }
}

/// <summary>What a lead held before an import changed it, for undoing.</summary>
public sealed class ImportChange : IOfClient, IEntityTypeConfiguration<ImportChange>
{
    public Guid ImportId { get; set; }

    public Guid LeadId { get; set; }

    public Guid ClientId { get; set; }

    public IReadOnlyDictionary<string, string> Before { get; set; } =
        new Dictionary<string, string>(StringComparer.Ordinal);

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<ImportChange> builder)
    {
        builder.HasKey(c => new { c.ImportId, c.LeadId });
        builder.Property(c => c.Before).AsJson();
    }
}
