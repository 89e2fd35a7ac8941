using LitFuse.Core.Fuses.Checks;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using NodaTime;

namespace LitFuse.Server.Features.Fuses;

/// <summary>A fuse as a row.</summary>
public sealed record FuseRow(
    Guid Id,
    Guid ClientId,
    string Client,
    string Name,
    FuseState State,
    int? ArmedVersion,
    bool DraftDiffers,
    string Sentence,
    int LitIn30Days
);

/// <summary>The fuses of the clients chosen.</summary>
public sealed record FuseList(IReadOnlyList<FuseRow> Fuses);

/// <summary>How often a band was lit.</summary>
public sealed record BandCount(string Band, int LitIn30Days);

/// <summary>A fuse, whole: what the run sheet draws.</summary>
/// <param name="Definition">The draft, or the armed version where there is none.</param>
/// <param name="Revision">To be sent back when saving.</param>
/// <param name="Faults">What keeps it from being armed, and what is worth a look.</param>
/// <param name="ProposedName">From its content.</param>
/// <param name="Around">What its rules, words and steps can refer to.</param>
public sealed record FuseDetail(
    FuseRow Fuse,
    FuseDefinition Definition,
    FuseDefinition? Armed,
    int Revision,
    Instant? ArmedAt,
    string? ArmedBy,
    string? DraftBy,
    Instant? DraftAt,
    IReadOnlyList<FuseFault> Faults,
    string ProposedName,
    IReadOnlyList<BandCount> Counts,
    FuseContext Around
);

/// <summary>A draft to be saved.</summary>
/// <param name="Revision">The one it began from.</param>
/// <param name="File">A fuse as a file, in the place of the definition.</param>
public sealed record DraftToSave(FuseDefinition? Definition, int Revision, string? File = null);

/// <summary>The draft to be armed: the one that was looked at.</summary>
/// <param name="AlsoDays">Light it also for who asked in so many days before; left out, from now on.</param>
public sealed record DraftToArm(int Revision, int? AlsoDays = null);

/// <summary>Fuses to be disarmed.</summary>
public sealed record FusesToDisarm(IReadOnlyList<Guid>? Ids);

/// <summary>How many were armed, and are not any more.</summary>
public sealed record FusesDisarmed(int Disarmed);

/// <summary>A client to make a fuse for.</summary>
/// <param name="Kit">A kit to begin from.</param>
/// <param name="File">A fuse as a file, to begin from.</param>
/// <param name="Form">The key of the form that lights it, where it is made for one.</param>
public sealed record FuseToMake(string Client, string? Kit, string? File, string? Form = null);

/// <summary>A fuse that was made.</summary>
public sealed record FuseMade(Guid Id);
