using LitFuse.Core.Delivering;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Connectors;

/// <summary>Access to one outside service, opened for one call.</summary>
/// <param name="Details">What else was asked for when it was connected, by key; nothing secret.</param>
public sealed record ConnectionAccess(
    Guid ConnectionId,
    Uri BaseUrl,
    string Token,
    string? Sender,
    string NoticesUrl,
    IReadOnlyDictionary<string, string> Details
)
{
    /// <summary>Notes what is said and heard through it, where somebody wants to read it later.</summary>
    public Tape? Tape { get; init; }

    /// <summary>What the service signs its notices with.</summary>
    public string? NoticeSecret { get; init; }

    /// <summary>The secret before the present one, while both are good.</summary>
    public string? OlderSecret { get; init; }

    /// <summary>What letters are signed with, where they are.</summary>
    public DkimKey? Dkim { get; init; }
}

/// <summary>A key that letters are signed with (RFC 6376).</summary>
/// <param name="Domain">Whose letters they are.</param>
/// <param name="Selector">Under which the public half is found in that domain's DNS.</param>
/// <param name="Pem">The private half.</param>
public sealed record DkimKey(string Domain, string Selector, string Pem);

/// <summary>A file that goes with a letter.</summary>
public sealed record FileToAttach(string Name, string Type, byte[] Bytes);

/// <summary>Opens a stored connection for a call.</summary>
public sealed class ConnectionOpener(Secrets secrets, PublicAddress address, TimeProvider time)
{
    /// <summary>Opens it.</summary>
    public ConnectionAccess Open(Connection connection) =>
        new(
            connection.Id,
            new Uri(connection.BaseUrl),
            secrets.Open(connection.Secret),
            connection.Sender,
            address.OfNotices(connection.Id),
            connection.Details
        )
        {
            OlderSecret =
                connection.OlderSecret is { } older && connection.OlderUntil > time.Now() ? secrets.Open(older) : null,
            NoticeSecret = connection.NoticeSecret is { } notices ? secrets.Open(notices) : null,
            Dkim =
                connection.SigningKey is { } pem
                && connection.Details.TryGetValue(Connection.DkimDomain, out var domain)
                    ? new DkimKey(
                        domain,
                        connection.Details.GetValueOrDefault(Connection.DkimSelector) ?? "",
                        secrets.Open(pem)
                    )
                    : null,
        };

    /// <summary>Opens it for an attempt whose record people read.</summary>
    public ConnectionAccess OpenTaped(Connection connection)
    {
        var access = Open(connection);
        return access with { Tape = new Tape(time, Hidden(access)) };
    }

    private static IEnumerable<string> Hidden(ConnectionAccess access) =>
        new[] { access.Token, access.OlderSecret ?? "", access.NoticeSecret ?? "", Uri.EscapeDataString(access.Token) };

    /// <summary>Opens what is about to be stored, so that it can be tried first.</summary>
    public ConnectionAccess Try(
        Guid id,
        Uri baseUrl,
        string secret,
        string? sender,
        IReadOnlyDictionary<string, string>? details = null
    ) =>
        new(
            id,
            baseUrl,
            secret,
            sender,
            address.OfNotices(id),
            details ?? new Dictionary<string, string>(StringComparer.Ordinal)
        );
}

/// <summary>What is to be sent.</summary>
/// <param name="Kind">The step's kind.</param>
/// <param name="Key">The idempotency key.</param>
/// <param name="Settings">Filled in.</param>
/// <param name="To">The lead's number, for kinds that speak to the lead.</param>
/// <param name="Lead">The lead's own id, for services that know records again by it.</param>
/// <param name="Currency">The client's (ISO 4217).</param>
public sealed record Outgoing(
    string Kind,
    string Key,
    IReadOnlyDictionary<string, string> Settings,
    string? To,
    string Lead,
    string Currency
)
{
    /// <summary>Of a test lead: a record is marked as a test.</summary>
    public bool Test { get; init; }

    /// <summary>Which try this is, from 1: a first one has nothing to look for.</summary>
    public int Attempt { get; init; } = 1;

    /// <summary>When it was meant to go.</summary>
    public Instant At { get; init; }

    /// <summary>The client's name.</summary>
    public string Client { get; init; } = "";

    /// <summary>Files of the library that go with it.</summary>
    public IReadOnlyList<FileToAttach> Files { get; init; } = [];

    /// <summary>The client's zone.</summary>
    public DateTimeZone Zone { get; init; } = DateTimeZone.Utc;

    /// <summary>What stands in the columns of a setting, by column; empty ones are left out.</summary>
    public IReadOnlyDictionary<string, string> Columns(string setting) =>
        Settings
            .Where(s =>
                s.Key.StartsWith(setting + ".", StringComparison.Ordinal) && !string.IsNullOrWhiteSpace(s.Value)
            )
            .ToDictionary(s => s.Key[(setting.Length + 1)..], s => s.Value.Trim(), StringComparer.Ordinal);
}

