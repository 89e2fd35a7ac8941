using System.Text.Json;
using LitFuse.Core;
using LitFuse.Core.Fuses.Definition;
using Microsoft.AspNetCore.DataProtection.EntityFrameworkCore;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Identity.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.ChangeTracking;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace LitFuse.Data;

/// <summary>A row that belongs to one client.</summary>
public interface IOfClient
{
    /// <summary>Whose it is.</summary>
    Guid ClientId { get; }
}

/// <summary>Which clients the present request or job may see. Nothing, until someone says so.</summary>
public sealed class ClientScope
{
    /// <summary>Every client: for the engine and the loader only.</summary>
    public bool All { get; private set; }

    /// <summary>The clients that may be seen.</summary>
    public IReadOnlyList<Guid> Ids { get; private set; } = [];

    /// <summary>Opens the scope to every client.</summary>
    public void OpenToAll() => All = true;

    /// <summary>Opens the scope to these clients.</summary>
    public void OpenTo(IReadOnlyList<Guid> ids) => Ids = ids;
}

/// <summary>
/// The database. Rows of a client pass a query filter by <see cref="ClientScope"/>; what changed is told to screens
/// once it is committed (<see cref="SaveAndNotifyAsync"/>).
/// </summary>
public sealed class AppDb(DbContextOptions<AppDb> options, ClientScope scope)
    : IdentityUserContext<User, Guid>(options),
        IDataProtectionKeyContext
{
    private readonly Dictionary<(Guid Client, ChangeKind Kind), HashSet<Guid>> changed = [];

    public DbSet<Client> Clients => Set<Client>();

    public DbSet<Membership> Memberships => Set<Membership>();

    public DbSet<Source> Sources => Set<Source>();

    public DbSet<Form> Forms => Set<Form>();

    public DbSet<FormMap> FormMaps => Set<FormMap>();

    public DbSet<FormDay> FormDays => Set<FormDay>();

    public DbSet<Refusal> Refusals => Set<Refusal>();

    public DbSet<SourceNotice> SourceNotices => Set<SourceNotice>();

    public DbSet<FormPicture> FormPictures => Set<FormPicture>();

    public DbSet<Import> Imports => Set<Import>();

    public DbSet<ImportChunk> ImportChunks => Set<ImportChunk>();

    public DbSet<ImportBadRow> ImportBadRows => Set<ImportBadRow>();

    public DbSet<ImportChange> ImportChanges => Set<ImportChange>();

    public DbSet<ApiKey> ApiKeys => Set<ApiKey>();

    public DbSet<Visitor> Visitors => Set<Visitor>();

    public DbSet<LeadFieldDef> LeadFields => Set<LeadFieldDef>();

    public DbSet<Reprocessing> Reprocessings => Set<Reprocessing>();

    public DbSet<LeadView> LeadViews => Set<LeadView>();

    public DbSet<ConsentText> ConsentTexts => Set<ConsentText>();

    public DbSet<ConsentGiven> Consents => Set<ConsentGiven>();

    public DbSet<DoNotContact> DoNotContact => Set<DoNotContact>();

    public DbSet<OptIn> OptIns => Set<OptIn>();

    public DbSet<LeadConflict> Conflicts => Set<LeadConflict>();

    public DbSet<Regroup> Regroups => Set<Regroup>();

    public DbSet<SpendDay> SpendDays => Set<SpendDay>();

    public DbSet<Submission> Submissions => Set<Submission>();

    public DbSet<Lead> Leads => Set<Lead>();

    public DbSet<LeadContact> LeadContacts => Set<LeadContact>();

    public DbSet<StoryEvent> Story => Set<StoryEvent>();

    public DbSet<Fuse> Fuses => Set<Fuse>();

    public DbSet<FuseVersion> FuseVersions => Set<FuseVersion>();

    public DbSet<Burn> Burns => Set<Burn>();

    public DbSet<FusePresence> FusePresences => Set<FusePresence>();

    public DbSet<FuseClock> FuseClocks => Set<FuseClock>();

    public DbSet<BacktestJob> Backtests => Set<BacktestJob>();

    public DbSet<BacktestLead> BacktestLeads => Set<BacktestLead>();

    public DbSet<KeptWords> ReadyWords => Set<KeptWords>();

    public DbSet<Notice> Notices => Set<Notice>();

    public DbSet<FormWatch> FormWatches => Set<FormWatch>();

    public DbSet<LineCut> LineCuts => Set<LineCut>();

    public DbSet<FormQuietTime> FormQuietTimes => Set<FormQuietTime>();

    public DbSet<LineRound> LineRounds => Set<LineRound>();

    public DbSet<ProofRun> ProofRuns => Set<ProofRun>();

    public DbSet<NetworkDay> NetworkDays => Set<NetworkDay>();

    public DbSet<IncomingMessage> IncomingMessages => Set<IncomingMessage>();

    public DbSet<Connection> Connections => Set<Connection>();

    public DbSet<ServiceNews> ServiceNews => Set<ServiceNews>();

    public DbSet<Call> Calls => Set<Call>();

    public DbSet<LibraryFile> LibraryFiles => Set<LibraryFile>();

    public DbSet<FileRow> FileRows => Set<FileRow>();

    public DbSet<NightlyFile> NightlyFiles => Set<NightlyFile>();

    public DbSet<DeliveryTry> DeliveryTries => Set<DeliveryTry>();

    public DbSet<OutboxDelivery> Deliveries => Set<OutboxDelivery>();

    public DbSet<DataProtectionKey> DataProtectionKeys => Set<DataProtectionKey>();

    /// <summary>Notes that something of a client changed, for <see cref="SaveAndNotifyAsync"/>.</summary>
    public void NoteChange(Guid clientId, ChangeKind kind, Guid id)
    {
        if (!changed.TryGetValue((clientId, kind), out var ids))
            changed[(clientId, kind)] = ids = [];
        ids.Add(id);
    }

    /// <summary>
    /// Wakes the loop by this name in whatever process carries it, once the transaction is committed.
    /// </summary>
    public Task WakeAsync(string loop, CancellationToken stop) =>
        Database.ExecuteSqlAsync($"select pg_notify('litfuse_work', {loop})", stop);

    /// <summary>Saves; every process hears what was told once it is committed (<see cref="ChangeNotifier"/>).</summary>
    public async Task SaveAndNotifyAsync(CancellationToken stop = default)
    {
        await using var own = Database.CurrentTransaction is null ? await Database.BeginTransactionAsync(stop) : null;
        await SaveChangesAsync(stop);
        if (own is not null)
            await own.CommitAsync(stop);
    }

    /// <summary>What was told since this was last asked.</summary>
    public IReadOnlyList<(Guid Client, ChangeKind Kind, IReadOnlyCollection<Guid> Ids)> TakeNoted()
    {
        if (changed.Count == 0)
            return [];
        List<(Guid, ChangeKind, IReadOnlyCollection<Guid>)> told =
        [
            .. changed.Select(c => (c.Key.Client, c.Key.Kind, (IReadOnlyCollection<Guid>)c.Value)),
        ];
        changed.Clear();
        return told;
    }

    /// <inheritdoc />
    protected override void OnModelCreating(ModelBuilder builder)
    {
        base.OnModelCreating(builder);
        builder.HasPostgresExtension("pg_trgm");
        builder.ApplyConfigurationsFromAssembly(typeof(AppDb).Assembly);
        builder.Entity<User>().ToTable("users");
        builder.Entity<IdentityUserClaim<Guid>>().ToTable("user_claims");
        builder.Entity<IdentityUserLogin<Guid>>().ToTable("user_logins");
        builder.Entity<IdentityUserToken<Guid>>().ToTable("user_tokens");
        builder.Ignore<IdentityPasskeyData>();
        foreach (
            var type in builder
                .Model.GetEntityTypes()
                .Where(t => typeof(IOfClient).IsAssignableFrom(t.ClrType))
                .ToList()
        )
        {
            typeof(AppDb)
                .GetMethod(
                    nameof(OnlyOwn),
                    System.Reflection.BindingFlags.NonPublic | System.Reflection.BindingFlags.Instance
                )!
                .MakeGenericMethod(type.ClrType)
                .Invoke(this, [builder]);
        }
    }

    /// <inheritdoc />
    protected override void ConfigureConventions(ModelConfigurationBuilder configurationBuilder)
    {
        // Enums are words in the database too, the same words as in the API.
        configurationBuilder.Conventions.Add(_ => new EnumsAsWords());
    }

    private void OnlyOwn<T>(ModelBuilder builder)
        where T : class, IOfClient
    {
        builder.Entity<T>().HasQueryFilter(row => scope.All || scope.Ids.Contains(row.ClientId));
        // A lead that turned out to be another is there no more, except for taking the merge back.
        if (typeof(T) == typeof(Lead))
            builder
                .Entity<Lead>()
                .HasQueryFilter(lead => (scope.All || scope.Ids.Contains(lead.ClientId)) && lead.MergedInto == null);
    }
}

