using System.Globalization;
using System.Net;
using System.Text;
using LitFuse.Platform;
using LitFuse.Server.Access;
using Npgsql;

namespace LitFuse.Server.Live;

/// <summary>
/// What programs ask that watch this one: whether the process lives, whether it can work, and figures in the text
/// format of OpenMetrics 1.0. Figures tell how much there is and never of whom, and only to callers on this machine.
/// </summary>
public static class Watchers
{
    private const string Figures = """
        select 'litfuse_submissions' as name, status as what, count(*)::float8 as value from submissions where status <> 'processed' group by 2
        union all select 'litfuse_deliveries', status, count(*) from deliveries where ended_at is null group by 2
        union all select 'litfuse_burns_set_aside', '', count(*) from burns where set_aside_at is not null
        union all select 'litfuse_burns_overdue', '', count(*) from burns where wake_at < now() - interval '1 minute'
        union all select 'litfuse_lines_cut', '', count(*) from form_watches where state = 'cut' and rests_since is null
        order by 1, 2
        """;

    /// <summary>Maps them.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapGet("/health/live", static () => TypedResults.Text("live\n"))
            .OpenToAnyone("watchers ask without an account")
            .ExcludeFromDescription();
        app.MapHealthChecks("/health/ready").OpenToAnyone("watchers ask without an account");
        app.MapGet("/metrics", MetricsAsync)
            .OpenToAnyone("only callers on this machine are answered, with counts alone")
            .ExcludeFromDescription();
    }

    private static async Task<IResult> MetricsAsync(HttpContext http, NpgsqlDataSource database, CancellationToken stop)
    {
        if (http.Connection.RemoteIpAddress is not { } from || !IPAddress.IsLoopback(from))
            return Problems.NotThere.Because();
        var text = new StringBuilder();
        var named = "";
        await using var ask = database.CreateCommand(Figures);
        await using var rows = await ask.ExecuteReaderAsync(stop);
        while (await rows.ReadAsync(stop))
        {
            var (name, what, value) = (rows.GetString(0), rows.GetString(1), rows.GetDouble(2));
            if (name != named)
                text.Append(CultureInfo.InvariantCulture, $"# TYPE {name} gauge\n");
            named = name;
            text.Append(
                CultureInfo.InvariantCulture,
                $"{name}{(what.Length == 0 ? "" : $"{{status=\"{what}\"}}")} {value}\n"
            );
        }

        return TypedResults.Text(
            text.Append("# EOF\n").ToString(),
            "application/openmetrics-text; version=1.0.0; charset=utf-8"
        );
    }
}
