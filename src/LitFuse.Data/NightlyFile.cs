using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>A file of leads that goes out every day, by mail or into a folder.</summary>
public sealed class NightlyFile : IOfClient, IEntityTypeConfiguration<NightlyFile>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public string Name { get; set; } = "";

    /// <summary>Through which: a mail server, or a folder.</summary>
    public Guid ConnectionId { get; set; }

    /// <summary>An email address, or the folder's path.</summary>
    public string To { get; set; } = "";

    /// <summary><c>csv</c>, <c>xlsx</c> or <c>ndjson</c>.</summary>
    public string Format { get; set; } = "csv";

    /// <summary>Lead fields and facts, in order.</summary>
    public IReadOnlyList<string> Columns { get; set; } = [];

    /// <summary>Only those who asked on the day before; else all.</summary>
    public bool OfTheDay { get; set; }

    /// <summary>When, on the client's clock.</summary>
    public LocalTime At { get; set; }

    public Instant DueAt { get; set; }

    /// <summary>How often the present one was tried.</summary>
    public int Attempts { get; set; }

    public Instant? SentAt { get; set; }

    /// <summary>How many leads stood in the last one.</summary>
    public int? Rows { get; set; }

    /// <summary>Why the last one did not go, or <c>null</c>.</summary>
    public string? Fault { get; set; }

    public Guid? MadeBy { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<NightlyFile> builder)
    {
        builder.HasIndex(f => f.DueAt);
        builder.Property(f => f.Columns).AsJson();
        builder.HasOne<Connection>().WithMany().HasForeignKey(f => f.ConnectionId);
    }
}
