using LitFuse.Connectors;
using LitFuse.Data;
using LitFuse.Platform;
using Microsoft.EntityFrameworkCore;
using MimeKit;

namespace LitFuse.Server.Demo;

/// <summary>
/// Does for the demonstration what whoever looks after a mail server does once by hand: has it hand on what comes in
/// for the clients' senders. The stand-in forgets it when it stops.
/// </summary>
public sealed class DemoMail(
    IServiceScopeFactory scopes,
    ConnectionOpener opener,
    Settings settings,
    IHttpClientFactory clients,
    ILogger<DemoMail> log
) : BackgroundService
{
    private const int Tries = 60;

    /// <inheritdoc />
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        for (var tries = 1; tries <= Tries; tries++)
        {
            try
            {
                await TellAsync(stoppingToken);
                return;
            }
            catch (HttpRequestException e)
            {
                if (tries == Tries)
                    log.LogWarning(
                        "Pillarpost does not answer ({Reason}); what is written to the clients is not handed on.",
                        e.Message
                    );
                else
                    await Task.Delay(TimeSpan.FromSeconds(1), stoppingToken)
                        .ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    private async Task TellAsync(CancellationToken stop)
    {
        await using var scope = scopes.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<ClientScope>().OpenToAll();
        using var client = clients.CreateClient();
        foreach (
            var mail in await scope
                .ServiceProvider.GetRequiredService<AppDb>()
                .Connections.AsNoTracking()
                .Where(c => c.Kind == "pillarpost" && c.NoticeSecret != null)
                .ToListAsync(stop)
        )
        {
            var access = opener.Open(mail);
            if (!MailboxAddress.TryParse(mail.Sender, out var sender))
                continue;
            using var told = await client.PutAsJsonAsync(
                $"{settings.BacklotUrl}/api/pillarpost/hand-on/{Uri.EscapeDataString(sender.Address)}",
                new { Url = access.NoticesUrl, Secret = access.NoticeSecret },
                stop
            );
            told.EnsureSuccessStatusCode();
        }
    }
}