/// <summary>A file that is to go somewhere.</summary>
/// <param name="Key">The same for each try.</param>
/// <param name="To">An email address, or a folder's path.</param>
/// <param name="Title">What it is.</param>
/// <param name="Words">What there is to say about it.</param>
/// <param name="Name">Its own name.</param>
public sealed record FileToSend(
    string Key,
    string To,
    string Title,
    string Words,
    string Name,
    byte[] Bytes,
    string Type
);

/// <summary>Something a step can be aimed at: a channel, a person.</summary>
public sealed record ConnectionTarget(string Key, string Name);

/// <summary>Something that is asked for when a service is connected.</summary>
/// <param name="Key">As in <c>connections.details</c>.</param>
/// <param name="Secret">Kept encrypted and never told again; at most one is.</param>
/// <param name="Hint">Where it is found.</param>
public sealed record AccessAsk(
    string Key,
    string Label,
    bool Secret = false,
    bool Optional = false,
    string? Hint = null
);

/// <summary>A kind of service as it is shown to who connects it.</summary>
/// <param name="Kind">As in <c>connections.kind</c> and <see cref="StepKind.Service"/>.</param>
/// <param name="What">What it is, in a few words.</param>
/// <param name="Asks">What is asked for; empty where it is connected in another way.</param>
/// <param name="Permissions">What it must be allowed there.</param>
/// <param name="Guide">Getting access, step by step.</param>
public sealed record ConnectorCard(
    string Kind,
    string Name,
    string What,
    IReadOnlyList<AccessAsk> Asks,
    IReadOnlyList<PermissionNeed> Permissions,
    IReadOnlyList<string> Guide
)
{
    /// <summary>The ask whose value is the service's address.</summary>
    public const string Address = "address";

    /// <summary>We make the secret, and tell it once.</summary>
    public bool MakesSecret { get; init; }

    /// <summary>
    /// It is asked about its access only when somebody wants to know: asking makes something happen there.
    /// </summary>
    public bool OnDemandOnly { get; init; }

    /// <summary>The address is called as it stands, not things under it.</summary>
    public bool ExactAddress { get; init; }

    /// <summary>Lead fields that what it tells us fills.</summary>
    public IReadOnlyList<string> Fills { get; init; } = [];
}

/// <summary>What a service says of an access.</summary>
/// <param name="Fault">What is wrong, in words, or <c>null</c>.</param>
/// <param name="Account">Whose it is.</param>
/// <param name="Granted">Permissions, by the service's keys.</param>
public sealed record AccessTold(
    string? Fault,
    ConnectionState State = ConnectionState.Whole,
    string? Account = null,
    IReadOnlyList<string>? Granted = null,
    Instant? ExpiresAt = null
)
{
    /// <summary>It works.</summary>
    public static readonly AccessTold Works = new((string?)null);

    /// <summary>It does not, or could not be asked.</summary>
    public static AccessTold Broken(string fault, ConnectionState state = ConnectionState.Unreachable) =>
        new(fault, state);
}

/// <summary>One kind of outside service. Adding one touches one folder.</summary>
public interface IConnector
{
    /// <summary>How it is shown, and what it needs to know.</summary>
    ConnectorCard Card { get; }

    /// <summary>Where it stands among those that are offered: the lowest comes first.</summary>
    int Place { get; }

    /// <summary>The kinds of step it brings; messages to people are the core's own.</summary>
    IReadOnlyList<StepKind> Steps => [];

    /// <summary>Texts can go through it.</summary>
    bool CarriesTexts => false;

    /// <summary>Makes one attempt. Network trouble is an outcome, not an exception.</summary>
    Task<AttemptResult> DeliverAsync(ConnectionAccess access, Outgoing outgoing, CancellationToken stop);

    /// <summary>
    /// What messages to people can be aimed at, by setting type; empty where there is nothing to choose.
    /// </summary>
    /// <exception cref="ServiceTroubleException">The service could not be asked.</exception>
    Task<IReadOnlyDictionary<string, IReadOnlyList<ConnectionTarget>>> TargetsAsync(
        ConnectionAccess access,
        CancellationToken stop
    ) =>
        Task.FromResult<IReadOnlyDictionary<string, IReadOnlyList<ConnectionTarget>>>(
            new Dictionary<string, IReadOnlyList<ConnectionTarget>>(StringComparer.Ordinal)
        );

