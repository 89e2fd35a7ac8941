using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <summary>
    /// The words that a column takes become its type, a domain, in place of a check on the table: a table's checks are read
    /// anew with every statement, a domain's once a session.
    /// </summary>
    public partial class WordsAsDomains : Migration
    {
        private static readonly (string Table, string Column, string Words)[] Columns =
        [
            ("backtests", "status", "running done failed cancelled"),
            ("burns", "status", "burning listening stopped ended"),
            ("calls", "stage", "ringing-team ringing-lead joined closing over"),
            ("conflicts", "state", "open merged apart"),
            ("connections", "state", "whole partial expired withdrawn unreachable"),
            ("consents", "how", "shown ticked confirmed declined"),
            ("deliveries", "lane", "lead team systems silent"),
            ("deliveries", "retry", "quick usual patient"),
            ("deliveries", "status", "due sending done failed struck"),
            ("delivery_tries", "status", "due sending done failed struck"),
            ("do_not_contact", "kind", "email phone"),
            ("form_maps", "status", "suggested confirmed"),
            ("form_watches", "state", "cut unproven whole"),
            ("forms", "state", "receiving paused offered"),
            ("fuses", "state", "draft armed disarmed"),
            ("imports", "status", "ready running done cancelled undoing undone failed"),
            ("incoming_messages", "meaning", "yes no choice question stop other"),
            ("incoming_messages", "way", "text letter"),
            ("lead_contacts", "kind", "email phone"),
            ("lead_fields", "rule", "newest-wins fill-empties keep"),
            ("lead_fields", "type", "text long-text number money choice choices date yes-no link name email phone"),
            (
                "line_cuts",
                "joint",
                "access permissions form thank-you visits arrivals map fields fuse service hours proof"
            ),
            ("memberships", "role", "agency-lead marketer rep"),
            ("proof_runs", "from", "network here"),
            ("proof_runs", "state", "running proved halted"),
            ("regroups", "kind", "merge split"),
            ("reprocessings", "status", "running done cancelled"),
            ("source_notices", "status", "due done not-chosen failed"),
            (
                "story",
                "kind",
                "submitted acknowledged submission-edited lead-made lead-matched lead-conflict fields-changed approved consented opt-in-asked opt-in-confirmed opt-in-expired do-not-contact merged split regroup-undone reprocessed tagged owner-changed answer-unread fuse-lit fuse-not-relit band-lit band-passed step-waits step-sent step-done text-delivered step-retries step-failed step-struck burn-stopped burn-ended taken released touched text-written replied visited imported opted-out stage-reached field-set reply-read fuse-not-lit step-instead step-replayed burn-held burn-let-go burn-moved burn-set-aside burn-run-again opted-in noticed outcome-noted record-moved rang ringing ring-passed talking call-ended bounced answered"
            ),
            ("submissions", "status", "received processed waiting unreadable stuck held refused unconfirmed"),
        ];

        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            foreach (var (table, column, words) in Columns)
            {
                migrationBuilder.DropCheckConstraint(name: $"ck_{table}_{column}", table: table);
                migrationBuilder.Sql(
                    $"create domain {table}_{column} as text check (value in ('{words.Replace(" ", "', '", System.StringComparison.Ordinal)}'))"
                );
                migrationBuilder.Sql($"alter table {table} alter column \"{column}\" type {table}_{column}");
            }
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            foreach (var (table, column, words) in Columns)
            {
                migrationBuilder.Sql($"alter table {table} alter column \"{column}\" type text");
                migrationBuilder.Sql($"drop domain {table}_{column}");
                migrationBuilder.AddCheckConstraint(
                    name: $"ck_{table}_{column}",
                    table: table,
                    sql: $"\"{column}\" in ('{words.Replace(" ", "', '", System.StringComparison.Ordinal)}')"
                );
            }
        }
    }
}
