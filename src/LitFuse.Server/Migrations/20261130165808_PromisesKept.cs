using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class PromisesKept : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropPrimaryKey(name: "pk_lead_contacts", table: "lead_contacts");

            migrationBuilder.AddColumn<string>(
                name: "unmapped",
                table: "leads",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'{}'::jsonb"
            );

            migrationBuilder.AddColumn<Instant>(
                name: "reserved_at",
                table: "deliveries",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<System.Guid>(
                name: "after_lead",
                table: "fuse_clocks",
                type: "uuid",
                nullable: true
            );

            migrationBuilder.AddColumn<bool>(
                name: "shared",
                table: "lead_contacts",
                type: "boolean",
                nullable: false,
                defaultValue: false
            );

            migrationBuilder.AddColumn<string>(
                name: "set_aside",
                table: "burns",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'::jsonb"
            );

            migrationBuilder.AddColumn<Instant>(
                name: "set_aside_at",
                table: "burns",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(name: "set_aside_because", table: "burns", type: "text", nullable: true);

            migrationBuilder.AddPrimaryKey(
                name: "pk_lead_contacts",
                table: "lead_contacts",
                columns: new[] { "client_id", "kind", "value", "test", "lead_id" }
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_submissions_status",
                table: "submissions",
                sql: "\"status\" in ('received', 'processed', 'waiting', 'unreadable', 'stuck', 'held', 'refused', 'unconfirmed')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_story_kind",
                table: "story",
                sql: "\"kind\" in ('submitted', 'acknowledged', 'submission-edited', 'lead-made', 'lead-matched', 'lead-conflict', 'fields-changed', 'approved', 'consented', 'opt-in-asked', 'opt-in-confirmed', 'opt-in-expired', 'do-not-contact', 'merged', 'split', 'regroup-undone', 'reprocessed', 'tagged', 'owner-changed', 'answer-unread', 'fuse-lit', 'fuse-not-relit', 'band-lit', 'band-passed', 'step-waits', 'step-sent', 'step-done', 'text-delivered', 'step-retries', 'step-failed', 'step-struck', 'burn-stopped', 'burn-ended', 'taken', 'released', 'touched', 'text-written', 'replied', 'visited', 'imported', 'opted-out', 'stage-reached', 'field-set', 'reply-read', 'fuse-not-lit', 'step-instead', 'step-replayed', 'burn-held', 'burn-let-go', 'burn-moved', 'burn-set-aside', 'burn-run-again', 'opted-in', 'noticed', 'outcome-noted', 'record-moved', 'rang', 'ringing', 'ring-passed', 'talking', 'call-ended', 'bounced', 'answered')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_source_notices_status",
                table: "source_notices",
                sql: "\"status\" in ('due', 'done', 'not-chosen', 'failed')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_reprocessings_status",
                table: "reprocessings",
                sql: "\"status\" in ('running', 'done', 'cancelled')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_regroups_kind",
                table: "regroups",
                sql: "\"kind\" in ('merge', 'split')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_proof_runs_from",
                table: "proof_runs",
                sql: "\"from\" in ('network', 'here')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_proof_runs_state",
                table: "proof_runs",
                sql: "\"state\" in ('running', 'proved', 'halted')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_memberships_role",
                table: "memberships",
                sql: "\"role\" in ('agency-lead', 'marketer', 'rep')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_line_cuts_joint",
                table: "line_cuts",
                sql: "\"joint\" in ('access', 'permissions', 'form', 'thank-you', 'visits', 'arrivals', 'map', 'fields', 'fuse', 'service', 'hours', 'proof')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_lead_fields_rule",
                table: "lead_fields",
                sql: "\"rule\" in ('newest-wins', 'fill-empties', 'keep')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_lead_fields_type",
                table: "lead_fields",
                sql: "\"type\" in ('text', 'long-text', 'number', 'money', 'choice', 'choices', 'date', 'yes-no', 'link', 'name', 'email', 'phone')"
            );

            migrationBuilder.CreateIndex(
                name: "ix_lead_contacts_one_lead_each",
                table: "lead_contacts",
                columns: new[] { "client_id", "kind", "value", "test" },
                unique: true,
                filter: "not shared"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_lead_contacts_kind",
                table: "lead_contacts",
                sql: "\"kind\" in ('email', 'phone')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_incoming_messages_meaning",
                table: "incoming_messages",
                sql: "\"meaning\" in ('yes', 'no', 'choice', 'question', 'stop', 'other')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_incoming_messages_way",
                table: "incoming_messages",
                sql: "\"way\" in ('text', 'letter')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_imports_status",
                table: "imports",
                sql: "\"status\" in ('ready', 'running', 'done', 'cancelled', 'undoing', 'undone', 'failed')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_fuses_state",
                table: "fuses",
                sql: "\"state\" in ('draft', 'armed', 'disarmed')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_forms_state",
                table: "forms",
                sql: "\"state\" in ('receiving', 'paused', 'offered')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_form_watches_state",
                table: "form_watches",
                sql: "\"state\" in ('cut', 'unproven', 'whole')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_form_maps_status",
                table: "form_maps",
                sql: "\"status\" in ('suggested', 'confirmed')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_do_not_contact_kind",
                table: "do_not_contact",
                sql: "\"kind\" in ('email', 'phone')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_delivery_tries_status",
                table: "delivery_tries",
                sql: "\"status\" in ('due', 'sending', 'done', 'failed', 'struck')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_deliveries_lane",
                table: "deliveries",
                sql: "\"lane\" in ('lead', 'team', 'systems', 'silent')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_deliveries_retry",
                table: "deliveries",
                sql: "\"retry\" in ('quick', 'usual', 'patient')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_deliveries_status",
                table: "deliveries",
                sql: "\"status\" in ('due', 'sending', 'done', 'failed', 'struck')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_consents_how",
                table: "consents",
                sql: "\"how\" in ('shown', 'ticked', 'confirmed', 'declined')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_connections_state",
                table: "connections",
                sql: "\"state\" in ('whole', 'partial', 'expired', 'withdrawn', 'unreachable')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_conflicts_state",
                table: "conflicts",
                sql: "\"state\" in ('open', 'merged', 'apart')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_calls_stage",
                table: "calls",
                sql: "\"stage\" in ('ringing-team', 'ringing-lead', 'joined', 'closing', 'over')"
            );

            migrationBuilder.CreateIndex(
                name: "ix_burns_set_aside",
                table: "burns",
                columns: new[] { "client_id", "set_aside_at" },
                filter: "set_aside_at is not null"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_burns_status",
                table: "burns",
                sql: "\"status\" in ('burning', 'listening', 'stopped', 'ended')"
            );

            migrationBuilder.AddCheckConstraint(
                name: "ck_backtests_status",
                table: "backtests",
                sql: "\"status\" in ('running', 'done', 'failed', 'cancelled')"
            );

            migrationBuilder.Sql(Features.Leads.ContactTriggers.Make);
            migrationBuilder.Sql(Features.Leads.ContactTriggers.Mend);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql(Features.Leads.ContactTriggers.Drop);

            migrationBuilder.DropCheckConstraint(name: "ck_submissions_status", table: "submissions");

            migrationBuilder.DropCheckConstraint(name: "ck_story_kind", table: "story");

            migrationBuilder.DropCheckConstraint(name: "ck_source_notices_status", table: "source_notices");

            migrationBuilder.DropCheckConstraint(name: "ck_reprocessings_status", table: "reprocessings");

            migrationBuilder.DropCheckConstraint(name: "ck_regroups_kind", table: "regroups");

            migrationBuilder.DropCheckConstraint(name: "ck_proof_runs_from", table: "proof_runs");

            migrationBuilder.DropCheckConstraint(name: "ck_proof_runs_state", table: "proof_runs");

            migrationBuilder.DropCheckConstraint(name: "ck_memberships_role", table: "memberships");

            migrationBuilder.DropCheckConstraint(name: "ck_line_cuts_joint", table: "line_cuts");

            migrationBuilder.DropCheckConstraint(name: "ck_lead_fields_rule", table: "lead_fields");

            migrationBuilder.DropCheckConstraint(name: "ck_lead_fields_type", table: "lead_fields");

            migrationBuilder.DropPrimaryKey(name: "pk_lead_contacts", table: "lead_contacts");

            migrationBuilder.DropIndex(name: "ix_lead_contacts_one_lead_each", table: "lead_contacts");

            migrationBuilder.DropCheckConstraint(name: "ck_lead_contacts_kind", table: "lead_contacts");

            migrationBuilder.DropCheckConstraint(name: "ck_incoming_messages_meaning", table: "incoming_messages");

            migrationBuilder.DropCheckConstraint(name: "ck_incoming_messages_way", table: "incoming_messages");

            migrationBuilder.DropCheckConstraint(name: "ck_imports_status", table: "imports");

            migrationBuilder.DropCheckConstraint(name: "ck_fuses_state", table: "fuses");

            migrationBuilder.DropCheckConstraint(name: "ck_forms_state", table: "forms");

            migrationBuilder.DropCheckConstraint(name: "ck_form_watches_state", table: "form_watches");

            migrationBuilder.DropCheckConstraint(name: "ck_form_maps_status", table: "form_maps");

            migrationBuilder.DropCheckConstraint(name: "ck_do_not_contact_kind", table: "do_not_contact");

            migrationBuilder.DropCheckConstraint(name: "ck_delivery_tries_status", table: "delivery_tries");

            migrationBuilder.DropCheckConstraint(name: "ck_deliveries_lane", table: "deliveries");

            migrationBuilder.DropCheckConstraint(name: "ck_deliveries_retry", table: "deliveries");

            migrationBuilder.DropCheckConstraint(name: "ck_deliveries_status", table: "deliveries");

            migrationBuilder.DropCheckConstraint(name: "ck_consents_how", table: "consents");

            migrationBuilder.DropCheckConstraint(name: "ck_connections_state", table: "connections");

            migrationBuilder.DropCheckConstraint(name: "ck_conflicts_state", table: "conflicts");

            migrationBuilder.DropCheckConstraint(name: "ck_calls_stage", table: "calls");

            migrationBuilder.DropIndex(name: "ix_burns_set_aside", table: "burns");

            migrationBuilder.DropCheckConstraint(name: "ck_burns_status", table: "burns");

            migrationBuilder.DropCheckConstraint(name: "ck_backtests_status", table: "backtests");

            migrationBuilder.DropColumn(name: "reserved_at", table: "deliveries");

            migrationBuilder.DropColumn(name: "after_lead", table: "fuse_clocks");

            migrationBuilder.DropColumn(name: "unmapped", table: "leads");

            migrationBuilder.DropColumn(name: "shared", table: "lead_contacts");

            migrationBuilder.DropColumn(name: "set_aside", table: "burns");

            migrationBuilder.DropColumn(name: "set_aside_at", table: "burns");

            migrationBuilder.DropColumn(name: "set_aside_because", table: "burns");

            migrationBuilder.AddPrimaryKey(
                name: "pk_lead_contacts",
                table: "lead_contacts",
                columns: new[] { "client_id", "kind", "value", "test" }
            );
        }
    }
}