    /// <summary>A list by its name, for settings and columns of its steps.</summary>
    /// <param name="access">To whom.</param>
    /// <param name="list">As in <see cref="StepSetting.List"/>.</param>
    /// <param name="settings">The step's own, as far as they are chosen.</param>
    /// <param name="stop">Cancels.</param>
    /// <exception cref="ServiceTroubleException">It could not be had; the message says why, and what to do.</exception>
    Task<IReadOnlyList<ListItem>> ListAsync(
        ConnectionAccess access,
        string list,
        IReadOnlyDictionary<string, string> settings,
        CancellationToken stop
    ) => Task.FromResult<IReadOnlyList<ListItem>>([]);

    /// <summary>Asks the service what this access may do.</summary>
    /// <exception cref="ServiceTroubleException">It does not take it, or could not be asked.</exception>
    Task<AccessTold> VerifyAsync(ConnectionAccess access, CancellationToken stop);

    /// <summary>
    /// Asks the service to tell us what happens there, at <see cref="ConnectionAccess.NoticesUrl"/>, signed with
    /// <see cref="ConnectionAccess.NoticeSecret"/>.
    /// </summary>
    /// <returns>False where it tells nothing.</returns>
    /// <exception cref="ServiceTroubleException">It does not want to.</exception>
    Task<bool> ListenAsync(ConnectionAccess access, CancellationToken stop) => Task.FromResult(false);

    /// <summary>
    /// What a file is sent to through it, as a label: an email address, a folder; <c>null</c>: it takes none.
    /// </summary>
    string? FilesGoTo => null;

    /// <summary>What is wrong with where a file is to go, or <c>null</c>.</summary>
    string? FaultOfFilesTo(string to) => null;

    /// <summary>Sends a file.</summary>
    /// <returns><c>null</c> where it takes none.</returns>
    Task<AttemptResult?> SendFileAsync(ConnectionAccess access, FileToSend file, CancellationToken stop) =>
        Task.FromResult<AttemptResult?>(null);

    /// <summary>Takes back out there what was sent for a test.</summary>
    /// <returns>True when it is gone; <c>null</c> where the service cannot take such things back.</returns>
    /// <exception cref="HttpRequestException">The service could not be asked.</exception>
    Task<bool?> SweepAsync(ConnectionAccess access, string kind, string reference, CancellationToken stop) =>
        Task.FromResult<bool?>(null);

    /// <summary>The largest notice it sends.</summary>
    int MostNoticeBytes => 64 * 1024;

    /// <summary>Reads a notice that the service sent us, its signature already checked.</summary>
    ServiceNotice? ReadNotice(ReadOnlySpan<byte> body);
}

/// <summary>A phone to be rung for a ring-through.</summary>
/// <param name="From">The number it sees (E.164); <c>null</c>: the connection's own.</param>
/// <param name="To">Its own.</param>
/// <param name="Say">Spoken on picking up; empty: nothing is.</param>
/// <param name="TakesKeys">Keys pressed are told.</param>
/// <param name="RingSeconds">How long it rings at most.</param>
/// <param name="Tag">Comes back with each notice; one phone is rung once for it.</param>
public sealed record PhoneToRing(string? From, string To, string Say, bool TakesKeys, int RingSeconds, string Tag);

/// <summary>A connector whose service carries calls.</summary>
public interface ICallCarrier
{
    /// <summary>Rings a phone. The reference of what it took is the phone's id in all that follows.</summary>
    Task<AttemptResult> RingAsync(ConnectionAccess access, PhoneToRing phone, CancellationToken stop);

    /// <summary>Joins two that were picked up.</summary>
    /// <param name="recording">Recorded, and both hear this first; <c>null</c>: not recorded.</param>
    Task<AttemptResult> JoinAsync(
        ConnectionAccess access,
        string one,
        string other,
        string? recording,
        CancellationToken stop
    );

    /// <summary>Hangs one up, once it has been told so much.</summary>
    Task<AttemptResult> HangUpAsync(ConnectionAccess access, string phone, string? say, CancellationToken stop);

    /// <summary>True when its part is over; <c>null</c> where it could not be asked.</summary>
    Task<bool?> IsOverAsync(ConnectionAccess access, string phone, CancellationToken stop);
}

/// <summary>A service that did not give what was asked for. The message is a predicate: “answered 401 …”.</summary>
public sealed class ServiceTroubleException(string message, int? status = null) : Exception(message)
{
    /// <summary>What it answered, where it did.</summary>
    public int? Status { get; } = status;
}

