using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>
/// Something that one person is told in Lit Fuse: by a fuse, of a lead; or that a form's line is cut.
/// </summary>
public sealed class Notice : IOfClient, IEntityTypeConfiguration<Notice>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid UserId { get; set; }

    public Guid? LeadId { get; set; }

    /// <summary>Whose line is cut, where it is about no lead.</summary>
    public Guid? FormId { get; set; }

    public string Words { get; set; } = "";

    public Instant At { get; set; }

    public Instant? ReadAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Notice> builder)
    {
        builder.HasIndex(n => new { n.UserId, n.At });
        builder.HasOne<Lead>().WithMany().HasForeignKey(n => n.LeadId);
        builder.HasOne<Form>().WithMany().HasForeignKey(n => n.FormId);
    }
}
