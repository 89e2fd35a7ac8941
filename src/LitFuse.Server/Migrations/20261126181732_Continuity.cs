using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class Continuity : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(name: "fk_notices_leads_lead_id", table: "notices");

            migrationBuilder.AddColumn<Instant>(
                name: "compare_due_at",
                table: "sources",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(name: "compare_fault", table: "sources", type: "text", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "compared_at",
                table: "sources",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AlterColumn<Guid>(
                name: "lead_id",
                table: "notices",
                type: "uuid",
                nullable: true,
                oldClrType: typeof(Guid),
                oldType: "uuid"
            );

            migrationBuilder.AddColumn<Guid>(name: "form_id", table: "notices", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "waits_for",
                table: "forms",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'::jsonb"
            );

            migrationBuilder.CreateTable(
                name: "form_quiet_times",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    from_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    to_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_quiet_times", x => x.id);
                    table.ForeignKey(
                        name: "fk_form_quiet_times_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

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
                    judged_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_watches", x => x.form_id);
                    table.ForeignKey(
                        name: "fk_form_watches_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

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
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_line_cuts", x => x.id);
                    table.ForeignKey(
                        name: "fk_line_cuts_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "line_rounds",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_line_rounds", x => x.client_id);
                }
            );

            migrationBuilder.CreateTable(
                name: "network_days",
                columns: table => new
                {
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    day = table.Column<DateOnly>(type: "date", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    theirs = table.Column<int>(type: "integer", nullable: false),
                    ours = table.Column<int>(type: "integer", nullable: false),
                    recovered = table.Column<int>(type: "integer", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_network_days", x => new { x.form_id, x.day });
                    table.ForeignKey(
                        name: "fk_network_days_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

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
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_proof_runs", x => x.id);
                    table.ForeignKey(
                        name: "fk_proof_runs_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateIndex(
                name: "ix_submissions_waiting",
                table: "submissions",
                columns: new[] { "form_id", "received_at" },
                filter: "status = 'waiting'"
            );

            migrationBuilder.CreateIndex(name: "ix_notices_form_id", table: "notices", column: "form_id");

            migrationBuilder.CreateIndex(
                name: "ix_form_quiet_times_form_id_from_at",
                table: "form_quiet_times",
                columns: new[] { "form_id", "from_at" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_form_quiet_times_lasting",
                table: "form_quiet_times",
                column: "form_id",
                unique: true,
                filter: "to_at is null"
            );

            migrationBuilder.CreateIndex(
                name: "ix_form_watches_client_id_state",
                table: "form_watches",
                columns: new[] { "client_id", "state" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_form_watches_prove_due_at",
                table: "form_watches",
                column: "prove_due_at",
                filter: "prove_due_at is not null"
            );

            migrationBuilder.CreateIndex(
                name: "ix_line_cuts_form_id_from_at",
                table: "line_cuts",
                columns: new[] { "form_id", "from_at" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_line_cuts_lasting",
                table: "line_cuts",
                columns: new[] { "form_id", "key" },
                unique: true,
                filter: "to_at is null"
            );

            migrationBuilder.CreateIndex(name: "ix_line_rounds_due_at", table: "line_rounds", column: "due_at");

            migrationBuilder.CreateIndex(
                name: "ix_proof_runs_form_id_began_at",
                table: "proof_runs",
                columns: new[] { "form_id", "began_at" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_proof_runs_running",
                table: "proof_runs",
                column: "began_at",
                filter: "state = 'running'"
            );

            migrationBuilder.AddForeignKey(
                name: "fk_notices_forms_form_id",
                table: "notices",
                column: "form_id",
                principalTable: "forms",
                principalColumn: "id"
            );

            migrationBuilder.AddForeignKey(
                name: "fk_notices_leads_lead_id",
                table: "notices",
                column: "lead_id",
                principalTable: "leads",
                principalColumn: "id"
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(name: "fk_notices_forms_form_id", table: "notices");

            migrationBuilder.DropForeignKey(name: "fk_notices_leads_lead_id", table: "notices");

            migrationBuilder.DropTable(name: "form_quiet_times");

            migrationBuilder.DropTable(name: "form_watches");

            migrationBuilder.DropTable(name: "line_cuts");

            migrationBuilder.DropTable(name: "line_rounds");

            migrationBuilder.DropTable(name: "network_days");

            migrationBuilder.DropTable(name: "proof_runs");

            migrationBuilder.DropIndex(name: "ix_submissions_waiting", table: "submissions");

            migrationBuilder.DropIndex(name: "ix_notices_form_id", table: "notices");

            migrationBuilder.DropColumn(name: "compare_due_at", table: "sources");

            migrationBuilder.DropColumn(name: "compare_fault", table: "sources");

            migrationBuilder.DropColumn(name: "compared_at", table: "sources");

            migrationBuilder.DropColumn(name: "form_id", table: "notices");

            migrationBuilder.DropColumn(name: "waits_for", table: "forms");

            migrationBuilder.AlterColumn<Guid>(
                name: "lead_id",
                table: "notices",
                type: "uuid",
                nullable: false,
                defaultValue: new Guid("00000000-0000-0000-0000-000000000000"),
                oldClrType: typeof(Guid),
                oldType: "uuid",
                oldNullable: true
            );

            migrationBuilder.AddForeignKey(
                name: "fk_notices_leads_lead_id",
                table: "notices",
                column: "lead_id",
                principalTable: "leads",
                principalColumn: "id",
                onDelete: ReferentialAction.Cascade
            );
        }
    }
}
