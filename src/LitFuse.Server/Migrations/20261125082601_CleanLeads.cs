using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class CleanLeads : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropPrimaryKey(name: "pk_lead_contacts", table: "lead_contacts");

            migrationBuilder.AddColumn<string>(name: "test_email", table: "users", type: "text", nullable: true);

            migrationBuilder.AddColumn<string>(name: "test_person", table: "users", type: "text", nullable: true);

            migrationBuilder.AddColumn<string>(name: "test_phone", table: "users", type: "text", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "confirmed_at",
                table: "submissions",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Instant>(
                name: "decided_at",
                table: "submissions",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Guid>(name: "decided_by", table: "submissions", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "held_at",
                table: "submissions",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<int>(
                name: "junk",
                table: "submissions",
                type: "integer",
                nullable: false,
                defaultValue: 0
            );

            migrationBuilder.AddColumn<string>(
                name: "junk_because",
                table: "submissions",
                type: "jsonb",
                nullable: true
            );

            migrationBuilder.AddColumn<int>(name: "map_version", table: "submissions", type: "integer", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "do_not_contact_at",
                table: "leads",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Guid>(name: "merged_into", table: "leads", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<Guid>(name: "only_to", table: "leads", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<Guid>(name: "owner_id", table: "leads", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<string[]>(
                name: "tags",
                table: "leads",
                type: "text[]",
                nullable: false,
                defaultValueSql: "'{}'::text[]"
            );

            migrationBuilder.AddColumn<string>(
                name: "rule",
                table: "lead_fields",
                type: "text",
                nullable: false,
                defaultValue: "newest-wins"
            );

            migrationBuilder.AddColumn<string>(
                name: "type",
                table: "lead_fields",
                type: "text",
                nullable: false,
                defaultValue: "choice"
            );

            migrationBuilder.AddColumn<bool>(
                name: "test",
                table: "lead_contacts",
                type: "boolean",
                nullable: false,
                defaultValue: false
            );

            migrationBuilder.AddColumn<string>(name: "hold", table: "forms", type: "jsonb", nullable: true);

            migrationBuilder.AddColumn<string>(name: "opt_in", table: "forms", type: "jsonb", nullable: true);

            migrationBuilder.AddColumn<Guid>(name: "only_to", table: "deliveries", type: "uuid", nullable: true);

            migrationBuilder.AddPrimaryKey(
                name: "pk_lead_contacts",
                table: "lead_contacts",
                columns: new[] { "client_id", "kind", "value", "test" }
            );

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
                    decided_by = table.Column<Guid>(type: "uuid", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_conflicts", x => x.id);
                }
            );

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
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_consent_texts", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "do_not_contact",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    by = table.Column<Guid>(type: "uuid", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_do_not_contact", x => new
                    {
                        x.client_id,
                        x.kind,
                        x.value,
                    });
                }
            );

            migrationBuilder.CreateTable(
                name: "lead_views",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    query = table.Column<string>(type: "text", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lead_views", x => x.id);
                }
            );

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
                    expired_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_opt_ins", x => x.id);
                    table.ForeignKey(
                        name: "fk_opt_ins_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

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
                    undone_by = table.Column<Guid>(type: "uuid", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_regroups", x => x.id);
                }
            );

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
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_reprocessings", x => x.id);
                }
            );

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
                    source = table.Column<string>(type: "text", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_consents", x => x.id);
                    table.ForeignKey(
                        name: "fk_consents_consent_texts_text_id",
                        column: x => x.text_id,
                        principalTable: "consent_texts",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateIndex(
                name: "ix_submissions_pen",
                table: "submissions",
                columns: new[] { "client_id", "held_at" },
                filter: "status in ('held', 'refused')"
            );

            migrationBuilder.CreateIndex(
                name: "ix_leads_owner_id",
                table: "leads",
                column: "owner_id",
                filter: "owner_id is not null"
            );

            migrationBuilder
                .CreateIndex(name: "ix_leads_tags", table: "leads", column: "tags", filter: "tags <> '{}'")
                .Annotation("Npgsql:IndexMethod", "gin");

            migrationBuilder.CreateIndex(name: "ix_leads_tests", table: "leads", column: "client_id", filter: "test");

            migrationBuilder.CreateIndex(
                name: "ix_conflicts_client_id_state",
                table: "conflicts",
                columns: new[] { "client_id", "state" }
            );

            migrationBuilder.CreateIndex(name: "ix_conflicts_lead_id", table: "conflicts", column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_consent_texts_form_id_mark",
                table: "consent_texts",
                columns: new[] { "form_id", "mark" },
                unique: true
            );

            migrationBuilder.CreateIndex(name: "ix_consents_lead_id", table: "consents", column: "lead_id");

            migrationBuilder.CreateIndex(name: "ix_consents_text_id", table: "consents", column: "text_id");

            migrationBuilder.CreateIndex(
                name: "ix_lead_views_user_id_name",
                table: "lead_views",
                columns: new[] { "user_id", "name" },
                unique: true
            );

            migrationBuilder.CreateIndex(name: "ix_opt_ins_lead_id", table: "opt_ins", column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_opt_ins_open",
                table: "opt_ins",
                column: "expires_at",
                filter: "confirmed_at is null and expired_at is null"
            );

            migrationBuilder.CreateIndex(
                name: "ix_opt_ins_token_hash",
                table: "opt_ins",
                column: "token_hash",
                unique: true
            );

            migrationBuilder.CreateIndex(name: "ix_regroups_from_id", table: "regroups", column: "from_id");

            migrationBuilder.CreateIndex(name: "ix_regroups_into_id", table: "regroups", column: "into_id");

            migrationBuilder.CreateIndex(name: "ix_reprocessings_form_id", table: "reprocessings", column: "form_id");

            migrationBuilder.CreateIndex(
                name: "ix_reprocessings_status",
                table: "reprocessings",
                column: "status",
                filter: "status = 'running'"
            );

            migrationBuilder.Sql("update lead_fields set type = 'text' where choices = '[]'::jsonb");
            migrationBuilder.Sql(
                "update lead_contacts c set test = true from leads l where l.id = c.lead_id and l.test"
            );
            migrationBuilder.Sql(Features.Clients.RevisionTriggers.FieldsSql);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.Sql("drop trigger count_up on lead_fields");

            migrationBuilder.DropTable(name: "conflicts");

            migrationBuilder.DropTable(name: "consents");

            migrationBuilder.DropTable(name: "do_not_contact");

            migrationBuilder.DropTable(name: "lead_views");

            migrationBuilder.DropTable(name: "opt_ins");

            migrationBuilder.DropTable(name: "regroups");

            migrationBuilder.DropTable(name: "reprocessings");

            migrationBuilder.DropTable(name: "consent_texts");

            migrationBuilder.DropIndex(name: "ix_submissions_pen", table: "submissions");

            migrationBuilder.DropIndex(name: "ix_leads_owner_id", table: "leads");

            migrationBuilder.DropIndex(name: "ix_leads_tags", table: "leads");

            migrationBuilder.DropIndex(name: "ix_leads_tests", table: "leads");

            migrationBuilder.DropPrimaryKey(name: "pk_lead_contacts", table: "lead_contacts");

            migrationBuilder.DropColumn(name: "test_email", table: "users");

            migrationBuilder.DropColumn(name: "test_person", table: "users");

            migrationBuilder.DropColumn(name: "test_phone", table: "users");

            migrationBuilder.DropColumn(name: "confirmed_at", table: "submissions");

            migrationBuilder.DropColumn(name: "decided_at", table: "submissions");

            migrationBuilder.DropColumn(name: "decided_by", table: "submissions");

            migrationBuilder.DropColumn(name: "held_at", table: "submissions");

            migrationBuilder.DropColumn(name: "junk", table: "submissions");

            migrationBuilder.DropColumn(name: "junk_because", table: "submissions");

            migrationBuilder.DropColumn(name: "map_version", table: "submissions");

            migrationBuilder.DropColumn(name: "do_not_contact_at", table: "leads");

            migrationBuilder.DropColumn(name: "merged_into", table: "leads");

            migrationBuilder.DropColumn(name: "only_to", table: "leads");

            migrationBuilder.DropColumn(name: "owner_id", table: "leads");

            migrationBuilder.DropColumn(name: "tags", table: "leads");

            migrationBuilder.DropColumn(name: "rule", table: "lead_fields");

            migrationBuilder.DropColumn(name: "type", table: "lead_fields");

            migrationBuilder.DropColumn(name: "test", table: "lead_contacts");

            migrationBuilder.DropColumn(name: "hold", table: "forms");

            migrationBuilder.DropColumn(name: "opt_in", table: "forms");

            migrationBuilder.DropColumn(name: "only_to", table: "deliveries");

            migrationBuilder.AddPrimaryKey(
                name: "pk_lead_contacts",
                table: "lead_contacts",
                columns: new[] { "client_id", "kind", "value" }
            );
        }
    }
}
