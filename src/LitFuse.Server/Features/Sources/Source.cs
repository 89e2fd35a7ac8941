using LitFuse.Core.Mapping;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Server.Features.Sources;

/// <summary>A connected place that sends submissions.</summary>
public sealed class Source : IOfClient, IEntityTypeConfiguration<Source>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    /// <summary>The kind of place: <c>pagewright</c>, <c>plaza</c>…</summary>
    public string Kind { get; set; } = "";

    public string Name { get; set; } = "";

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Source> builder) => builder.HasIndex(s => s.ClientId);
}

/// <summary>How a field of a form is asked.</summary>
public enum FormFieldType
{
    Text,
    Email,
    Phone,
    Choice,
    LongText,
}

/// <summary>One field of a form.</summary>
/// <param name="Name">As submitted.</param>
/// <param name="Label">The question as the person read it.</param>
/// <param name="Type">How it is asked.</param>
/// <param name="Required">Must be answered.</param>
/// <param name="Choices">For a choice.</param>
public sealed record FormField(string Name, string Label, FormFieldType Type, bool Required, IReadOnlyList<string> Choices);

/// <summary>One form of a source.</summary>
public sealed class Form : IOfClient, IEntityTypeConfiguration<Form>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid SourceId { get; set; }

    /// <summary>In the address submissions are sent to: <c>/in/{key}</c>.</summary>
    public string Key { get; set; } = "";

    public string Name { get; set; } = "";

    public IReadOnlyList<FormField> Fields { get; set; } = [];

    /// <summary>Where a visitor goes after sending it.</summary>
    public string? ThankYouUrl { get; set; }

    /// <summary>The page it stands on.</summary>
    public string? PageUrl { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Form> builder)
    {
        builder.HasIndex(f => f.Key).IsUnique();
        builder.HasIndex(f => f.ClientId);
        builder.Property(f => f.Fields).AsJson();
        builder.HasOne<Source>().WithMany().HasForeignKey(f => f.SourceId);
    }

    /// <summary>A field's question, or its name where the form does not know it.</summary>
    public string LabelOf(string field) => Fields.FirstOrDefault(f => f.Name == field)?.Label ?? field;
}

/// <summary>Whether a person has confirmed a field map.</summary>
public enum MapStatus
{
    /// <summary>Nothing flows through it.</summary>
    Suggested,

    /// <summary>A person said it is right.</summary>
    Confirmed,
}

/// <summary>One version of a form's field map. Versions are never changed.</summary>
public sealed class FormMap : IOfClient, IEntityTypeConfiguration<FormMap>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid FormId { get; set; }

    public int Version { get; set; }

    public MapStatus Status { get; set; }

    public FieldMap Map { get; set; } = new([]);

    public Instant MadeAt { get; set; }

    public Guid? ConfirmedBy { get; set; }

    public Instant? ConfirmedAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<FormMap> builder)
    {
        builder.HasIndex(m => new { m.FormId, m.Version }).IsUnique();
        builder.Property(m => m.Map).AsJson();
        builder.HasOne<Form>().WithMany().HasForeignKey(m => m.FormId);
    }
}

/// <summary>A lead field of the client's own.</summary>
public sealed class LeadFieldDef : IOfClient, IEntityTypeConfiguration<LeadFieldDef>
{
    public Guid ClientId { get; set; }

    public string Key { get; set; } = "";

    public string Label { get; set; } = "";

    public IReadOnlyList<string> Choices { get; set; } = [];

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<LeadFieldDef> builder)
    {
        builder.HasKey(f => new { f.ClientId, f.Key });
        builder.Property(f => f.Choices).AsJson();
    }
}
