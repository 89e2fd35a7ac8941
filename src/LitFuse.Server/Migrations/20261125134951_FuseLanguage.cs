using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class FuseLanguage : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "stage",
                table: "leads",
                type: "text",
                nullable: false,
                defaultValue: "New"
            );

            migrationBuilder.AddColumn<int>(
                name: "times_asked",
                table: "leads",
                type: "integer",
                nullable: false,
                defaultValue: 1
            );

            migrationBuilder.AddColumn<string>(
                name: "zone_because",
                table: "leads",
                type: "text",
                nullable: false,
                defaultValue: ""
            );

            migrationBuilder.AddColumn<string>(name: "hours", table: "deliveries", type: "jsonb", nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "retry",
                table: "deliveries",
                type: "text",
                nullable: false,
                defaultValue: "usual"
            );

            migrationBuilder.AddColumn<string[]>(
                name: "stages",
                table: "clients",
                type: "text[]",
                nullable: false,
                defaultValueSql: "'{New,Spoken,Won,Lost}'::text[]"
            );

            migrationBuilder.AddColumn<int>(
                name: "version",
                table: "burns",
                type: "integer",
                nullable: false,
                defaultValue: 0
            );

            migrationBuilder.CreateTable(
                name: "fuse_clocks",
                columns: table => new
                {
                    fuse_version_id = table.Column<Guid>(type: "uuid", nullable: false),
                    place = table.Column<int>(type: "integer", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    next_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_fuse_clocks", x => new { x.fuse_version_id, x.place });
                    table.ForeignKey(
                        name: "fk_fuse_clocks_fuse_versions_fuse_version_id",
                        column: x => x.fuse_version_id,
                        principalTable: "fuse_versions",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "incoming_texts",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    reference = table.Column<string>(type: "text", nullable: false),
                    from = table.Column<string>(type: "text", nullable: false),
                    to = table.Column<string>(type: "text", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    known_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: true),
                    meaning = table.Column<string>(type: "text", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_incoming_texts", x => x.id);
                    table.ForeignKey(
                        name: "fk_incoming_texts_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "notices",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    read_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_notices", x => x.id);
                    table.ForeignKey(
                        name: "fk_notices_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

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
                    made_by = table.Column<Guid>(type: "uuid", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_ready_words", x => new
                    {
                        x.client_id,
                        x.key,
                        x.version,
                    });
                }
            );

            migrationBuilder.CreateIndex(
                name: "ix_leads_client_id_stage",
                table: "leads",
                columns: new[] { "client_id", "stage" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_of_burns",
                table: "deliveries",
                column: "burn_id",
                filter: "burn_id is not null and status = 'due'"
            );

            migrationBuilder.CreateIndex(
                name: "ix_burns_hearing",
                table: "burns",
                column: "lead_id",
                filter: "status in ('burning', 'listening')"
            );

            migrationBuilder.CreateIndex(name: "ix_fuse_clocks_next_at", table: "fuse_clocks", column: "next_at");

            migrationBuilder.CreateIndex(
                name: "ix_incoming_texts_connection_id_reference",
                table: "incoming_texts",
                columns: new[] { "connection_id", "reference" },
                unique: true
            );

            migrationBuilder.CreateIndex(
                name: "ix_incoming_texts_lead_id_at",
                table: "incoming_texts",
                columns: new[] { "lead_id", "at" }
            );

            migrationBuilder.CreateIndex(name: "ix_notices_lead_id", table: "notices", column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_notices_user_id_at",
                table: "notices",
                columns: new[] { "user_id", "at" }
            );

            migrationBuilder.Sql(
                "update leads l set times_asked = n.n from (select lead_id, count(*) n from submissions where lead_id is not null group by lead_id having count(*) > 1) n where n.lead_id = l.id"
            );
            migrationBuilder.Sql(Features.Clients.RevisionTriggers.PeopleSql);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "fuse_clocks");

            migrationBuilder.DropTable(name: "incoming_texts");

            migrationBuilder.DropTable(name: "notices");

            migrationBuilder.DropTable(name: "ready_words");

            migrationBuilder.DropIndex(name: "ix_leads_client_id_stage", table: "leads");

            migrationBuilder.DropIndex(name: "ix_deliveries_of_burns", table: "deliveries");

            migrationBuilder.DropIndex(name: "ix_burns_hearing", table: "burns");

            migrationBuilder.DropColumn(name: "stage", table: "leads");

            migrationBuilder.DropColumn(name: "times_asked", table: "leads");

            migrationBuilder.DropColumn(name: "zone_because", table: "leads");

            migrationBuilder.DropColumn(name: "hours", table: "deliveries");

            migrationBuilder.DropColumn(name: "retry", table: "deliveries");

            migrationBuilder.DropColumn(name: "stages", table: "clients");

            migrationBuilder.DropColumn(name: "version", table: "burns");
        }
    }
}
