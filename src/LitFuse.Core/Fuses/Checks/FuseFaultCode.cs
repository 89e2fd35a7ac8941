namespace LitFuse.Core.Fuses.Checks;

/// <summary>
/// What can be wrong with a fuse. What decides by a fault decides by its code and what it is about, never by its
/// sentence, which may be worded anew.
/// </summary>
public enum FuseFaultCode
{
    /// <summary>The fuse has no name.</summary>
    FuseWithoutName,

    /// <summary>Its name is too long.</summary>
    FuseNameTooLong,

    /// <summary>The age limit is out of bounds.</summary>
    AgeLimit,

    /// <summary>It listens for too long.</summary>
    HearsTooLong,

    /// <summary>The days between two lightings are out of bounds.</summary>
    RelightDays,

    /// <summary>There is no band.</summary>
    NoBand,

    /// <summary>Too many bands.</summary>
    TooManyBands,

    /// <summary>Too many steps.</summary>
    TooManySteps,

    /// <summary>An id is empty, badly written or used twice. About: the id.</summary>
    Id,

    /// <summary>Nothing lights it.</summary>
    NothingLights,

    /// <summary>Too many things light it.</summary>
    TooManyLights,

    /// <summary>A submission lights it, on no form.</summary>
    LitByNoForm,

    /// <summary>A form is not there. About: its key.</summary>
    FormGone,

    /// <summary>It is lit by a match with no rule.</summary>
    MatchWithoutRule,

    /// <summary>It is lit by the change of no field.</summary>
    ChangeWithoutField,

    /// <summary>A clock without an hour.</summary>
    ClockWithoutHour,

    /// <summary>A weekday that is none.</summary>
    Weekday,

    /// <summary>Too many days before or after a date.</summary>
    DaysFromDate,

    /// <summary>A date of no field.</summary>
    DateWithoutField,

    /// <summary>An hour lights it for every lead.</summary>
    HourWithoutRule,

    /// <summary>An event that does not do here. About: its key.</summary>
    Event,

    /// <summary>A detail that the event has not. About: the detail.</summary>
    EventDetail,

    /// <summary>A stage is not there. About: the stage.</summary>
    StageGone,

    /// <summary>A band without a name.</summary>
    BandWithoutName,

    /// <summary>A band without steps.</summary>
    BandEmpty,

    /// <summary>An *otherwise* with no *when*.</summary>
    OtherwiseAlone,

    /// <summary>A *when* without a rule.</summary>
    BandWithoutRule,

    /// <summary>It waits for a choice that no step offers. About: the choice.</summary>
    ChoiceNotOffered,

    /// <summary>It waits for silence after a step that is not there.</summary>
    SilenceAfterNothing,

    /// <summary>A silence out of bounds.</summary>
    SilenceLength,

    /// <summary>It is for the failure of a step that is not there.</summary>
    FailureOfNothing,

    /// <summary>It follows a band that is not there.</summary>
    FollowsNothing,

    /// <summary>Too many rules.</summary>
    TooManyRules,

    /// <summary>A rule that is not whole.</summary>
    Rule,

    /// <summary>A rule asks for a result that no step gives. About: the path.</summary>
    ResultGone,

    /// <summary>A rule asks for a field that no form gives. About: the field.</summary>
    FieldGone,

    /// <summary>A rule asks for a value that the field cannot have. About: field and value.</summary>
    ValueNotChoice,

    /// <summary>A step without a name.</summary>
    StepWithoutName,

    /// <summary>A time out of bounds.</summary>
    StepTime,

    /// <summary>Hours that are none.</summary>
    StepHours,

    /// <summary>A kind of step that there is not. About: the kind.</summary>
    StepKind,

    /// <summary>What takes its place is no other step of the band.</summary>
    InsteadGone,

    /// <summary>No connection to the service it goes through. About: the service.</summary>
    NoConnection,

    /// <summary>Several connections, and none is chosen.</summary>
    ConnectionOpen,

    /// <summary>The chosen connection is not there. About: its id.</summary>
    ConnectionGone,

    /// <summary>Nothing gets through its connection. About: the connection.</summary>
    ConnectionFails,

    /// <summary>What a service demands is not filled. About: the column.</summary>
    ColumnDemanded,

    /// <summary>It fills a column that is gone. About: the column.</summary>
    ColumnGone,

    /// <summary>It fills nothing.</summary>
    NoColumn,

    /// <summary>A setting is missing. About: the setting.</summary>
    SettingMissing,

    /// <summary>A copy to what is no email address.</summary>
    CopyAddress,

    /// <summary>It goes to nobody.</summary>
    ToNobody,

    /// <summary>It shows a field that nothing fills. About: the field.</summary>
    BlockUnfilled,

    /// <summary>A file is gone from the library.</summary>
    FileGone,

    /// <summary>A tag that is too long or has a comma.</summary>
    Tag,

    /// <summary>A link that it cannot have. About: the link.</summary>
    Link,

    /// <summary>A target is not there. About: setting and value.</summary>
    TargetGone,

    /// <summary>No telephone number where one belongs. About: the setting.</summary>
    PhoneWritten,

    /// <summary>No email address where one belongs. About: the setting.</summary>
    EmailWritten,

    /// <summary>A picture without an address.</summary>
    Picture,

    /// <summary>For somebody who is gone. About: who.</summary>
    ColleagueGone,

    /// <summary>Choices on what is not a text.</summary>
    ChoicesNotText,

    /// <summary>Too many choices.</summary>
    TooManyChoices,

    /// <summary>Choices that its words do not say.</summary>
    ChoicesUnsaid,

    /// <summary>Words that cannot be read.</summary>
    Words,

    /// <summary>Its words speak of what nothing fills. About: the path.</summary>
    Unfilled,

    /// <summary>A body that cannot be read. About: the setting.</summary>
    Body,

    /// <summary>Steps that wait for one another.</summary>
    WaitsForItself,

    /// <summary>Steps that stand in for one another.</summary>
    StandsForItself,

    // What is worth a look in a fuse that could be armed.

    /// <summary>Another armed fuse texts the same lead. About: its name.</summary>
    TextedTwice,

    /// <summary>Rules that contradict one another in what lights it.</summary>
    NeverLit,

    /// <summary>Rules that contradict one another in a band.</summary>
    NeverEntered,

    /// <summary>A band whose rules contradict what lights the fuse.</summary>
    NeverEnteredAsLit,

    /// <summary>A step whose rules contradict one another.</summary>
    NeverDone,

    /// <summary>Nothing ever leads to a band.</summary>
    NothingLeadsTo,

    /// <summary>A band waits for a choice, and none is offered.</summary>
    NoChoiceOffered,

    /// <summary>A band waits for a choice that is not offered. About: the choice.</summary>
    ChoiceGone,

    /// <summary>A band with the rules of an earlier one.</summary>
    SameRules,

    /// <summary>Values that no band takes. About: the field.</summary>
    ValuesNotTaken,
}
