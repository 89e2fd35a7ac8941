using System.Collections.Concurrent;
using LitFuse.Connectors;
using LitFuse.Core.Fuses.Definition;
using LitFuse.Data;
using LitFuse.Platform;
using NodaTime;

namespace LitFuse.Server.Delivery;

/// <summary>Lists that live at a service, asked for when they are needed and kept for a minute.</summary>
public sealed class ServiceLists(ConnectorKinds connectors, ConnectionOpener opener, TimeProvider time)
{
    private const int MostKept = 2000;
    private static readonly Duration Fresh = Duration.FromMinutes(1);
    private readonly ConcurrentDictionary<string, (Instant At, IReadOnlyList<ListItem> Items)> kept = new(
        StringComparer.Ordinal
    );

    /// <summary>Asks for the list of a setting.</summary>
    /// <param name="connection">Whose service.</param>
    /// <param name="setting">Which has a list.</param>
    /// <param name="settings">The step's own.</param>
    /// <param name="again">Ask even if it was asked lately.</param>
    /// <param name="stop">Cancels.</param>
    /// <returns>The list, or why there is none; both <c>null</c> while something must be chosen first.</returns>
    public async Task<(IReadOnlyList<ListItem>? Items, string? Fault)> AskAsync(
        Connection connection,
        StepSetting setting,
        IReadOnlyDictionary<string, string> settings,
        bool again,
        CancellationToken stop
    )
    {
        if (setting.ListNeeds.Any(n => string.IsNullOrEmpty(settings.GetValueOrDefault(n))))
            return (null, null);
        var key = string.Join(
            '\n',
            [connection.Id.ToString(), connection.Secret, setting.List!, .. setting.ListNeeds.Select(n => settings[n])]
        );
        var now = time.Now();
        if (!again && kept.TryGetValue(key, out var known) && now - known.At < Fresh)
            return (known.Items, null);
        try
        {
            var items = await connectors
                .Of(connection.Kind)
                .ListAsync(opener.Open(connection), setting.List!, settings, stop);
            if (kept.Count > MostKept)
                kept.Clear();
            kept[key] = (now, items);
            return (items, null);
        }
        catch (ServiceTroubleException e)
        {
            return (null, $"{connection.Name} {e.Message}");
        }
        catch (OperationCanceledException)
        {
            return (null, $"{connection.Name} gave no answer in time");
        }
    }
}
