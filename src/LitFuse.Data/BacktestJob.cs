using LitFuse.Core.Fuses.Definition;
using LitFuse.Core.Fuses.Rehearsal;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Where a backtest stands.</summary>
public enum BacktestStatus
{
    /// <summary>Leads are going through.</summary>
    /// <remarks>Set when a person runs it. Ends with the last lead, a cancel, or a fault.</remarks>
    Running,

    /// <summary>Every lead of the period went through.</summary>
    /// <remarks>Set after the last lead. For good.</remarks>
    Done,

    /// <summary>It could not go on; the reason stands beside it.</summary>
    /// <remarks>Set when running it fails. For good.</remarks>
    Failed,

    /// <summary>Somebody stopped it.</summary>
    /// <remarks>Set by a person. For good.</remarks>
    Cancelled,
}

/// <summary>Past leads put through a fuse, in the background.</summary>
public sealed class BacktestJob : IOfClient, IEntityTypeConfiguration<BacktestJob>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid FuseId { get; set; }

    /// <summary>The fuse as it stood on the sheet.</summary>
    public FuseDefinition Definition { get; set; } = null!;

    /// <summary>The armed version beside it, where there is one that differs.</summary>
    public Guid? BesideVersionId { get; set; }

    /// <summary>Keys of the forms whose leads are put through.</summary>
    public IReadOnlyList<string> Forms { get; set; } = [];

    public Instant Since { get; set; }

    public Instant Until { get; set; }

    /// <summary>What a text's segment costs, in the client's currency.</summary>
    public decimal? SegmentPrice { get; set; }

    public BacktestStatus Status { get; set; }

    public int Total { get; set; }

    /// <summary>Leads put through so far.</summary>
    public int LeadsDone { get; set; }

    /// <summary>What came of it, once it is done.</summary>
    public BacktestTold? Told { get; set; }

    public string? Reason { get; set; }

    public Guid MadeBy { get; set; }

    public Instant MadeAt { get; set; }

    public Instant? EndedAt { get; set; }

    public Instant? LeasedUntil { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<BacktestJob> builder)
    {
        builder.ToTable("backtests");
        builder.HasIndex(b => new { b.FuseId, b.MadeAt });
        builder.HasIndex(b => b.MadeAt).HasFilter("status = 'running'").HasDatabaseName("ix_backtests_under_way");
        builder.Property<FuseDefinition?>(nameof(Definition)).AsFuse().IsRequired();
        builder.Property(b => b.Told).AsJson();
        builder.HasOne<Fuse>().WithMany().HasForeignKey(b => b.FuseId);
    }
}

/// <summary>
/// What became of one lead in a backtest: by the fuse as it stands, by the armed version, and in truth.
/// </summary>
public sealed class BacktestLead : IOfClient, IEntityTypeConfiguration<BacktestLead>
{
    public Guid BacktestId { get; set; }

    public Guid LeadId { get; set; }

    public Guid ClientId { get; set; }

    public Instant AskedAt { get; set; }

    /// <summary>A bit for each thing that happened; <see cref="BacktestMarks"/>, the least first.</summary>
    public byte[] Marks { get; set; } = [];

    /// <summary>The same for the armed version, by its own bands and steps.</summary>
    public byte[]? BesideMarks { get; set; }

    /// <summary>The same for what happened in truth, by the bands and steps of the fuse as it stands.</summary>
    public byte[] TruthMarks { get; set; } = [];

    /// <summary>Messages to the lead.</summary>
    public int ToLead { get; set; }

    public int BesideToLead { get; set; }

    public int TruthToLead { get; set; }

    /// <summary>Why the fuse was not lit.</summary>
    public string? NotLit { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<BacktestLead> builder)
    {
        builder.ToTable("backtest_leads");
        builder.HasKey(l => new { l.BacktestId, l.LeadId });
        builder.HasOne<BacktestJob>().WithMany().HasForeignKey(l => l.BacktestId);
        builder.HasOne<Lead>().WithMany().HasForeignKey(l => l.LeadId);
    }
}

/// <summary>How many leads a band took.</summary>
public sealed record BandTold(string Id, string Name, int Leads);

/// <summary>How many leads a step came to.</summary>
/// <param name="Sent">It went out, or was done.</param>
/// <param name="Waited">It waited for its hours.</param>
/// <param name="Cancelled">It was cancelled.</param>
/// <param name="Failed">It had nothing left to say, or nobody to carry it.</param>
public sealed record StepTold(
    string Id,
    string BandId,
    string Name,
    Lane Lane,
    int Sent,
    int Waited,
    int Cancelled,
    int Failed
);

/// <summary>Whom the team's steps went to.</summary>
/// <param name="Who">A channel, a person, an owner.</param>
/// <param name="Leads">How many times they were told of a lead.</param>
/// <param name="AnHour">On average in hours in which they were told of any.</param>
/// <param name="Most">In their busiest hour.</param>
/// <param name="MostAt">When that was.</param>
public sealed record DeskTold(string Who, int Leads, double AnHour, int Most, Instant MostAt);

/// <summary>One side of a backtest.</summary>
/// <param name="NoBand">Lit, and no band took them.</param>
/// <param name="Waited">Something to them waited for its hours.</param>
/// <param name="Spoken">Something went out to them by itself.</param>
/// <param name="Messages">To leads.</param>
/// <param name="PerLead">Leads by how many messages they got; the last: that many or more.</param>
/// <param name="FirstMedianSeconds">From asking to the first message to the lead: half of them sooner.</param>
/// <param name="FirstSlowSeconds">Nine in ten sooner.</param>
public sealed record SideTold(
    int Lit,
    int NoBand,
    int Waited,
    int Spoken,
    int Messages,
    int Texts,
    int Segments,
    IReadOnlyList<int> PerLead,
    double? FirstMedianSeconds,
    double? FirstSlowSeconds,
    IReadOnlyList<BandTold> Bands,
    IReadOnlyList<StepTold> Steps,
    IReadOnlyList<DeskTold> Desks
);

/// <summary>Why leads did not light it.</summary>
public sealed record NotLitTold(string Because, int Leads);

/// <summary>What came of a backtest.</summary>
/// <param name="This">The fuse as it stands.</param>
/// <param name="Beside">The armed version.</param>
/// <param name="Truth">What happened in truth: messages of all fuses; bands and steps of this one.</param>
public sealed record BacktestTold(
    int Leads,
    IReadOnlyList<NotLitTold> NotLit,
    SideTold This,
    SideTold? Beside,
    SideTold Truth
);
