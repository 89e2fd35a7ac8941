using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace LitFuse.Data.Migrations
{
    /// <inheritdoc />
    public partial class Start : Migration
    {
        // The words that a column takes are its type, a domain, and no check on the table: a table's checks are read anew
        // with every statement, a domain's once a session.
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
            ("deliveries", "status", "due sending done failed cancelled"),
            ("delivery_tries", "status", "due sending done failed cancelled"),
            ("do_not_contact", "kind", "email phone"),
            ("form_maps", "status", "suggested confirmed"),
            ("form_watches", "state", "cut unproven whole"),
            ("forms", "state", "receiving paused offered"),
            ("fuses", "state", "draft armed disarmed"),
            ("imports", "status", "ready running done cancelled undoing undone failed"),
            ("incoming_messages", "meaning", "yes no choice question stop other"),
            ("incoming_messages", "way", "text email"),
            ("lead_contacts", "kind", "email phone"),
            ("lead_fields", "rule", "newest-wins fill-empties keep"),
            ("lead_fields", "type", "text long-text number money choice choices date yes-no link name email phone"),
            ("line_cuts", "joint", "access permissions form thank-you visits arrivals map fields fuse service hours proof"),
            ("memberships", "role", "agency-lead marketer rep"),
            ("proof_runs", "from", "network here"),
            ("proof_runs", "state", "running proved halted"),
            ("regroups", "kind", "merge split"),
            ("reprocessings", "status", "running done cancelled"),
            ("source_notices", "status", "due done not-chosen failed"),
            ("story", "kind", "submitted acknowledged submission-edited lead-made lead-matched lead-conflict fields-changed approved consented opt-in-asked opt-in-confirmed opt-in-expired do-not-contact merged split regroup-undone reprocessed tagged owner-changed answer-unread fuse-lit fuse-not-relit band-lit band-passed step-waits step-sent step-done text-delivered step-retries step-failed step-cancelled burn-stopped burn-ended taken released touched text-written replied visited imported opted-out stage-reached field-set reply-read fuse-not-lit step-instead step-replayed burn-held burn-let-go burn-moved burn-set-aside burn-run-again opted-in noticed outcome-noted record-moved rang ringing ring-passed talking call-ended bounced answered"),
            ("submissions", "status", "received processed waiting unreadable stuck held refused unconfirmed"),
        ];

        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AlterDatabase()
                .Annotation("Npgsql:PostgresExtension:pg_trgm", ",,");

            migrationBuilder.CreateTable(
                name: "api_keys",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    start = table.Column<string>(type: "text", nullable: false),
                    hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    made_by = table.Column<Guid>(type: "uuid", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    used_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    revoked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_api_keys", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "clients",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    short_name = table.Column<string>(type: "text", nullable: false),
                    zone = table.Column<string>(type: "text", nullable: false),
                    country = table.Column<string>(type: "text", nullable: false),
                    currency = table.Column<string>(type: "text", nullable: false),
                    target_seconds = table.Column<int>(type: "integer", nullable: false),
                    send_from = table.Column<TimeOnly>(type: "time without time zone", nullable: false),
                    send_to = table.Column<TimeOnly>(type: "time without time zone", nullable: false),
                    work_from = table.Column<TimeOnly>(type: "time without time zone", nullable: false),
                    work_to = table.Column<TimeOnly>(type: "time without time zone", nullable: false),
                    work_days = table.Column<int[]>(type: "integer[]", nullable: false),
                    holidays = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'::jsonb"),
                    most_a_day = table.Column<int>(type: "integer", nullable: false),
                    segment_price = table.Column<decimal>(type: "numeric", nullable: true),
                    stages = table.Column<string[]>(type: "text[]", nullable: false, defaultValueSql: "'{New,Spoken,Won,Lost}'::text[]"),
                    held_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    held_by = table.Column<Guid>(type: "uuid", nullable: true),
                    revision = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_clients", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "conflicts",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    other_id = table.Column<Guid>(type: "uuid", nullable: false),
                    submission_id = table.Column<Guid>(type: "uuid", nullable: true),
                    words = table.Column<string>(type: "text", nullable: false),
                    found_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    decided_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    decided_by = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_conflicts", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "connections",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    base_url = table.Column<string>(type: "text", nullable: false),
                    secret = table.Column<string>(type: "text", nullable: false),
                    notice_secret = table.Column<string>(type: "text", nullable: true),
                    signing_key = table.Column<string>(type: "text", nullable: true),
                    sender = table.Column<string>(type: "text", nullable: true),
                    details = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'{}'::jsonb"),
                    account = table.Column<string>(type: "text", nullable: true),
                    granted = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'::jsonb"),
                    state = table.Column<string>(type: "text", nullable: false, defaultValue: "whole"),
                    fault = table.Column<string>(type: "text", nullable: true),
                    expires_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    verified_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    good_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    paused_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    paused_by = table.Column<Guid>(type: "uuid", nullable: true),
                    at_once = table.Column<int>(type: "integer", nullable: true),
                    per_minute = table.Column<int>(type: "integer", nullable: true),
                    tokens = table.Column<double>(type: "double precision", nullable: true),
                    tokens_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    failures = table.Column<int>(type: "integer", nullable: false, defaultValue: 0),
                    rest_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    width = table.Column<int>(type: "integer", nullable: true),
                    older_secret = table.Column<string>(type: "text", nullable: true),
                    older_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    made_by = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_connections", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "consent_texts",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    mark = table.Column<string>(type: "text", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
                    privacy_url = table.Column<string>(type: "text", nullable: true),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_consent_texts", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "data_protection_keys",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    friendly_name = table.Column<string>(type: "text", nullable: true),
                    xml = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_data_protection_keys", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "do_not_contact",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_do_not_contact", x => new { x.client_id, x.kind, x.value });
                });

            migrationBuilder.CreateTable(
                name: "file_rows",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    sheet = table.Column<string>(type: "text", nullable: false),
                    row_key = table.Column<Guid>(type: "uuid", nullable: false),
                    cells = table.Column<string>(type: "jsonb", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_file_rows", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "form_pictures",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    content_type = table.Column<string>(type: "text", nullable: false),
                    bytes = table.Column<byte[]>(type: "bytea", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_pictures", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "fuses",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    armed_version_id = table.Column<Guid>(type: "uuid", nullable: true),
                    draft = table.Column<string>(type: "jsonb", nullable: true),
                    draft_revision = table.Column<int>(type: "integer", nullable: false),
                    draft_by = table.Column<Guid>(type: "uuid", nullable: true),
                    draft_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    catch_up_since = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    catch_up_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    catch_up_after = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_fuses", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "import_bad_rows",
                columns: table => new
                {
                    import_id = table.Column<Guid>(type: "uuid", nullable: false),
                    row = table.Column<int>(type: "integer", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: false),
                    cells = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_import_bad_rows", x => new { x.import_id, x.row });
                });

            migrationBuilder.CreateTable(
                name: "import_changes",
                columns: table => new
                {
                    import_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    before = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_import_changes", x => new { x.import_id, x.lead_id });
                });

            migrationBuilder.CreateTable(
                name: "import_chunks",
                columns: table => new
                {
                    import_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    data = table.Column<byte[]>(type: "bytea", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_import_chunks", x => new { x.import_id, x.number });
                });

            migrationBuilder.CreateTable(
                name: "imports",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    source_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: true),
                    file_name = table.Column<string>(type: "text", nullable: false),
                    bytes = table.Column<long>(type: "bigint", nullable: false),
                    status = table.Column<string>(type: "text", nullable: false),
                    reading = table.Column<string>(type: "jsonb", nullable: false),
                    lights = table.Column<bool>(type: "boolean", nullable: false),
                    picked_up = table.Column<string>(type: "text", nullable: true),
                    rows_done = table.Column<int>(type: "integer", nullable: false),
                    bytes_done = table.Column<long>(type: "bigint", nullable: false),
                    new_leads = table.Column<int>(type: "integer", nullable: false),
                    updates = table.Column<int>(type: "integer", nullable: false),
                    doubles = table.Column<int>(type: "integer", nullable: false),
                    bad_rows = table.Column<int>(type: "integer", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: true),
                    made_by = table.Column<Guid>(type: "uuid", nullable: true),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    started_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    leased_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_imports", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "lead_fields",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    label = table.Column<string>(type: "text", nullable: false),
                    type = table.Column<string>(type: "text", nullable: false),
                    choices = table.Column<string>(type: "jsonb", nullable: false),
                    rule = table.Column<string>(type: "text", nullable: false, defaultValue: "newest-wins")
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lead_fields", x => new { x.client_id, x.key });
                });

            migrationBuilder.CreateTable(
                name: "lead_views",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    query = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lead_views", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "library_files",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    type = table.Column<string>(type: "text", nullable: false),
                    size = table.Column<int>(type: "integer", nullable: false),
                    bytes = table.Column<byte[]>(type: "bytea", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    made_by = table.Column<Guid>(type: "uuid", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_library_files", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "line_rounds",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_line_rounds", x => x.client_id);
                });

            migrationBuilder.CreateTable(
                name: "ready_words",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: true),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    made_by = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_ready_words", x => new { x.client_id, x.key, x.version });
                });

            migrationBuilder.CreateTable(
                name: "refusals",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    source_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: true),
                    code = table.Column<string>(type: "text", nullable: false),
                    detail = table.Column<string>(type: "text", nullable: false),
                    mend = table.Column<string>(type: "text", nullable: false),
                    from_address = table.Column<string>(type: "text", nullable: false),
                    first_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    last_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    times = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_refusals", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "regroups",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    from_id = table.Column<Guid>(type: "uuid", nullable: false),
                    into_id = table.Column<Guid>(type: "uuid", nullable: false),
                    moved = table.Column<string>(type: "jsonb", nullable: false),
                    from_before = table.Column<string>(type: "jsonb", nullable: false),
                    into_before = table.Column<string>(type: "jsonb", nullable: true),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<Guid>(type: "uuid", nullable: false),
                    undone_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    undone_by = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_regroups", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "reprocessings",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    map_version = table.Column<int>(type: "integer", nullable: false),
                    total = table.Column<int>(type: "integer", nullable: false),
                    done = table.Column<int>(type: "integer", nullable: false),
                    changed = table.Column<int>(type: "integer", nullable: false),
                    status = table.Column<string>(type: "text", nullable: false),
                    cursor = table.Column<Guid>(type: "uuid", nullable: false),
                    made_by = table.Column<Guid>(type: "uuid", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_reprocessings", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "source_notices",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    source_id = table.Column<Guid>(type: "uuid", nullable: false),
                    external_form = table.Column<string>(type: "text", nullable: false),
                    external_id = table.Column<string>(type: "text", nullable: false),
                    status = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: true),
                    told_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    attempts = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_source_notices", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "spend_days",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    day = table.Column<DateOnly>(type: "date", nullable: false),
                    source_id = table.Column<Guid>(type: "uuid", nullable: false),
                    campaign = table.Column<string>(type: "text", nullable: false),
                    amount_minor = table.Column<long>(type: "bigint", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_spend_days", x => new { x.client_id, x.day, x.source_id, x.campaign });
                });

            migrationBuilder.CreateTable(
                name: "story",
                columns: table => new
                {
                    id = table.Column<long>(type: "bigint", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    known_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
                    fuse = table.Column<string>(type: "text", nullable: true),
                    band = table.Column<string>(type: "text", nullable: true),
                    step = table.Column<string>(type: "text", nullable: true),
                    burn_id = table.Column<Guid>(type: "uuid", nullable: true),
                    delivery_id = table.Column<Guid>(type: "uuid", nullable: true),
                    submission_id = table.Column<Guid>(type: "uuid", nullable: true),
                    user_id = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_story", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "submissions",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    received_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    content_type = table.Column<string>(type: "text", nullable: false),
                    raw = table.Column<byte[]>(type: "bytea", nullable: false),
                    own_id = table.Column<string>(type: "text", nullable: true),
                    dedupe_key = table.Column<byte[]>(type: "bytea", nullable: false),
                    status = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: true),
                    attempts = table.Column<int>(type: "integer", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: true),
                    sent_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    test = table.Column<bool>(type: "boolean", nullable: false),
                    quiet = table.Column<bool>(type: "boolean", nullable: false),
                    envelope = table.Column<string>(type: "text", nullable: true),
                    import_id = table.Column<Guid>(type: "uuid", nullable: true),
                    map_version = table.Column<int>(type: "integer", nullable: true),
                    junk = table.Column<int>(type: "integer", nullable: false),
                    junk_because = table.Column<string>(type: "jsonb", nullable: true),
                    held_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    decided_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    decided_by = table.Column<Guid>(type: "uuid", nullable: true),
                    confirmed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_submissions", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "users",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    test_phone = table.Column<string>(type: "text", nullable: true),
                    test_email = table.Column<string>(type: "text", nullable: true),
                    test_person = table.Column<string>(type: "text", nullable: true),
                    takes_calls = table.Column<bool>(type: "boolean", nullable: false),
                    user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    email_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    password_hash = table.Column<string>(type: "text", nullable: true),
                    security_stamp = table.Column<string>(type: "text", nullable: true),
                    concurrency_stamp = table.Column<string>(type: "text", nullable: true),
                    phone_number = table.Column<string>(type: "text", nullable: true),
                    phone_number_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    two_factor_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    lockout_end = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    lockout_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    access_failed_count = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_users", x => x.id);
                });

            migrationBuilder.CreateTable(
                name: "visitors",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    visitor_id = table.Column<string>(type: "text", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    last_path = table.Column<string>(type: "text", nullable: true),
                    seen_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_visitors", x => new { x.client_id, x.visitor_id });
                });

            migrationBuilder.CreateTable(
                name: "incoming_messages",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    way = table.Column<string>(type: "text", nullable: false),
                    reference = table.Column<string>(type: "text", nullable: false),
                    from = table.Column<string>(type: "text", nullable: false),
                    to = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: true),
                    words = table.Column<string>(type: "text", nullable: false),
                    fault = table.Column<string>(type: "text", nullable: true),
                    raw = table.Column<byte[]>(type: "bytea", nullable: true),
                    automatic = table.Column<bool>(type: "boolean", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    known_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: true),
                    meaning = table.Column<string>(type: "text", nullable: false),
                    dismissed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    dismissed_by = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_incoming_messages", x => x.id);
                    table.ForeignKey(
                        name: "fk_incoming_messages_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "nightly_files",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    to = table.Column<string>(type: "text", nullable: false),
                    format = table.Column<string>(type: "text", nullable: false),
                    columns = table.Column<string>(type: "jsonb", nullable: false),
                    of_the_day = table.Column<bool>(type: "boolean", nullable: false),
                    at = table.Column<LocalTime>(type: "time", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    attempts = table.Column<int>(type: "integer", nullable: false),
                    sent_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    rows = table.Column<int>(type: "integer", nullable: true),
                    fault = table.Column<string>(type: "text", nullable: true),
                    made_by = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_nightly_files", x => x.id);
                    table.ForeignKey(
                        name: "fk_nightly_files_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "service_news",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    reference = table.Column<string>(type: "text", nullable: false),
                    @event = table.Column<string>(name: "event", type: "text", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
                    details = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'{}'::jsonb"),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    known_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_service_news", x => x.id);
                    table.ForeignKey(
                        name: "fk_service_news_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "sources",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: true),
                    key = table.Column<string>(type: "text", nullable: true),
                    secret = table.Column<string>(type: "text", nullable: true),
                    places = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'::jsonb"),
                    cursor = table.Column<string>(type: "text", nullable: true),
                    fault = table.Column<string>(type: "text", nullable: true),
                    looked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    look_due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    poll_due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    daily_file = table.Column<string>(type: "text", nullable: true),
                    daily_file_due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    compared_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    compare_due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    compare_fault = table.Column<string>(type: "text", nullable: true),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sources", x => x.id);
                    table.ForeignKey(
                        name: "fk_sources_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id");
                });

            migrationBuilder.CreateTable(
                name: "consents",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    submission_id = table.Column<Guid>(type: "uuid", nullable: true),
                    text_id = table.Column<Guid>(type: "uuid", nullable: false),
                    how = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    from_address = table.Column<string>(type: "text", nullable: true),
                    source = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_consents", x => x.id);
                    table.ForeignKey(
                        name: "fk_consents_consent_texts_text_id",
                        column: x => x.text_id,
                        principalTable: "consent_texts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "backtests",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    fuse_id = table.Column<Guid>(type: "uuid", nullable: false),
                    definition = table.Column<string>(type: "jsonb", nullable: false),
                    beside_version_id = table.Column<Guid>(type: "uuid", nullable: true),
                    forms = table.Column<string[]>(type: "text[]", nullable: false),
                    since = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    until = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    segment_price = table.Column<decimal>(type: "numeric", nullable: true),
                    status = table.Column<string>(type: "text", nullable: false),
                    total = table.Column<int>(type: "integer", nullable: false),
                    leads_done = table.Column<int>(type: "integer", nullable: false),
                    told = table.Column<string>(type: "jsonb", nullable: true),
                    reason = table.Column<string>(type: "text", nullable: true),
                    made_by = table.Column<Guid>(type: "uuid", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    leased_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_backtests", x => x.id);
                    table.ForeignKey(
                        name: "fk_backtests_fuses_fuse_id",
                        column: x => x.fuse_id,
                        principalTable: "fuses",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "fuse_presences",
                columns: table => new
                {
                    fuse_id = table.Column<Guid>(type: "uuid", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    seen_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    edited_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_fuse_presences", x => new { x.fuse_id, x.user_id });
                    table.ForeignKey(
                        name: "fk_fuse_presences_fuses_fuse_id",
                        column: x => x.fuse_id,
                        principalTable: "fuses",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "fuse_versions",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    fuse_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    definition = table.Column<string>(type: "jsonb", nullable: false),
                    armed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    armed_by = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_fuse_versions", x => x.id);
                    table.ForeignKey(
                        name: "fk_fuse_versions_fuses_fuse_id",
                        column: x => x.fuse_id,
                        principalTable: "fuses",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "memberships",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: true),
                    role = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_memberships", x => x.id);
                    table.ForeignKey(
                        name: "fk_memberships_asp_net_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "user_claims",
                columns: table => new
                {
                    id = table.Column<int>(type: "integer", nullable: false)
                        .Annotation("Npgsql:ValueGenerationStrategy", NpgsqlValueGenerationStrategy.IdentityByDefaultColumn),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    claim_type = table.Column<string>(type: "text", nullable: true),
                    claim_value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_user_claims", x => x.id);
                    table.ForeignKey(
                        name: "fk_user_claims_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "user_logins",
                columns: table => new
                {
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    provider_key = table.Column<string>(type: "text", nullable: false),
                    provider_display_name = table.Column<string>(type: "text", nullable: true),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_user_logins", x => new { x.login_provider, x.provider_key });
                    table.ForeignKey(
                        name: "fk_user_logins_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "user_tokens",
                columns: table => new
                {
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_user_tokens", x => new { x.user_id, x.login_provider, x.name });
                    table.ForeignKey(
                        name: "fk_user_tokens_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "forms",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    source_id = table.Column<Guid>(type: "uuid", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    fields = table.Column<string>(type: "jsonb", nullable: false),
                    thank_you_url = table.Column<string>(type: "text", nullable: true),
                    page_url = table.Column<string>(type: "text", nullable: true),
                    state = table.Column<string>(type: "text", nullable: false, defaultValue: "receiving"),
                    external_id = table.Column<string>(type: "text", nullable: true),
                    place = table.Column<string>(type: "jsonb", nullable: true),
                    ad_state = table.Column<string>(type: "text", nullable: true),
                    archived_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    news = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'::jsonb"),
                    draft = table.Column<string>(type: "jsonb", nullable: true),
                    design = table.Column<string>(type: "jsonb", nullable: true),
                    published_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    picks = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'::jsonb"),
                    proof = table.Column<string>(type: "jsonb", nullable: true),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    hold = table.Column<string>(type: "jsonb", nullable: true),
                    opt_in = table.Column<string>(type: "jsonb", nullable: true),
                    waits_for = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'::jsonb")
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_forms", x => x.id);
                    table.ForeignKey(
                        name: "fk_forms_sources_source_id",
                        column: x => x.source_id,
                        principalTable: "sources",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "fuse_clocks",
                columns: table => new
                {
                    fuse_version_id = table.Column<Guid>(type: "uuid", nullable: false),
                    place = table.Column<int>(type: "integer", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    next_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    after_lead = table.Column<Guid>(type: "uuid", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_fuse_clocks", x => new { x.fuse_version_id, x.place });
                    table.ForeignKey(
                        name: "fk_fuse_clocks_fuse_versions_fuse_version_id",
                        column: x => x.fuse_version_id,
                        principalTable: "fuse_versions",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "form_days",
                columns: table => new
                {
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    day = table.Column<DateOnly>(type: "date", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    views = table.Column<int>(type: "integer", nullable: false),
                    starts = table.Column<int>(type: "integer", nullable: false),
                    sends = table.Column<int>(type: "integer", nullable: false),
                    empty_visits = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_days", x => new { x.form_id, x.day });
                    table.ForeignKey(
                        name: "fk_form_days_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "form_maps",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    status = table.Column<string>(type: "text", nullable: false),
                    map = table.Column<string>(type: "jsonb", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    confirmed_by = table.Column<Guid>(type: "uuid", nullable: true),
                    confirmed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_maps", x => x.id);
                    table.ForeignKey(
                        name: "fk_form_maps_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "form_quiet_times",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    from_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    to_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_quiet_times", x => x.id);
                    table.ForeignKey(
                        name: "fk_form_quiet_times_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "form_watches",
                columns: table => new
                {
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    sampled_to = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    looked_version = table.Column<int>(type: "integer", nullable: true),
                    looked_fields = table.Column<int>(type: "integer", nullable: false, defaultValue: 0),
                    filled = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'{}'::jsonb"),
                    drift = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'::jsonb"),
                    accepted = table.Column<string[]>(type: "text[]", nullable: false, defaultValueSql: "'{}'::text[]"),
                    silent = table.Column<string>(type: "text", nullable: true),
                    habit = table.Column<string>(type: "text", nullable: true),
                    thanks_address = table.Column<string>(type: "text", nullable: true),
                    thanks_asked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    thanks_fault = table.Column<string>(type: "text", nullable: true),
                    missing = table.Column<int>(type: "integer", nullable: false, defaultValue: 0),
                    proof = table.Column<string>(type: "jsonb", nullable: true),
                    mended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    rests_since = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    plan = table.Column<string>(type: "jsonb", nullable: true),
                    prove_due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    line = table.Column<string>(type: "jsonb", nullable: true),
                    state = table.Column<string>(type: "text", nullable: true),
                    judged_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_watches", x => x.form_id);
                    table.ForeignKey(
                        name: "fk_form_watches_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "leads",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    first_name = table.Column<string>(type: "text", nullable: true),
                    last_name = table.Column<string>(type: "text", nullable: true),
                    email = table.Column<string>(type: "text", nullable: true),
                    phone = table.Column<string>(type: "text", nullable: true),
                    phone_readable = table.Column<bool>(type: "boolean", nullable: false),
                    zone = table.Column<string>(type: "text", nullable: false),
                    zone_because = table.Column<string>(type: "text", nullable: false, defaultValue: ""),
                    stage = table.Column<string>(type: "text", nullable: false, defaultValue: "New"),
                    times_asked = table.Column<int>(type: "integer", nullable: false, defaultValue: 1),
                    fields = table.Column<string>(type: "jsonb", nullable: false),
                    unmapped = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'{}'::jsonb"),
                    asked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    target_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    taken_by = table.Column<Guid>(type: "uuid", nullable: true),
                    taken_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    auto_touch_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    first_touch_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    first_touch_by = table.Column<Guid>(type: "uuid", nullable: true),
                    reached_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    opted_out_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    email_bounced_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    email_bounced_because = table.Column<string>(type: "text", nullable: true),
                    do_not_contact_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    owner_id = table.Column<Guid>(type: "uuid", nullable: true),
                    tags = table.Column<string[]>(type: "text[]", nullable: false, defaultValueSql: "'{}'::text[]"),
                    merged_into = table.Column<Guid>(type: "uuid", nullable: true),
                    only_to = table.Column<Guid>(type: "uuid", nullable: true),
                    test = table.Column<bool>(type: "boolean", nullable: false),
                    quiet = table.Column<bool>(type: "boolean", nullable: false),
                    import_id = table.Column<Guid>(type: "uuid", nullable: true),
                    search_text = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_leads", x => x.id);
                    table.ForeignKey(
                        name: "fk_leads_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "line_cuts",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    joint = table.Column<string>(type: "text", nullable: false),
                    cause = table.Column<string>(type: "text", nullable: false),
                    mend = table.Column<string>(type: "jsonb", nullable: false),
                    from_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    to_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    told = table.Column<bool>(type: "boolean", nullable: false, defaultValue: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_line_cuts", x => x.id);
                    table.ForeignKey(
                        name: "fk_line_cuts_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "network_days",
                columns: table => new
                {
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    day = table.Column<DateOnly>(type: "date", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    theirs = table.Column<int>(type: "integer", nullable: false),
                    ours = table.Column<int>(type: "integer", nullable: false),
                    recovered = table.Column<int>(type: "integer", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_network_days", x => new { x.form_id, x.day });
                    table.ForeignKey(
                        name: "fk_network_days_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "proof_runs",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    from = table.Column<string>(type: "text", nullable: false),
                    only_to = table.Column<Guid>(type: "uuid", nullable: true),
                    began_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<Guid>(type: "uuid", nullable: true),
                    submission_id = table.Column<Guid>(type: "uuid", nullable: true),
                    external_id = table.Column<string>(type: "text", nullable: true),
                    state = table.Column<string>(type: "text", nullable: false),
                    because = table.Column<string>(type: "text", nullable: true),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_proof_runs", x => x.id);
                    table.ForeignKey(
                        name: "fk_proof_runs_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "backtest_leads",
                columns: table => new
                {
                    backtest_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    asked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    marks = table.Column<byte[]>(type: "bytea", nullable: false),
                    beside_marks = table.Column<byte[]>(type: "bytea", nullable: true),
                    truth_marks = table.Column<byte[]>(type: "bytea", nullable: false),
                    to_lead = table.Column<int>(type: "integer", nullable: false),
                    beside_to_lead = table.Column<int>(type: "integer", nullable: false),
                    truth_to_lead = table.Column<int>(type: "integer", nullable: false),
                    not_lit = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_backtest_leads", x => new { x.backtest_id, x.lead_id });
                    table.ForeignKey(
                        name: "fk_backtest_leads_backtests_backtest_id",
                        column: x => x.backtest_id,
                        principalTable: "backtests",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_backtest_leads_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "burns",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    fuse_id = table.Column<Guid>(type: "uuid", nullable: false),
                    fuse_version_id = table.Column<Guid>(type: "uuid", nullable: false),
                    submission_id = table.Column<Guid>(type: "uuid", nullable: false),
                    status = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "jsonb", nullable: false),
                    lit_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    wake_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    set_aside_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    set_aside_because = table.Column<string>(type: "text", nullable: true),
                    set_aside = table.Column<string>(type: "jsonb", nullable: false, defaultValueSql: "'[]'::jsonb"),
                    version = table.Column<int>(type: "integer", nullable: false, defaultValue: 0)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_burns", x => x.id);
                    table.ForeignKey(
                        name: "fk_burns_fuse_versions_fuse_version_id",
                        column: x => x.fuse_version_id,
                        principalTable: "fuse_versions",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_burns_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "calls",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    burn_id = table.Column<Guid>(type: "uuid", nullable: true),
                    step_id = table.Column<string>(type: "text", nullable: true),
                    step_key = table.Column<string>(type: "text", nullable: true),
                    fuse = table.Column<string>(type: "text", nullable: true),
                    band = table.Column<string>(type: "text", nullable: true),
                    step = table.Column<string>(type: "text", nullable: true),
                    asked_by = table.Column<Guid>(type: "uuid", nullable: true),
                    plan = table.Column<string>(type: "jsonb", nullable: false),
                    state = table.Column<string>(type: "jsonb", nullable: false),
                    stage = table.Column<string>(type: "text", nullable: false),
                    references = table.Column<string[]>(type: "text[]", nullable: false, defaultValueSql: "'{}'::text[]"),
                    began_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    wake_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    hang_up_because = table.Column<string>(type: "text", nullable: true),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    recording = table.Column<string>(type: "text", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_calls", x => x.id);
                    table.ForeignKey(
                        name: "fk_calls_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_calls_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "deliveries",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    burn_id = table.Column<Guid>(type: "uuid", nullable: true),
                    band = table.Column<string>(type: "text", nullable: true),
                    step_id = table.Column<string>(type: "text", nullable: true),
                    step = table.Column<string>(type: "text", nullable: true),
                    fuse = table.Column<string>(type: "text", nullable: true),
                    kind = table.Column<string>(type: "text", nullable: false),
                    lane = table.Column<string>(type: "text", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    settings = table.Column<string>(type: "jsonb", nullable: false),
                    planned_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    age_limit_hours = table.Column<int>(type: "integer", nullable: false),
                    hours = table.Column<string>(type: "jsonb", nullable: true),
                    retry = table.Column<string>(type: "text", nullable: false, defaultValue: "usual"),
                    written_by = table.Column<Guid>(type: "uuid", nullable: true),
                    only_to = table.Column<Guid>(type: "uuid", nullable: true),
                    status = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: true),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    attempts = table.Column<int>(type: "integer", nullable: false),
                    attempts_before = table.Column<int>(type: "integer", nullable: false),
                    again = table.Column<int>(type: "integer", nullable: false),
                    reserved_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    leased_by = table.Column<string>(type: "text", nullable: true),
                    leased_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    sent_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    segments = table.Column<int>(type: "integer", nullable: true),
                    reference = table.Column<string>(type: "text", nullable: true),
                    receipt_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_deliveries", x => x.id);
                    table.ForeignKey(
                        name: "fk_deliveries_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                    table.ForeignKey(
                        name: "fk_deliveries_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "lead_contacts",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    test = table.Column<bool>(type: "boolean", nullable: false),
                    shared = table.Column<bool>(type: "boolean", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lead_contacts", x => new { x.client_id, x.kind, x.value, x.test, x.lead_id });
                    table.ForeignKey(
                        name: "fk_lead_contacts_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "notices",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: true),
                    form_id = table.Column<Guid>(type: "uuid", nullable: true),
                    words = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    read_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_notices", x => x.id);
                    table.ForeignKey(
                        name: "fk_notices_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id");
                    table.ForeignKey(
                        name: "fk_notices_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id");
                });

            migrationBuilder.CreateTable(
                name: "opt_ins",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    submission_id = table.Column<Guid>(type: "uuid", nullable: false),
                    token_hash = table.Column<byte[]>(type: "bytea", nullable: false),
                    email = table.Column<string>(type: "text", nullable: false),
                    asked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    expires_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    confirmed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    expired_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_opt_ins", x => x.id);
                    table.ForeignKey(
                        name: "fk_opt_ins_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateTable(
                name: "delivery_tries",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    delivery_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    began_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    took_ms = table.Column<int>(type: "integer", nullable: false),
                    status = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: false),
                    exchanges = table.Column<string>(type: "jsonb", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_delivery_tries", x => x.id);
                    table.ForeignKey(
                        name: "fk_delivery_tries_deliveries_delivery_id",
                        column: x => x.delivery_id,
                        principalTable: "deliveries",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade);
                });

            migrationBuilder.CreateIndex(
                name: "ix_api_keys_client_id",
                table: "api_keys",
                column: "client_id");

            migrationBuilder.CreateIndex(
                name: "ix_api_keys_hash",
                table: "api_keys",
                column: "hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_backtest_leads_lead_id",
                table: "backtest_leads",
                column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_backtests_fuse_id_made_at",
                table: "backtests",
                columns: new[] { "fuse_id", "made_at" });

            migrationBuilder.CreateIndex(
                name: "ix_backtests_under_way",
                table: "backtests",
                column: "made_at",
                filter: "status = 'running'");

            migrationBuilder.CreateIndex(
                name: "ix_burns_due",
                table: "burns",
                column: "wake_at",
                filter: "wake_at is not null");

            migrationBuilder.CreateIndex(
                name: "ix_burns_fuse_id_lit_at",
                table: "burns",
                columns: new[] { "fuse_id", "lit_at" });

            migrationBuilder.CreateIndex(
                name: "ix_burns_fuse_version_id",
                table: "burns",
                column: "fuse_version_id");

            migrationBuilder.CreateIndex(
                name: "ix_burns_hearing",
                table: "burns",
                column: "lead_id",
                filter: "status in ('burning', 'listening')");

            migrationBuilder.CreateIndex(
                name: "ix_burns_lead_id_fuse_id",
                table: "burns",
                columns: new[] { "lead_id", "fuse_id" });

            migrationBuilder.CreateIndex(
                name: "ix_burns_set_aside",
                table: "burns",
                columns: new[] { "client_id", "set_aside_at" },
                filter: "set_aside_at is not null");

            migrationBuilder.CreateIndex(
                name: "ix_calls_connection_id",
                table: "calls",
                column: "connection_id");

            migrationBuilder.CreateIndex(
                name: "ix_calls_key",
                table: "calls",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_calls_lead_id_began_at",
                table: "calls",
                columns: new[] { "lead_id", "began_at" });

            migrationBuilder.CreateIndex(
                name: "ix_calls_live",
                table: "calls",
                column: "wake_at",
                filter: "wake_at is not null or hang_up_because is not null");

            migrationBuilder.CreateIndex(
                name: "ix_calls_of_burns",
                table: "calls",
                column: "burn_id",
                filter: "ended_at is null and burn_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_clients_key",
                table: "clients",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_conflicts_client_id_state",
                table: "conflicts",
                columns: new[] { "client_id", "state" });

            migrationBuilder.CreateIndex(
                name: "ix_conflicts_lead_id",
                table: "conflicts",
                column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_connections_client_id_kind",
                table: "connections",
                columns: new[] { "client_id", "kind" });

            migrationBuilder.CreateIndex(
                name: "ix_consent_texts_form_id_mark",
                table: "consent_texts",
                columns: new[] { "form_id", "mark" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_consents_lead_id",
                table: "consents",
                column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_consents_text_id",
                table: "consents",
                column: "text_id");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_connection_id_reference",
                table: "deliveries",
                columns: new[] { "connection_id", "reference" },
                filter: "reference is not null");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_due",
                table: "deliveries",
                columns: new[] { "connection_id", "due_at" },
                filter: "status = 'due'");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_ended",
                table: "deliveries",
                columns: new[] { "connection_id", "ended_at" },
                filter: "ended_at is not null");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_failed",
                table: "deliveries",
                columns: new[] { "client_id", "made_at" },
                filter: "status = 'failed'");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_key",
                table: "deliveries",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_lead_id",
                table: "deliveries",
                column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_leased",
                table: "deliveries",
                column: "leased_until",
                filter: "status = 'sending'");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_newest",
                table: "deliveries",
                columns: new[] { "client_id", "made_at", "id" },
                descending: new[] { false, true, true });

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_newest_through",
                table: "deliveries",
                columns: new[] { "connection_id", "made_at", "id" },
                descending: new[] { false, true, true });

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_of_burns",
                table: "deliveries",
                column: "burn_id",
                filter: "burn_id is not null and status = 'due'");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_open",
                table: "deliveries",
                columns: new[] { "connection_id", "lead_id", "made_at" },
                filter: "status in ('due', 'sending')");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_under_way",
                table: "deliveries",
                column: "connection_id",
                filter: "status = 'sending'");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_waiting",
                table: "deliveries",
                columns: new[] { "client_id", "made_at" },
                filter: "ended_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_delivery_tries_delivery_id_began_at",
                table: "delivery_tries",
                columns: new[] { "delivery_id", "began_at" });

            migrationBuilder.CreateIndex(
                name: "ix_file_rows_client_id_sheet_row_key_id",
                table: "file_rows",
                columns: new[] { "client_id", "sheet", "row_key", "id" });

            migrationBuilder.CreateIndex(
                name: "ix_file_rows_lead_id",
                table: "file_rows",
                column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_form_maps_form_id_version",
                table: "form_maps",
                columns: new[] { "form_id", "version" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_form_pictures_client_id",
                table: "form_pictures",
                column: "client_id");

            migrationBuilder.CreateIndex(
                name: "ix_form_quiet_times_form_id_from_at",
                table: "form_quiet_times",
                columns: new[] { "form_id", "from_at" });

            migrationBuilder.CreateIndex(
                name: "ix_form_quiet_times_lasting",
                table: "form_quiet_times",
                column: "form_id",
                unique: true,
                filter: "to_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_form_watches_client_id_state",
                table: "form_watches",
                columns: new[] { "client_id", "state" });

            migrationBuilder.CreateIndex(
                name: "ix_form_watches_prove_due_at",
                table: "form_watches",
                column: "prove_due_at",
                filter: "prove_due_at is not null");

            migrationBuilder.CreateIndex(
                name: "ix_forms_client_id",
                table: "forms",
                column: "client_id");

            migrationBuilder.CreateIndex(
                name: "ix_forms_key",
                table: "forms",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_forms_source_id_external_id",
                table: "forms",
                columns: new[] { "source_id", "external_id" },
                unique: true,
                filter: "external_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_fuse_clocks_next_at",
                table: "fuse_clocks",
                column: "next_at");

            migrationBuilder.CreateIndex(
                name: "ix_fuse_versions_fuse_id_number",
                table: "fuse_versions",
                columns: new[] { "fuse_id", "number" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_fuses_catching_up",
                table: "fuses",
                column: "catch_up_until",
                filter: "catch_up_since is not null");

            migrationBuilder.CreateIndex(
                name: "ix_fuses_client_id",
                table: "fuses",
                column: "client_id");

            migrationBuilder.CreateIndex(
                name: "ix_imports_client_id_made_at",
                table: "imports",
                columns: new[] { "client_id", "made_at" });

            migrationBuilder.CreateIndex(
                name: "ix_imports_source_id_picked_up",
                table: "imports",
                columns: new[] { "source_id", "picked_up" },
                unique: true,
                filter: "picked_up is not null");

            migrationBuilder.CreateIndex(
                name: "ix_imports_under_way",
                table: "imports",
                column: "status",
                filter: "status in ('running', 'undoing')");

            migrationBuilder.CreateIndex(
                name: "ix_incoming_messages_connection_id_reference",
                table: "incoming_messages",
                columns: new[] { "connection_id", "reference" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_incoming_messages_lead_id_at",
                table: "incoming_messages",
                columns: new[] { "lead_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_incoming_messages_tray",
                table: "incoming_messages",
                columns: new[] { "client_id", "at" },
                filter: "lead_id is null and dismissed_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_lead_contacts_lead_id",
                table: "lead_contacts",
                column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_lead_contacts_one_lead_each",
                table: "lead_contacts",
                columns: new[] { "client_id", "kind", "value", "test" },
                unique: true,
                filter: "not shared");

            migrationBuilder.CreateIndex(
                name: "ix_lead_views_user_id_name",
                table: "lead_views",
                columns: new[] { "user_id", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_leads_client_id_asked_at",
                table: "leads",
                columns: new[] { "client_id", "asked_at" });

            migrationBuilder.CreateIndex(
                name: "ix_leads_client_id_stage",
                table: "leads",
                columns: new[] { "client_id", "stage" });

            migrationBuilder.CreateIndex(
                name: "ix_leads_form_id",
                table: "leads",
                column: "form_id");

            migrationBuilder.CreateIndex(
                name: "ix_leads_import_id",
                table: "leads",
                column: "import_id",
                filter: "import_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_leads_in_the_air",
                table: "leads",
                columns: new[] { "client_id", "target_at" },
                filter: "first_touch_at is null and not quiet");

            migrationBuilder.CreateIndex(
                name: "ix_leads_owner_id",
                table: "leads",
                column: "owner_id",
                filter: "owner_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_leads_search_text",
                table: "leads",
                column: "search_text")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_leads_tags",
                table: "leads",
                column: "tags",
                filter: "tags <> '{}'")
                .Annotation("Npgsql:IndexMethod", "gin");

            migrationBuilder.CreateIndex(
                name: "ix_leads_tests",
                table: "leads",
                column: "client_id",
                filter: "test");

            migrationBuilder.CreateIndex(
                name: "ix_library_files_client_id_name",
                table: "library_files",
                columns: new[] { "client_id", "name" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_line_cuts_form_id_from_at",
                table: "line_cuts",
                columns: new[] { "form_id", "from_at" });

            migrationBuilder.CreateIndex(
                name: "ix_line_cuts_lasting",
                table: "line_cuts",
                columns: new[] { "form_id", "key" },
                unique: true,
                filter: "to_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_line_rounds_due_at",
                table: "line_rounds",
                column: "due_at");

            migrationBuilder.CreateIndex(
                name: "ix_memberships_user_id_client_id",
                table: "memberships",
                columns: new[] { "user_id", "client_id" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_nightly_files_connection_id",
                table: "nightly_files",
                column: "connection_id");

            migrationBuilder.CreateIndex(
                name: "ix_nightly_files_due_at",
                table: "nightly_files",
                column: "due_at");

            migrationBuilder.CreateIndex(
                name: "ix_notices_form_id",
                table: "notices",
                column: "form_id");

            migrationBuilder.CreateIndex(
                name: "ix_notices_lead_id",
                table: "notices",
                column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_notices_user_id_at",
                table: "notices",
                columns: new[] { "user_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_opt_ins_lead_id",
                table: "opt_ins",
                column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_opt_ins_open",
                table: "opt_ins",
                column: "expires_at",
                filter: "confirmed_at is null and expired_at is null");

            migrationBuilder.CreateIndex(
                name: "ix_opt_ins_token_hash",
                table: "opt_ins",
                column: "token_hash",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_proof_runs_form_id_began_at",
                table: "proof_runs",
                columns: new[] { "form_id", "began_at" });

            migrationBuilder.CreateIndex(
                name: "ix_proof_runs_running",
                table: "proof_runs",
                column: "began_at",
                filter: "state = 'running'");

            migrationBuilder.CreateIndex(
                name: "ix_refusals_source_id_last_at",
                table: "refusals",
                columns: new[] { "source_id", "last_at" });

            migrationBuilder.CreateIndex(
                name: "ix_regroups_from_id",
                table: "regroups",
                column: "from_id");

            migrationBuilder.CreateIndex(
                name: "ix_regroups_into_id",
                table: "regroups",
                column: "into_id");

            migrationBuilder.CreateIndex(
                name: "ix_reprocessings_form_id",
                table: "reprocessings",
                column: "form_id");

            migrationBuilder.CreateIndex(
                name: "ix_reprocessings_status",
                table: "reprocessings",
                column: "status",
                filter: "status = 'running'");

            migrationBuilder.CreateIndex(
                name: "ix_service_news_connection_id_reference",
                table: "service_news",
                columns: new[] { "connection_id", "reference" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_service_news_lead_id",
                table: "service_news",
                column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_source_notices_due",
                table: "source_notices",
                column: "due_at",
                filter: "status = 'due'");

            migrationBuilder.CreateIndex(
                name: "ix_source_notices_source_id_told_at",
                table: "source_notices",
                columns: new[] { "source_id", "told_at" });

            migrationBuilder.CreateIndex(
                name: "ix_sources_client_id",
                table: "sources",
                column: "client_id");

            migrationBuilder.CreateIndex(
                name: "ix_sources_connection_id",
                table: "sources",
                column: "connection_id");

            migrationBuilder.CreateIndex(
                name: "ix_sources_key",
                table: "sources",
                column: "key",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_story_lead_id_at",
                table: "story",
                columns: new[] { "lead_id", "at" });

            migrationBuilder.CreateIndex(
                name: "ix_submissions_due",
                table: "submissions",
                column: "due_at",
                filter: "status = 'received'");

            migrationBuilder.CreateIndex(
                name: "ix_submissions_form_id_dedupe_key",
                table: "submissions",
                columns: new[] { "form_id", "dedupe_key" },
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_submissions_form_id_own_id",
                table: "submissions",
                columns: new[] { "form_id", "own_id" },
                filter: "lead_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_submissions_form_id_received_at",
                table: "submissions",
                columns: new[] { "form_id", "received_at" },
                filter: "status <> 'received'");

            migrationBuilder.CreateIndex(
                name: "ix_submissions_import_id",
                table: "submissions",
                column: "import_id",
                filter: "import_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_submissions_lead_id",
                table: "submissions",
                column: "lead_id",
                filter: "lead_id is not null");

            migrationBuilder.CreateIndex(
                name: "ix_submissions_pen",
                table: "submissions",
                columns: new[] { "client_id", "held_at" },
                filter: "status in ('held', 'refused')");

            migrationBuilder.CreateIndex(
                name: "ix_submissions_waiting",
                table: "submissions",
                columns: new[] { "form_id", "received_at" },
                filter: "status = 'waiting'");

            migrationBuilder.CreateIndex(
                name: "ix_user_claims_user_id",
                table: "user_claims",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "ix_user_logins_user_id",
                table: "user_logins",
                column: "user_id");

            migrationBuilder.CreateIndex(
                name: "EmailIndex",
                table: "users",
                column: "normalized_email");

            migrationBuilder.CreateIndex(
                name: "UserNameIndex",
                table: "users",
                column: "normalized_user_name",
                unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_visitors_lead_id",
                table: "visitors",
                column: "lead_id");

            foreach (var (table, column, words) in Columns)
            {
                migrationBuilder.Sql($"create domain {table}_{column} as text check (value in ('{words.Replace(" ", "', '", StringComparison.Ordinal)}'))");
                migrationBuilder.Sql($"alter table {table} alter column \"{column}\" type {table}_{column}");
            }

            // Statements of our own name the columns that they have something for.
            migrationBuilder.Sql("""
                alter table deliveries alter column again set default 0, alter column attempts_before set default 0;
                alter table submissions alter column junk set default 0, alter column quiet set default false, alter column test set default false;
                alter table clients alter column most_a_day set default 0;
                alter table leads alter column quiet set default false, alter column test set default false;
                alter table lead_contacts alter column shared set default false, alter column test set default false;
                alter table users alter column takes_calls set default true;
                alter table lead_fields alter column type set default 'choice';
                """);
            migrationBuilder.Sql(RevisionTriggers.Sql);
            migrationBuilder.Sql(ContactTriggers.Sql);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "api_keys");

            migrationBuilder.DropTable(
                name: "backtest_leads");

            migrationBuilder.DropTable(
                name: "burns");

            migrationBuilder.DropTable(
                name: "calls");

            migrationBuilder.DropTable(
                name: "clients");

            migrationBuilder.DropTable(
                name: "conflicts");

            migrationBuilder.DropTable(
                name: "consents");

            migrationBuilder.DropTable(
                name: "data_protection_keys");

            migrationBuilder.DropTable(
                name: "delivery_tries");

            migrationBuilder.DropTable(
                name: "do_not_contact");

            migrationBuilder.DropTable(
                name: "file_rows");

            migrationBuilder.DropTable(
                name: "form_days");

            migrationBuilder.DropTable(
                name: "form_maps");

            migrationBuilder.DropTable(
                name: "form_pictures");

            migrationBuilder.DropTable(
                name: "form_quiet_times");

            migrationBuilder.DropTable(
                name: "form_watches");

            migrationBuilder.DropTable(
                name: "fuse_clocks");

            migrationBuilder.DropTable(
                name: "fuse_presences");

            migrationBuilder.DropTable(
                name: "import_bad_rows");

            migrationBuilder.DropTable(
                name: "import_changes");

            migrationBuilder.DropTable(
                name: "import_chunks");

            migrationBuilder.DropTable(
                name: "imports");

            migrationBuilder.DropTable(
                name: "incoming_messages");

            migrationBuilder.DropTable(
                name: "lead_contacts");

            migrationBuilder.DropTable(
                name: "lead_fields");

            migrationBuilder.DropTable(
                name: "lead_views");

            migrationBuilder.DropTable(
                name: "library_files");

            migrationBuilder.DropTable(
                name: "line_cuts");

            migrationBuilder.DropTable(
                name: "line_rounds");

            migrationBuilder.DropTable(
                name: "memberships");

            migrationBuilder.DropTable(
                name: "network_days");

            migrationBuilder.DropTable(
                name: "nightly_files");

            migrationBuilder.DropTable(
                name: "notices");

            migrationBuilder.DropTable(
                name: "opt_ins");

            migrationBuilder.DropTable(
                name: "proof_runs");

            migrationBuilder.DropTable(
                name: "ready_words");

            migrationBuilder.DropTable(
                name: "refusals");

            migrationBuilder.DropTable(
                name: "regroups");

            migrationBuilder.DropTable(
                name: "reprocessings");

            migrationBuilder.DropTable(
                name: "service_news");

            migrationBuilder.DropTable(
                name: "source_notices");

            migrationBuilder.DropTable(
                name: "spend_days");

            migrationBuilder.DropTable(
                name: "story");

            migrationBuilder.DropTable(
                name: "submissions");

            migrationBuilder.DropTable(
                name: "user_claims");

            migrationBuilder.DropTable(
                name: "user_logins");

            migrationBuilder.DropTable(
                name: "user_tokens");

            migrationBuilder.DropTable(
                name: "visitors");

            migrationBuilder.DropTable(
                name: "backtests");

            migrationBuilder.DropTable(
                name: "consent_texts");

            migrationBuilder.DropTable(
                name: "deliveries");

            migrationBuilder.DropTable(
                name: "fuse_versions");

            migrationBuilder.DropTable(
                name: "users");

            migrationBuilder.DropTable(
                name: "leads");

            migrationBuilder.DropTable(
                name: "fuses");

            migrationBuilder.DropTable(
                name: "forms");

            migrationBuilder.DropTable(
                name: "sources");

            migrationBuilder.DropTable(
                name: "connections");

            migrationBuilder.Sql("drop function know_lead_by_its_contacts(); drop function know_contact(uuid, text, text); drop function count_up_client(); drop function count_up_client_of(); drop function count_up_all_clients();");
            foreach (var (table, column, _) in Columns) migrationBuilder.Sql($"drop domain {table}_{column}");
        }
    }
}
