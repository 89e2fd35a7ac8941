using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace LitFuse.Data;

/// <summary>A picture that stands in the opening of a form.</summary>
public sealed class FormPicture : IOfClient, IEntityTypeConfiguration<FormPicture>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public string ContentType { get; set; } = "";

    public byte[] Bytes { get; set; } = [];

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<FormPicture> builder) => builder.HasIndex(p => p.ClientId);
}
