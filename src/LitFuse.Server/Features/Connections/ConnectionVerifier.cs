using LitFuse.Connectors;
using LitFuse.Data;
using LitFuse.Platform;
using LitFuse.Server.Engine;
using LitFuse.Server.Features.Sources;
using LitFuse.Server.Ways;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace LitFuse.Server.Features.Connections;

/// <summary>Asks services what our access may do, and notes it on the connection.</summary>
public sealed class ConnectionVerifier(
    SourceKinds kinds,
    ConnectorKinds connectors,
    NetworkLook look,
    ConnectionOpener opener,
    TimeProvider time
)
{
    /// <summary>How often each is asked.</summary>
    public static readonly Duration Every = Duration.FromMinutes(15);

    /// <summary>Asks, and notes the answer on <paramref name="connection"/>; the caller saves.</summary>
    /// <returns>False where the service cannot be asked.</returns>
    public async Task<bool> VerifyAsync(Connection connection, CancellationToken stop)
    {
        if (connectors.Find(connection.Kind) is { } connector)
        {
            var access = opener.Open(connection);
            var told = await AskAsync(connector, access, stop);
            Note(connection, connector.Card, told, time.Now());
            if (
                told.Fault is null
                && connection.NoticeSecret is not null
                && await DeafAsync(connector, access, stop) is { } deaf
            )
                (connection.State, connection.Fault) = (ConnectionState.Partial, deaf);
            return true;
        }

        if (kinds.Find(connection.Kind) is not INetwork)
            return false;
        await look.VerifyAsync(connection, stop);
        return true;
    }

    /// <summary>Asks about an access; trouble is an answer.</summary>
    public static async Task<AccessTold> AskAsync(IConnector connector, ConnectionAccess access, CancellationToken stop)
    {
        try
        {
            return await connector.VerifyAsync(access, stop);
        }
        catch (ServiceTroubleException e)
        {
            return AccessTold.Broken(
                e.Message,
                e.Status is 401 ? ConnectionState.Withdrawn : ConnectionState.Unreachable
            );
        }
    }

    /// <summary>Asks a service to tell us what happens there. It may have forgotten that we asked before.</summary>
    /// <returns>Why it does not, or <c>null</c>.</returns>
    public static async Task<string?> DeafAsync(IConnector connector, ConnectionAccess access, CancellationToken stop)
    {
        try
        {
            await connector.ListenAsync(access, stop);
            return null;
        }
        catch (ServiceTroubleException e)
        {
            return $"{connector.Card.Name} does not tell what happens there: it {e.Message.TrimEnd('.')}.";
        }
    }

    /// <summary>Notes what was told.</summary>
    public static void Note(Connection connection, ConnectorCard card, AccessTold told, Instant now)
    {
        connection.VerifiedAt = now;
        (connection.Account, connection.Granted) = (
            told.Account ?? connection.Account,
            told.Granted ?? connection.Granted
        );
        if (told.Fault is { } fault)
        {
            (connection.State, connection.Fault) = (told.State, $"{card.Name} {fault.TrimEnd('.')}.");
            return;
        }

        (connection.GoodAt, connection.ExpiresAt) = (now, told.ExpiresAt);
        var missing = told.Granted is null ? [] : card.Permissions.Where(p => !told.Granted.Contains(p.Key)).ToList();
        (connection.State, connection.Fault) =
            missing.Count == 0
                ? (ConnectionState.Whole, (string?)null)
                : (
                    ConnectionState.Partial,
                    string.Join("; ", missing.Select(m => $"“{m.Name}” was not given: {m.Without}"))
                        + $". Give it at {card.Name}, then verify."
                );
    }
}

/// <summary>Verifies connections of outgoing services from time to time.</summary>
public sealed class VerifyLoop(Signals signals, IServiceScopeFactory scopes, TimeProvider time, ILogger<VerifyLoop> log)
    : EngineLoop(signals.Verifies, scopes, time, log)
{
    private readonly TimeProvider time = time;

    /// <inheritdoc />
    protected override async Task<(bool More, Instant? Next)> WorkAsync(
        IServiceProvider services,
        CancellationToken stop
    )
    {
        var db = services.GetRequiredService<AppDb>();
        var connectors = services.GetRequiredService<ConnectorKinds>();
        var asked = connectors.All.Where(c => !c.Card.OnDemandOnly).Select(c => c.Card.Kind).ToArray();
        var now = time.Now();
        // Noting the time is the claim: another process finds it no longer due. No key is changed: deliveries that name
        // it go on being written.
        var connection = (
            await db
                .Connections.FromSql(
                    $"""
                    update connections set verified_at = {now}
                    where id = (select id from connections where kind = any({asked}) and (verified_at is null or verified_at < {now
                        - ConnectionVerifier.Every}) order by verified_at nulls first limit 1 for no key update skip locked) returning *
                    """
                )
                .IgnoreQueryFilters()
                .ToListAsync(stop)
        ).FirstOrDefault();
        if (connection is null)
            return (
                false,
                (await db.Connections.Where(c => asked.Contains(c.Kind)).MinAsync(c => c.VerifiedAt, stop))?.Plus(
                    ConnectionVerifier.Every
                )
            );
        await services.GetRequiredService<ConnectionVerifier>().VerifyAsync(connection, stop);
        db.NoteChange(connection.ClientId, ChangeKind.Connection, connection.Id);
        await db.SaveAndNotifyAsync(stop);
        return (true, null);
    }
}
