using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class RingThrough : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "takes_calls",
                table: "users",
                type: "boolean",
                nullable: false,
                defaultValue: true
            );

            migrationBuilder.AddColumn<Instant>(
                name: "reached_at",
                table: "leads",
                type: "timestamp with time zone",
                nullable: true
            );

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
                    references = table.Column<string[]>(
                        type: "text[]",
                        nullable: false,
                        defaultValueSql: "'{}'::text[]"
                    ),
                    began_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    wake_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    hang_up_because = table.Column<string>(type: "text", nullable: true),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    recording = table.Column<string>(type: "text", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_calls", x => x.id);
                    table.ForeignKey(
                        name: "fk_calls_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                    table.ForeignKey(
                        name: "fk_calls_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateIndex(name: "ix_calls_connection_id", table: "calls", column: "connection_id");

            migrationBuilder.CreateIndex(name: "ix_calls_key", table: "calls", column: "key", unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_calls_lead_id_began_at",
                table: "calls",
                columns: new[] { "lead_id", "began_at" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_calls_live",
                table: "calls",
                column: "wake_at",
                filter: "wake_at is not null or hang_up_because is not null"
            );

            migrationBuilder.CreateIndex(
                name: "ix_calls_of_burns",
                table: "calls",
                column: "burn_id",
                filter: "ended_at is null and burn_id is not null"
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "calls");

            migrationBuilder.DropColumn(name: "takes_calls", table: "users");

            migrationBuilder.DropColumn(name: "reached_at", table: "leads");
        }
    }
}
