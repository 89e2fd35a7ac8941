using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class Connections : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "details",
                table: "connections",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'{}'::jsonb"
            );

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_ended",
                table: "deliveries",
                columns: new[] { "connection_id", "ended_at" },
                filter: "ended_at is not null"
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(name: "ix_deliveries_ended", table: "deliveries");

            migrationBuilder.DropColumn(name: "details", table: "connections");
        }
    }
}