/// <summary>All kinds of outside service that there are.</summary>
public sealed class ConnectorKinds(IEnumerable<IConnector> all)
{
    private readonly Dictionary<string, IConnector> byKind = all.ToDictionary(c => c.Card.Kind, StringComparer.Ordinal);

    /// <summary>In the order in which they are offered.</summary>
    public IReadOnlyList<IConnector> All { get; } = [.. all.OrderBy(c => c.Place)];

    /// <summary>Kinds of connection that texts can go through.</summary>
    public IReadOnlyList<string> ThatText { get; } = [.. all.Where(c => c.CarriesTexts).Select(c => c.Card.Kind)];

    /// <summary>Kinds of connection that people can be rung through.</summary>
    public IReadOnlyList<string> ThatRing { get; } = [.. all.Where(c => c is ICallCarrier).Select(c => c.Card.Kind)];

    /// <summary>The kind by this name, or <c>null</c>.</summary>
    public IConnector? Find(string kind) => byKind.GetValueOrDefault(kind);

    /// <summary>The kind by this name.</summary>
    public IConnector Of(string kind) => byKind[kind];
}

/// <summary>What a service told us.</summary>
/// <param name="Reference">Its own id for what it is about.</param>
/// <param name="At">When, by the service's clock.</param>
public abstract record ServiceNotice(string Reference, Instant At)
{
    /// <summary>What became of something it took earlier.</summary>
    /// <param name="Arrived">True when it arrived, false when it never will.</param>
    /// <param name="Reason">In words.</param>
    public sealed record Receipt(string Reference, bool Arrived, Instant At, string Reason)
        : ServiceNotice(Reference, At);

    /// <summary>A text that somebody wrote to us.</summary>
    /// <param name="From">E.164.</param>
    public sealed record IncomingText(string Reference, string From, string To, string Words, Instant At)
        : ServiceNotice(Reference, At);

    /// <summary>A letter that somebody wrote to us.</summary>
    /// <param name="Reference">Its own message id.</param>
    /// <param name="From">An email address.</param>
    /// <param name="Words">What they wrote, without what they quoted.</param>
    /// <param name="Answers">Ids of the letters that it answers (In-Reply-To, References: RFC 5322 § 3.6.4).</param>
    /// <param name="Automatic">A machine wrote it (RFC 3834): it stops nothing.</param>
    public sealed record IncomingLetter(
        string Reference,
        string From,
        string To,
        string Subject,
        string Words,
        IReadOnlyList<string> Answers,
        bool Automatic,
        Instant At
    ) : ServiceNotice(Reference, At)
    {
        /// <summary>What is wrong with it; <c>null</c>: nothing.</summary>
        public string? Fault { get; init; }

        /// <summary>As it came, where it could not be read whole.</summary>
        public byte[]? Raw { get; init; }
    }

    /// <summary>A letter of ours did not arrive (RFC 3464).</summary>
    /// <param name="Reference">The letter's message id, where it is told.</param>
    /// <param name="To">Whom it was for.</param>
    /// <param name="Final">It never will.</param>
    public sealed record Bounced(string Reference, string To, bool Final, Instant At, string Reason)
        : ServiceNotice(Reference, At);

    /// <summary>Something happened there to the record of a lead.</summary>
    /// <param name="Id">The service's own id for this piece of news: told twice, it counts once.</param>
    /// <param name="Event">A key of the event catalogue.</param>
    /// <param name="Fields">Lead fields that it fills.</param>
    public sealed record Happened(
        string Reference,
        string Id,
        string Event,
        string Because,
        IReadOnlyDictionary<string, string> Details,
        IReadOnlyDictionary<string, string> Fields,
        Instant At
    ) : ServiceNotice(Reference, At)
    {
        /// <summary>Who of the team reached out to them in it, by name.</summary>
        public string? By { get; init; }
    }

    /// <summary>Something happened on a phone of a ring-through.</summary>
    /// <param name="Tag">As in <see cref="PhoneToRing.Tag"/>.</param>
    /// <param name="What">What, by the phone's place in its call.</param>
    /// <param name="Recording">Where its recording is, once there is one.</param>
    public sealed record OfCall(
        string Reference,
        string Tag,
        Func<int, Core.Calling.CallEvent> What,
        Instant At,
        string? Recording = null
    ) : ServiceNotice(Reference, At);

    /// <summary>A call that we asked for was answered, or was not.</summary>
    public sealed record Call(string Reference, bool Answered, Instant At, string Reason)
        : ServiceNotice(Reference, At);
}
