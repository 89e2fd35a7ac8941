using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;

namespace LitFuse.Data;

/// <summary>Where a marked test lead is sent from.</summary>
public enum ProvenFrom
{
    /// <summary>The network itself: all of the line is gone along.</summary>
    Network,

    /// <summary>Our own door: the line from there on.</summary>
    Here,
}

/// <summary>Where a proof stands.</summary>
public enum ProofState
{
    /// <summary>It is on its way.</summary>
    /// <remarks>
    /// Set when a test is sent, by a person, by the plan or after a mend. Ends at the last joint, or at one that keeps
    /// it too long.
    /// </remarks>
    Running,

    /// <summary>It went all the way.</summary>
    /// <remarks>Set when the last step has done what the fuse means. For good.</remarks>
    Proved,

    /// <summary>It came to a halt; the reason stands beside it.</summary>
    /// <remarks>Set at the joint where it does not go on. For good; another proof is another run.</remarks>
    Halted,
}

/// <summary>One marked test lead, sent to prove a line.</summary>
public sealed class ProofRun : IOfClient, IEntityTypeConfiguration<ProofRun>
{
    public Guid Id { get; set; }

    public Guid ClientId { get; set; }

    public Guid FormId { get; set; }

    public ProvenFrom From { get; set; }

    /// <summary>To whose own addresses all of it goes; <c>null</c>: down the real line.</summary>
    public Guid? OnlyTo { get; set; }

    public Instant BeganAt { get; set; }

    /// <summary>Who pressed; <c>null</c>: the form's own plan.</summary>
    public Guid? By { get; set; }

    /// <summary>Our receipt, once it is here.</summary>
    public Guid? SubmissionId { get; set; }

    /// <summary>The network's id for it.</summary>
    public string? ExternalId { get; set; }

    public ProofState State { get; set; }

    /// <summary>Why it halted, in words.</summary>
    public string? Because { get; set; }

    public Instant? EndedAt { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<ProofRun> builder)
    {
        builder.ToTable("proof_runs");
        builder.HasIndex(p => new { p.FormId, p.BeganAt });
        builder.HasIndex(p => p.BeganAt).HasFilter("state = 'running'").HasDatabaseName("ix_proof_runs_running");
        builder.HasOne<Form>().WithMany().HasForeignKey(p => p.FormId);
    }
}

/// <summary>What a network has of a form on one day of the client's calendar, beside what is here.</summary>
public sealed class NetworkDay : IOfClient, IEntityTypeConfiguration<NetworkDay>
{
    public Guid ClientId { get; set; }

    public Guid FormId { get; set; }

    public DateOnly Day { get; set; }

    /// <summary>On its own list.</summary>
    public int Theirs { get; set; }

    /// <summary>Of those, here.</summary>
    public int Ours { get; set; }

    /// <summary>Of those here, the ones that it never told of and that were fetched.</summary>
    public int Recovered { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<NetworkDay> builder)
    {
        builder.ToTable("network_days");
        builder.HasKey(d => new { d.FormId, d.Day });
        builder.HasOne<Form>().WithMany().HasForeignKey(d => d.FormId);
    }
}
