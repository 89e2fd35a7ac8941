using LitFuse.Core.Hours;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>A business whose leads these are.</summary>
public sealed class Client : IEntityTypeConfiguration<Client>
{
    public Guid Id { get; set; }

    /// <summary>Short and fixed, for addresses: <c>brackenwheel</c>.</summary>
    public string Key { get; set; } = "";

    public string Name { get; set; } = "";

    /// <summary>For narrow places.</summary>
    public string ShortName { get; set; } = "";

    /// <summary>tz database id.</summary>
    public string Zone { get; set; } = "";

    /// <summary>ISO 3166-1 alpha-2: taken where a phone has no country code.</summary>
    public string Country { get; set; } = "";

    /// <summary>ISO 4217.</summary>
    public string Currency { get; set; } = "";

    /// <summary>From submission to first touch, in working hours.</summary>
    public int TargetSeconds { get; set; }

    public TimeOnly SendFrom { get; set; }

    public TimeOnly SendTo { get; set; }

    public TimeOnly WorkFrom { get; set; }

    public TimeOnly WorkTo { get; set; }

    /// <summary>ISO numbers of the working days, Monday = 1.</summary>
    public int[] WorkDays { get; set; } = [];

    /// <summary>Days on which nobody works.</summary>
    public IReadOnlyList<Holiday> Holidays { get; set; } = [];

    /// <summary>How many automatic messages a lead gets in a day at most; 0: any number.</summary>
    public int MostADay { get; set; }

    /// <summary>What a segment of a text costs, in the currency's minor unit; <c>null</c>: nobody has said.</summary>
    public decimal? SegmentPrice { get; set; }

    /// <summary>The stages that leads go through, in order; the first is where they begin.</summary>
    public IReadOnlyList<string> Stages { get; set; } = UsualStages;

    /// <summary>Where nobody has said anything else.</summary>
    public static IReadOnlyList<string> UsualStages { get; } = ["New", "Spoken", "Won", "Lost"];

    /// <summary>
    /// Since when everything is held: nothing goes out and no burn goes on, while submissions are kept as ever.
    /// </summary>
    public Instant? HeldAt { get; set; }

    public Guid? HeldBy { get; set; }

    /// <summary>
    /// Counted up by triggers whenever the client, or a form, map, fuse or connection of its, changes.
    /// </summary>
    public long Revision { get; private set; }

    /// <summary>When a lead may be written to.</summary>
    public OpenHours SendHours() => new(SendFrom.ToLocalTime(), SendTo.ToLocalTime(), OpenHours.EveryDay);

    /// <summary>When the target's clock runs.</summary>
    public OpenHours WorkHours() =>
        new(WorkFrom.ToLocalTime(), WorkTo.ToLocalTime(), [.. WorkDays.Select(d => (IsoDayOfWeek)d)])
        {
            Closed =
                Holidays.Count == 0
                    ? null
                    : Holidays.Select(h => new LocalDate(h.Day.Year, h.Day.Month, h.Day.Day)).ToHashSet(),
        };

    /// <summary>The client's zone.</summary>
    public DateTimeZone DateTimeZone() => DateTimeZoneProviders.Tzdb[Zone];

    /// <summary>When a person must have reached out to someone who asked at <paramref name="askedAt"/>.</summary>
    public Instant TargetFor(Instant askedAt) =>
        WorkHours().AfterOpenTime(askedAt, Duration.FromSeconds(TargetSeconds), DateTimeZone());

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Client> builder)
    {
        builder.HasIndex(c => c.Key).IsUnique();
        builder.Property(c => c.Holidays).AsJson().HasDefaultValueSql("'[]'::jsonb");
        builder.Property(c => c.Stages).HasColumnType("text[]").HasDefaultValueSql("'{New,Spoken,Won,Lost}'::text[]");
    }
}

/// <summary>A day on which nobody of a client works.</summary>
public sealed record Holiday(DateOnly Day, string Name);

/// <summary>What was spent on a source's campaign in a day of the client's own calendar.</summary>
public sealed class SpendDay : IOfClient, IEntityTypeConfiguration<SpendDay>
{
    public Guid ClientId { get; set; }

    public DateOnly Day { get; set; }

    public Guid SourceId { get; set; }

    public string Campaign { get; set; } = "";

    /// <summary>In the currency's minor unit.</summary>
    public long AmountMinor { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<SpendDay> builder) =>
        builder.HasKey(s => new
        {
            s.ClientId,
            s.Day,
            s.SourceId,
            s.Campaign,
        });
}

internal static class TimeOnlyExtensions
{
    /// <summary>The same time of day for NodaTime.</summary>
    public static LocalTime ToLocalTime(this TimeOnly time) => new(time.Hour, time.Minute, time.Second);
}
