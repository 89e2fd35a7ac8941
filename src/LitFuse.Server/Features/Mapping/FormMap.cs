using LitFuse.Core.Mapping;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Platform;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Server.Features.Mapping;

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

/// <summary>Confirms maps.</summary>
public static class Confirming
{
    /// <summary>Adds the next version of a form's map, confirmed, within the caller's transaction. The caller saves, and releases what waits: what lacks a field that is lost all the same goes on waiting for that.</summary>
    /// <returns>The version.</returns>
    public static async Task<int> ConfirmAsync(
        this AppDb db,
        Form form,
        FieldMap map,
        Guid? by,
        Instant now,
        CancellationToken stop
    )
    {
        await db.Database.ExecuteSqlAsync(
            $"select pg_advisory_xact_lock(hashtextextended({"map" + form.Id.ToString("N")}, 0))",
            stop
        );
        var version = (await db.FormMaps.Where(m => m.FormId == form.Id).MaxAsync(m => (int?)m.Version, stop) ?? 0) + 1;
        db.FormMaps.Add(
            new()
            {
                Id = Guid.CreateVersion7(),
                ClientId = form.ClientId,
                FormId = form.Id,
                Version = version,
                Status = MapStatus.Confirmed,
                Map = map,
                MadeAt = now,
                ConfirmedBy = by,
                ConfirmedAt = now,
            }
        );
        db.Tell(form.ClientId, ChangeKind.Form, form.Id);
        return version;
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
    Running,
    Done,
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