/// <summary>
/// Keeps a core record as <c>jsonb</c>. Such records are never changed in place: a new one replaces the old.
/// </summary>
public static class JsonColumn
{
    /// <summary>Maps the property to <c>jsonb</c> by the core's JSON conventions.</summary>
    public static PropertyBuilder<T> AsJson<T>(this PropertyBuilder<T> property) =>
        property
            .HasConversion(
                value => JsonSerializer.Serialize(value, CoreJson.Options),
                text => JsonSerializer.Deserialize<T>(text, CoreJson.Options)!,
                new ValueComparer<T>(
                    (a, b) => ReferenceEquals(a, b),
                    value => value == null ? 0 : value.GetHashCode(),
                    value => value
                )
            )
            .HasColumnType("jsonb");

    /// <summary>Maps a fuse to <c>jsonb</c>; one of an older shape is read as one of this.</summary>
    public static PropertyBuilder<FuseDefinition?> AsFuse(this PropertyBuilder<FuseDefinition?> property) =>
        property
            .HasConversion(
                value => JsonSerializer.Serialize(value, CoreJson.Options),
                text => FuseFile.Read(text),
                new ValueComparer<FuseDefinition?>(
                    (a, b) => ReferenceEquals(a, b),
                    value => value == null ? 0 : value.GetHashCode(),
                    value => value
                )
            )
            .HasColumnType("jsonb");
}
