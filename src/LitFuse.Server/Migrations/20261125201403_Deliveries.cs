using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class Deliveries : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(
                name: "again",
                table: "deliveries",
                type: "integer",
                nullable: false,
                defaultValue: 0
            );

            migrationBuilder.AddColumn<int>(
                name: "attempts_before",
                table: "deliveries",
                type: "integer",
                nullable: false,
                defaultValue: 0
            );

            migrationBuilder.AddColumn<int>(name: "at_once", table: "connections", type: "integer", nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "older_secret",
                table: "connections",
                type: "text",
                nullable: true
            );

            migrationBuilder.AddColumn<Instant>(
                name: "older_until",
                table: "connections",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Instant>(
                name: "paused_at",
                table: "connections",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<Guid>(name: "paused_by", table: "connections", type: "uuid", nullable: true);

            migrationBuilder.AddColumn<int>(name: "per_minute", table: "connections", type: "integer", nullable: true);

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
                    exchanges = table.Column<string>(type: "jsonb", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_delivery_tries", x => x.id);
                    table.ForeignKey(
                        name: "fk_delivery_tries_deliveries_delivery_id",
                        column: x => x.delivery_id,
                        principalTable: "deliveries",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_newest",
                table: "deliveries",
                columns: new[] { "client_id", "made_at", "id" },
                descending: new[] { false, true, true }
            );

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_newest_through",
                table: "deliveries",
                columns: new[] { "connection_id", "made_at", "id" },
                descending: new[] { false, true, true }
            );

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_open",
                table: "deliveries",
                columns: new[] { "connection_id", "lead_id", "made_at" },
                filter: "status in ('due', 'sending')"
            );

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_waiting",
                table: "deliveries",
                columns: new[] { "client_id", "made_at" },
                filter: "status in ('due', 'sending')"
            );

            migrationBuilder.CreateIndex(
                name: "ix_delivery_tries_delivery_id_began_at",
                table: "delivery_tries",
                columns: new[] { "delivery_id", "began_at" }
            );

            // What came back was kept on the delivery until now; it is the record of its last attempt.
            migrationBuilder.Sql(
                """
                insert into delivery_tries (id, client_id, delivery_id, number, began_at, took_ms, status, reason, exchanges)
                select gen_random_uuid(), client_id, id, greatest(attempts, 1), coalesce(sent_at, ended_at, made_at), 0, status, coalesce(reason, ''),
                       jsonb_build_array(jsonb_build_object('asked', '', 'headers', jsonb_build_object(), 'sent', null, 'status', 0, 'answer', answer, 'tookMs', 0))
                from deliveries where answer is not null;
                """
            );
            migrationBuilder.DropColumn(name: "answer", table: "deliveries");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "delivery_tries");

            migrationBuilder.DropIndex(name: "ix_deliveries_newest", table: "deliveries");

            migrationBuilder.DropIndex(name: "ix_deliveries_newest_through", table: "deliveries");

            migrationBuilder.DropIndex(name: "ix_deliveries_open", table: "deliveries");

            migrationBuilder.DropIndex(name: "ix_deliveries_waiting", table: "deliveries");

            migrationBuilder.DropColumn(name: "again", table: "deliveries");

            migrationBuilder.DropColumn(name: "attempts_before", table: "deliveries");

            migrationBuilder.DropColumn(name: "at_once", table: "connections");

            migrationBuilder.DropColumn(name: "older_secret", table: "connections");

            migrationBuilder.DropColumn(name: "older_until", table: "connections");

            migrationBuilder.DropColumn(name: "paused_at", table: "connections");

            migrationBuilder.DropColumn(name: "paused_by", table: "connections");

            migrationBuilder.DropColumn(name: "per_minute", table: "connections");

            migrationBuilder.AddColumn<string>(name: "answer", table: "deliveries", type: "text", nullable: true);
        }
    }
}
