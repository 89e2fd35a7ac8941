namespace LitFuse.Core.Stories;

/// <summary>What can happen in a lead's story. Written to the database and the API in kebab case.</summary>
public enum StoryKind
{
    /// <summary>The person sent the form.</summary>
    Submitted,

    /// <summary>The submission was committed and its sender told.</summary>
    Acknowledged,

    /// <summary>An earlier submission came again with other content.</summary>
    SubmissionEdited,

    /// <summary>A new lead was made.</summary>
    LeadMade,

    /// <summary>The submission was attached to a lead already known.</summary>
    LeadMatched,

    /// <summary>The email is one lead's and the phone another's.</summary>
    LeadConflict,

    /// <summary>A later answer met what was there: taken or kept, by the field's rule.</summary>
    FieldsChanged,

    /// <summary>A person approved it in the holding pen.</summary>
    Approved,

    /// <summary>They agreed to something, or did not.</summary>
    Consented,

    /// <summary>They were asked to confirm their address.</summary>
    OptInAsked,

    /// <summary>They confirmed it.</summary>
    OptInConfirmed,

    /// <summary>They did not, and the link ran out.</summary>
    OptInExpired,

    /// <summary>They are on the do-not-contact list, or were taken off it.</summary>
    DoNotContact,

    /// <summary>Another lead turned out to be the same person.</summary>
    Merged,

    /// <summary>A part of it turned out to be another person.</summary>
    Split,

    /// <summary>A merge or a split was taken back.</summary>
    RegroupUndone,

    /// <summary>A submission went through another map.</summary>
    Reprocessed,

    /// <summary>A tag was put on or taken off.</summary>
    Tagged,

    /// <summary>Another person answers for them.</summary>
    OwnerChanged,

    /// <summary>An answer could not be read as what it was mapped to.</summary>
    AnswerUnread,

    /// <summary>A fuse began to burn.</summary>
    FuseLit,

    /// <summary>A fuse was not lit again, and why.</summary>
    FuseNotRelit,

    /// <summary>A band was entered.</summary>
    BandLit,

    /// <summary>A band was passed by.</summary>
    BandPassed,

    /// <summary>A step waits, and for what.</summary>
    StepWaits,

    /// <summary>A step was handed to delivery.</summary>
    StepSent,

    /// <summary>The outside service took it.</summary>
    StepDone,

    /// <summary>A text reached the phone.</summary>
    TextDelivered,

    /// <summary>One attempt failed and another will be made.</summary>
    StepRetries,

    /// <summary>The step will not be tried again.</summary>
    StepFailed,

    /// <summary>A step due will not be done.</summary>
    StepCancelled,

    /// <summary>The fuse stopped.</summary>
    BurnStopped,

    /// <summary>All is done.</summary>
    BurnEnded,

    /// <summary>Someone said: mine.</summary>
    Taken,

    /// <summary>Someone gave it back.</summary>
    Released,

    /// <summary>First touch: a person reached out.</summary>
    Touched,

    /// <summary>A person wrote a text.</summary>
    TextWritten,

    /// <summary>The person wrote back.</summary>
    Replied,

    /// <summary>They were on one of the client's pages again.</summary>
    Visited,

    /// <summary>An import changed it, or took back what it had changed.</summary>
    Imported,

    /// <summary>The person wants no more messages.</summary>
    OptedOut,

    /// <summary>A stage was reached.</summary>
    StageReached,

    /// <summary>A field was set by a fuse.</summary>
    FieldSet,

    /// <summary>What a reply means to a burn, and why.</summary>
    ReplyRead,

    /// <summary>An event would have lit a fuse, but its rules did not hold.</summary>
    FuseNotLit,

    /// <summary>A step is done in the place of one that failed.</summary>
    StepInstead,

    /// <summary>A person had a step done again.</summary>
    StepReplayed,

    /// <summary>The fuse is held for a person.</summary>
    BurnHeld,

    /// <summary>A person let it go on.</summary>
    BurnLetGo,

    /// <summary>The burn goes on by another version of its fuse.</summary>
    BurnMoved,

    /// <summary>Deciding for the burn failed: it does nothing until a person runs it again.</summary>
    BurnSetAside,

    /// <summary>A person runs a burn again that was set aside.</summary>
    BurnRunAgain,

    /// <summary>They take messages again.</summary>
    OptedIn,

    /// <summary>A colleague was told in Lit Fuse.</summary>
    Noticed,

    /// <summary>How a call with them ended, as a dialer told it.</summary>
    OutcomeNoted,

    /// <summary>Their record at a service moved on.</summary>
    RecordMoved,

    /// <summary>A call to a colleague was answered, or not.</summary>
    Rang,

    /// <summary>A phone is being rung to put somebody through.</summary>
    Ringing,

    /// <summary>Somebody took it or passed it on, or was not rung.</summary>
    RingPassed,

    /// <summary>Two people were joined.</summary>
    Talking,

    /// <summary>A ring-through is over.</summary>
    CallEnded,

    /// <summary>A letter came back: its address does not work.</summary>
    Bounced,

    /// <summary>A machine answered a letter for them.</summary>
    Answered,
}
