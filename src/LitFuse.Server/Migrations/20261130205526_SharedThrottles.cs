using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class SharedThrottles : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<bool>(
                name: "told",
                table: "line_cuts",
                type: "boolean",
                nullable: false,
                defaultValue: true
            );

            migrationBuilder.AddColumn<string>(name: "fault", table: "incoming_messages", type: "text", nullable: true);

            migrationBuilder.AddColumn<byte[]>(name: "raw", table: "incoming_messages", type: "bytea", nullable: true);

            migrationBuilder.AddColumn<int>(
                name: "failures",
                table: "connections",
                type: "integer",
                nullable: false,
                defaultValue: 0
            );

            migrationBuilder.AddColumn<Instant>(
                name: "rest_until",
                table: "connections",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<double>(
                name: "tokens",
                table: "connections",
                type: "double precision",
                nullable: true
            );

            migrationBuilder.AddColumn<Instant>(
                name: "tokens_at",
                table: "connections",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<int>(name: "width", table: "connections", type: "integer", nullable: true);

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_under_way",
                table: "deliveries",
                column: "connection_id",
                filter: "status = 'sending'"
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(name: "ix_deliveries_under_way", table: "deliveries");

            migrationBuilder.DropColumn(name: "told", table: "line_cuts");

            migrationBuilder.DropColumn(name: "fault", table: "incoming_messages");

            migrationBuilder.DropColumn(name: "raw", table: "incoming_messages");

            migrationBuilder.DropColumn(name: "failures", table: "connections");

            migrationBuilder.DropColumn(name: "rest_until", table: "connections");

            migrationBuilder.DropColumn(name: "tokens", table: "connections");

            migrationBuilder.DropColumn(name: "tokens_at", table: "connections");

            migrationBuilder.DropColumn(name: "width", table: "connections");
        }
    }
}
