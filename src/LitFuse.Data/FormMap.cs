using LitFuse.Core.Fields;
using LitFuse.Core.Mapping;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

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

/// <summary>A lead field of the client's own; under a standard field's key, the rule of that one.</summary>
public sealed class LeadFieldDef : IOfClient, IEntityTypeConfiguration<LeadFieldDef>
{
    public Guid ClientId { get; set; }

    public string Key { get; set; } = "";

    public string Label { get; set; } = "";

    public LeadFieldType Type { get; set; }

    public IReadOnlyList<string> Choices { get; set; } = [];

    public FillRule Rule { get; set; }

    /// <summary>As the core knows it.</summary>
    public LeadField AsField() => new(Key, Label, Type, Choices, Rule);

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<LeadFieldDef> builder)
    {
        builder.HasKey(f => new { f.ClientId, f.Key });
        builder.Property(f => f.Choices).AsJson();
        builder.Property(f => f.Rule).HasDefaultValue(FillRule.NewestWins);
    }
}

/// <summary>Where processing earlier submissions again stands.</summary>
public enum ReprocessingStatus
{
    /// <summary>Earlier submissions are read through the new map.</summary>
    /// <remarks>
    /// Set when a person confirms what changes. Ends with the last submission, or when somebody cancels it.
    /// </remarks>
    Running,

    /// <summary>All were read.</summary>
    /// <remarks>Set after the last one. For good.</remarks>
    Done,

    /// <summary>Somebody stopped it; what was read stays read.</summary>
    /// <remarks>Set by a person. For good.</remarks>
    Cancelled,
}

/// <summary>Earlier submissions of a form going through its newest map. Lights nothing.</summary>
public sealed class Reprocessing : IOfClient, IEntityTypeConfiguration<Reprocessing>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid FormId { get; set; }

    public int MapVersion { get; set; }

    public int Total { get; set; }

    public int Done { get; set; }

    /// <summary>Leads that were changed.</summary>
    public int Changed { get; set; }

    public ReprocessingStatus Status { get; set; }

    /// <summary>The last submission done; ids are in the order of arrival.</summary>
    public Guid Cursor { get; set; }

    public Guid MadeBy { get; set; }

    public Instant MadeAt { get; set; }

    public Instant? EndedAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Reprocessing> builder)
    {
        builder.HasIndex(r => r.FormId);
        builder.HasIndex(r => r.Status).HasFilter("status = 'running'");
    }
}
