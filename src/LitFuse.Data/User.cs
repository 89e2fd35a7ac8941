using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace LitFuse.Data;

/// <summary>A person with an account.</summary>
public sealed class User : IdentityUser<Guid>
{
    /// <summary>As shown to colleagues.</summary>
    public string Name { get; set; } = "";

    /// <summary>Where the texts of <em>only me</em> tests go (E.164).</summary>
    public string? TestPhone { get; set; }

    /// <summary>Where their letters go.</summary>
    public string? TestEmail { get; set; }

    /// <summary>Who the posts go to, in the team's chat.</summary>
    public string? TestPerson { get; set; }

    /// <summary>Calls may ring their phone: they are marked available.</summary>
    public bool TakesCalls { get; set; } = true;
}

/// <summary>What a person is to a client.</summary>
public enum Role
{
    /// <summary>Answers for all clients.</summary>
    AgencyLead,

    /// <summary>Sets up what happens: sources, fuses, leads.</summary>
    Marketer,

    /// <summary>Reaches out.</summary>
    Rep,
}

/// <summary>A person's role for one client, or for all of them.</summary>
public sealed class Membership : IEntityTypeConfiguration<Membership>
{
    public Guid Id { get; set; }

    public Guid UserId { get; set; }

    /// <summary><c>null</c>: every client there is or will be.</summary>
    public Guid? ClientId { get; set; }

    public Role Role { get; set; }

    /// <inheritdoc />
    public void Configure(EntityTypeBuilder<Membership> builder)
    {
        builder.HasIndex(m => new { m.UserId, m.ClientId }).IsUnique();
        builder.HasOne<User>().WithMany().HasForeignKey(m => m.UserId);
    }
}
