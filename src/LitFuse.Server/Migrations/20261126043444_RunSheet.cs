using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class RunSheet : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Guid>(name: "catch_up_after", table: "fuses", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<Instant>(
                name: "catch_up_since",
                table: "fuses",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Instant>(
                name: "catch_up_until",
                table: "fuses",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Instant>(
                name: "held_at",
                table: "clients",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Guid>(name: "held_by", table: "clients", type: "uuid", nullable: true);

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
                    leased_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_backtests", x => x.id);
                    table.ForeignKey(
                        name: "fk_backtests_fuses_fuse_id",
                        column: x => x.fuse_id,
                        principalTable: "fuses",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "fuse_presences",
                columns: table => new
                {
                    fuse_id = table.Column<Guid>(type: "uuid", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    seen_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    edited_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_fuse_presences", x => new { x.fuse_id, x.user_id });
                    table.ForeignKey(
                        name: "fk_fuse_presences_fuses_fuse_id",
                        column: x => x.fuse_id,
                        principalTable: "fuses",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

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
                    not_lit = table.Column<string>(type: "text", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_backtest_leads", x => new { x.backtest_id, x.lead_id });
                    table.ForeignKey(
                        name: "fk_backtest_leads_backtests_backtest_id",
                        column: x => x.backtest_id,
                        principalTable: "backtests",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                    table.ForeignKey(
                        name: "fk_backtest_leads_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateIndex(
                name: "ix_fuses_catching_up",
                table: "fuses",
                column: "catch_up_until",
                filter: "catch_up_since is not null"
            );

            migrationBuilder.CreateIndex(name: "ix_backtest_leads_lead_id", table: "backtest_leads", column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_backtests_fuse_id_made_at",
                table: "backtests",
                columns: new[] { "fuse_id", "made_at" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_backtests_under_way",
                table: "backtests",
                column: "made_at",
                filter: "status = 'running'"
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "backtest_leads");

            migrationBuilder.DropTable(name: "fuse_presences");

            migrationBuilder.DropTable(name: "backtests");

            migrationBuilder.DropIndex(name: "ix_fuses_catching_up", table: "fuses");

            migrationBuilder.DropColumn(name: "catch_up_after", table: "fuses");

            migrationBuilder.DropColumn(name: "catch_up_since", table: "fuses");

            migrationBuilder.DropColumn(name: "catch_up_until", table: "fuses");

            migrationBuilder.DropColumn(name: "held_at", table: "clients");

            migrationBuilder.DropColumn(name: "held_by", table: "clients");
        }
    }
}
