using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace LitFuse.Server.Features.Accounts;

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

/// <summary>Something a person may be allowed to do.</summary>
public enum Act
{
    /// <summary>Be signed in, as anyone.</summary>
    BeHere,

    /// <summary>See the Watch and the strip of clients.</summary>
    SeeWatch,

    /// <summary>See leads and their stories.</summary>
    SeeLeads,

    /// <summary>Take, release, touch and write to leads.</summary>
    TouchLeads,

    /// <summary>See sources, forms and submissions.</summary>
    SeeSources,

    /// <summary>Connect sources, build forms, import files, make API keys.</summary>
    EditSources,

    /// <summary>See fuses and their run sheets.</summary>
    SeeFuses,

    /// <summary>Edit drafts, arm and disarm.</summary>
    EditFuses,
}

/// <summary>Who may do what: the whole table. Every endpoint names its act, and the tests walk both.</summary>
public static class Permissions
{
    /// <summary>Acts by role.</summary>
    public static IReadOnlyDictionary<Role, IReadOnlySet<Act>> Table { get; } =
        new Dictionary<Role, IReadOnlySet<Act>>
        {
            [Role.AgencyLead] = new HashSet<Act>
            {
                Act.BeHere,
                Act.SeeWatch,
                Act.SeeLeads,
                Act.TouchLeads,
                Act.SeeSources,
                Act.EditSources,
                Act.SeeFuses,
                Act.EditFuses,
            },
            [Role.Marketer] = new HashSet<Act>
            {
                Act.BeHere,
                Act.SeeWatch,
                Act.SeeLeads,
                Act.TouchLeads,
                Act.SeeSources,
                Act.EditSources,
                Act.SeeFuses,
                Act.EditFuses,
            },
            [Role.Rep] = new HashSet<Act> { Act.BeHere, Act.SeeWatch, Act.SeeLeads, Act.TouchLeads },
        };
}

/// <summary>Marks what an endpoint needs.</summary>
public sealed record Needs(Act Act);

/// <summary>Marks an endpoint that anyone may call, and says why.</summary>
public sealed record OpenToAnyone(string Because);

/// <summary>Marks an endpoint that programs may call with an API key instead of a person's session.</summary>
public sealed record TakesKeys;

/// <summary>Who holds the key that a request came with.</summary>
public sealed record KeyHolder(Guid ClientId, string Name);

/// <summary>Finds who holds a key.</summary>
public interface IKeyAccess
{
    /// <summary>The holder, or <c>null</c> when there is no such key, or none any more.</summary>
    Task<KeyHolder?> FindAsync(string key, CancellationToken stop);
}

/// <summary>Says on an endpoint who may call it.</summary>
public static class AccessMarks
{
    /// <summary>Only for who may do <paramref name="act"/>; the request then sees only the clients for whom they may.</summary>
    public static T Needs<T>(this T endpoint, Act act)
        where T : IEndpointConventionBuilder => endpoint.WithMetadata(new Needs(act));

    /// <summary>Also with an API key.</summary>
    public static T TakesKeys<T>(this T endpoint)
        where T : IEndpointConventionBuilder => endpoint.WithMetadata(new TakesKeys());

    /// <summary>For anyone.</summary>
    public static T OpenToAnyone<T>(this T endpoint, string because)
        where T : IEndpointConventionBuilder => endpoint.WithMetadata(new OpenToAnyone(because));
}
