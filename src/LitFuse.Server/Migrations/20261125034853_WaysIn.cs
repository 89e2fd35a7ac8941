using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class WaysIn : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(name: "fk_story_leads_lead_id", table: "story");

            migrationBuilder.DropIndex(name: "ix_leads_in_the_air", table: "leads");

            migrationBuilder.DropIndex(name: "ix_forms_source_id", table: "forms");

            migrationBuilder.AddColumn<string>(name: "envelope", table: "submissions", type: "text", nullable: true);

            migrationBuilder.AddColumn<Guid>(name: "import_id", table: "submissions", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "quiet",
                table: "submissions",
                type: "boolean",
                nullable: false,
                defaultValue: false
            );

            migrationBuilder.AddColumn<Instant>(
                name: "sent_at",
                table: "submissions",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<bool>(
                name: "test",
                table: "submissions",
                type: "boolean",
                nullable: false,
                defaultValue: false
            );

            migrationBuilder.AddColumn<Guid>(name: "connection_id", table: "sources", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<string>(name: "cursor", table: "sources", type: "text", nullable: true);

            migrationBuilder.AddColumn<string>(name: "daily_file", table: "sources", type: "text", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "daily_file_due_at",
                table: "sources",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(name: "fault", table: "sources", type: "text", nullable: true);

            migrationBuilder.AddColumn<string>(name: "key", table: "sources", type: "text", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "look_due_at",
                table: "sources",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Instant>(
                name: "looked_at",
                table: "sources",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Instant>(
                name: "made_at",
                table: "sources",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(
                name: "places",
                table: "sources",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'::jsonb"
            );

            migrationBuilder.AddColumn<Instant>(
                name: "poll_due_at",
                table: "sources",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(name: "secret", table: "sources", type: "text", nullable: true);

            migrationBuilder.AddColumn<Guid>(name: "import_id", table: "leads", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "quiet",
                table: "leads",
                type: "boolean",
                nullable: false,
                defaultValue: false
            );

            migrationBuilder.AddColumn<bool>(
                name: "test",
                table: "leads",
                type: "boolean",
                nullable: false,
                defaultValue: false
            );

            migrationBuilder.AddColumn<string>(name: "ad_state", table: "forms", type: "text", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "archived_at",
                table: "forms",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(name: "design", table: "forms", type: "jsonb", nullable: true);

            migrationBuilder.AddColumn<string>(name: "draft", table: "forms", type: "jsonb", nullable: true);

            migrationBuilder.AddColumn<string>(name: "external_id", table: "forms", type: "text", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "made_at",
                table: "forms",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(
                name: "news",
                table: "forms",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'::jsonb"
            );

            migrationBuilder.AddColumn<string>(
                name: "picks",
                table: "forms",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'::jsonb"
            );

            migrationBuilder.AddColumn<string>(name: "place", table: "forms", type: "jsonb", nullable: true);

            migrationBuilder.AddColumn<string>(name: "proof", table: "forms", type: "jsonb", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "published_at",
                table: "forms",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(
                name: "state",
                table: "forms",
                type: "text",
                nullable: false,
                defaultValue: "receiving"
            );

            migrationBuilder.AddColumn<string>(name: "account", table: "connections", type: "text", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "expires_at",
                table: "connections",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(name: "fault", table: "connections", type: "text", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "good_at",
                table: "connections",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(
                name: "granted",
                table: "connections",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'::jsonb"
            );

            migrationBuilder.AddColumn<Instant>(
                name: "made_at",
                table: "connections",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Guid>(name: "made_by", table: "connections", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "state",
                table: "connections",
                type: "text",
                nullable: false,
                defaultValue: "whole"
            );

            migrationBuilder.AddColumn<Instant>(
                name: "verified_at",
                table: "connections",
                type: "timestamp with time zone",
                nullable: true
            );

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
                    revoked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_api_keys", x => x.id);
                }
            );

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
                    empty_visits = table.Column<int>(type: "integer", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_days", x => new { x.form_id, x.day });
                    table.ForeignKey(
                        name: "fk_form_days_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "form_pictures",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    content_type = table.Column<string>(type: "text", nullable: false),
                    bytes = table.Column<byte[]>(type: "bytea", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_pictures", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "import_bad_rows",
                columns: table => new
                {
                    import_id = table.Column<Guid>(type: "uuid", nullable: false),
                    row = table.Column<int>(type: "integer", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: false),
                    cells = table.Column<string>(type: "jsonb", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_import_bad_rows", x => new { x.import_id, x.row });
                }
            );

            migrationBuilder.CreateTable(
                name: "import_changes",
                columns: table => new
                {
                    import_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    before = table.Column<string>(type: "jsonb", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_import_changes", x => new { x.import_id, x.lead_id });
                }
            );

            migrationBuilder.CreateTable(
                name: "import_chunks",
                columns: table => new
                {
                    import_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    data = table.Column<byte[]>(type: "bytea", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_import_chunks", x => new { x.import_id, x.number });
                }
            );

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
                    leased_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_imports", x => x.id);
                }
            );

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
                    times = table.Column<int>(type: "integer", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_refusals", x => x.id);
                }
            );

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
                    attempts = table.Column<int>(type: "integer", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_source_notices", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "visitors",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    visitor_id = table.Column<string>(type: "text", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    last_path = table.Column<string>(type: "text", nullable: true),
                    seen_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_visitors", x => new { x.client_id, x.visitor_id });
                }
            );

            migrationBuilder.CreateIndex(
                name: "ix_submissions_import_id",
                table: "submissions",
                column: "import_id",
                filter: "import_id is not null"
            );

            migrationBuilder.CreateIndex(name: "ix_sources_connection_id", table: "sources", column: "connection_id");

            migrationBuilder.CreateIndex(name: "ix_sources_key", table: "sources", column: "key", unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_leads_import_id",
                table: "leads",
                column: "import_id",
                filter: "import_id is not null"
            );

            migrationBuilder.CreateIndex(
                name: "ix_leads_in_the_air",
                table: "leads",
                columns: new[] { "client_id", "target_at" },
                filter: "first_touch_at is null and not quiet"
            );

            migrationBuilder.CreateIndex(
                name: "ix_forms_source_id_external_id",
                table: "forms",
                columns: new[] { "source_id", "external_id" },
                unique: true,
                filter: "external_id is not null"
            );

            migrationBuilder.CreateIndex(name: "ix_api_keys_client_id", table: "api_keys", column: "client_id");

            migrationBuilder.CreateIndex(name: "ix_api_keys_hash", table: "api_keys", column: "hash", unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_form_pictures_client_id",
                table: "form_pictures",
                column: "client_id"
            );

            migrationBuilder.CreateIndex(
                name: "ix_imports_client_id_made_at",
                table: "imports",
                columns: new[] { "client_id", "made_at" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_imports_source_id_picked_up",
                table: "imports",
                columns: new[] { "source_id", "picked_up" },
                unique: true,
                filter: "picked_up is not null"
            );

            migrationBuilder.CreateIndex(
                name: "ix_imports_under_way",
                table: "imports",
                column: "status",
                filter: "status in ('running', 'undoing')"
            );

            migrationBuilder.CreateIndex(
                name: "ix_refusals_source_id_last_at",
                table: "refusals",
                columns: new[] { "source_id", "last_at" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_source_notices_due",
                table: "source_notices",
                column: "due_at",
                filter: "status = 'due'"
            );

            migrationBuilder.CreateIndex(
                name: "ix_source_notices_source_id_told_at",
                table: "source_notices",
                columns: new[] { "source_id", "told_at" }
            );

            migrationBuilder.CreateIndex(name: "ix_visitors_lead_id", table: "visitors", column: "lead_id");

            migrationBuilder.AddForeignKey(
                name: "fk_sources_connections_connection_id",
                table: "sources",
                column: "connection_id",
                principalTable: "connections",
                principalColumn: "id"
            );

            // A website was once called by who hosts it.
            migrationBuilder.Sql("update sources set kind = 'website' where kind = 'pagewright'");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(name: "fk_sources_connections_connection_id", table: "sources");

            migrationBuilder.DropTable(name: "api_keys");

            migrationBuilder.DropTable(name: "form_days");

            migrationBuilder.DropTable(name: "form_pictures");

            migrationBuilder.DropTable(name: "import_bad_rows");

            migrationBuilder.DropTable(name: "import_changes");

            migrationBuilder.DropTable(name: "import_chunks");

            migrationBuilder.DropTable(name: "imports");

            migrationBuilder.DropTable(name: "refusals");

            migrationBuilder.DropTable(name: "source_notices");

            migrationBuilder.DropTable(name: "visitors");

            migrationBuilder.DropIndex(name: "ix_submissions_import_id", table: "submissions");

            migrationBuilder.DropIndex(name: "ix_sources_connection_id", table: "sources");

            migrationBuilder.DropIndex(name: "ix_sources_key", table: "sources");

            migrationBuilder.DropIndex(name: "ix_leads_import_id", table: "leads");

            migrationBuilder.DropIndex(name: "ix_leads_in_the_air", table: "leads");

            migrationBuilder.DropIndex(name: "ix_forms_source_id_external_id", table: "forms");

            migrationBuilder.DropColumn(name: "envelope", table: "submissions");

            migrationBuilder.DropColumn(name: "import_id", table: "submissions");

            migrationBuilder.DropColumn(name: "quiet", table: "submissions");

            migrationBuilder.DropColumn(name: "sent_at", table: "submissions");

            migrationBuilder.DropColumn(name: "test", table: "submissions");

            migrationBuilder.DropColumn(name: "connection_id", table: "sources");

            migrationBuilder.DropColumn(name: "cursor", table: "sources");

            migrationBuilder.DropColumn(name: "daily_file", table: "sources");

            migrationBuilder.DropColumn(name: "daily_file_due_at", table: "sources");

            migrationBuilder.DropColumn(name: "fault", table: "sources");

            migrationBuilder.DropColumn(name: "key", table: "sources");

            migrationBuilder.DropColumn(name: "look_due_at", table: "sources");

            migrationBuilder.DropColumn(name: "looked_at", table: "sources");

            migrationBuilder.DropColumn(name: "made_at", table: "sources");

            migrationBuilder.DropColumn(name: "places", table: "sources");

            migrationBuilder.DropColumn(name: "poll_due_at", table: "sources");

            migrationBuilder.DropColumn(name: "secret", table: "sources");

            migrationBuilder.DropColumn(name: "import_id", table: "leads");

            migrationBuilder.DropColumn(name: "quiet", table: "leads");

            migrationBuilder.DropColumn(name: "test", table: "leads");

            migrationBuilder.DropColumn(name: "ad_state", table: "forms");

            migrationBuilder.DropColumn(name: "archived_at", table: "forms");

            migrationBuilder.DropColumn(name: "design", table: "forms");

            migrationBuilder.DropColumn(name: "draft", table: "forms");

            migrationBuilder.DropColumn(name: "external_id", table: "forms");

            migrationBuilder.DropColumn(name: "made_at", table: "forms");

            migrationBuilder.DropColumn(name: "news", table: "forms");

            migrationBuilder.DropColumn(name: "picks", table: "forms");

            migrationBuilder.DropColumn(name: "place", table: "forms");

            migrationBuilder.DropColumn(name: "proof", table: "forms");

            migrationBuilder.DropColumn(name: "published_at", table: "forms");

            migrationBuilder.DropColumn(name: "state", table: "forms");

            migrationBuilder.DropColumn(name: "account", table: "connections");

            migrationBuilder.DropColumn(name: "expires_at", table: "connections");

            migrationBuilder.DropColumn(name: "fault", table: "connections");

            migrationBuilder.DropColumn(name: "good_at", table: "connections");

            migrationBuilder.DropColumn(name: "granted", table: "connections");

            migrationBuilder.DropColumn(name: "made_at", table: "connections");

            migrationBuilder.DropColumn(name: "made_by", table: "connections");

            migrationBuilder.DropColumn(name: "state", table: "connections");

            migrationBuilder.DropColumn(name: "verified_at", table: "connections");

            migrationBuilder.CreateIndex(
                name: "ix_leads_in_the_air",
                table: "leads",
                columns: new[] { "client_id", "target_at" },
                filter: "first_touch_at is null"
            );

            migrationBuilder.CreateIndex(name: "ix_forms_source_id", table: "forms", column: "source_id");

            migrationBuilder.AddForeignKey(
                name: "fk_story_leads_lead_id",
                table: "story",
                column: "lead_id",
                principalTable: "leads",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade
            );
        }
    }
}
