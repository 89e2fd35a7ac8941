using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class HoursAndLimits : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<int>(name: "segments", table: "deliveries", type: "integer", nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "holidays",
                table: "clients",
                type: "jsonb",
                nullable: false,
                defaultValueSql: "'[]'::jsonb"
            );

            migrationBuilder.AddColumn<int>(
                name: "most_a_day",
                table: "clients",
                type: "integer",
                nullable: false,
                defaultValue: 0
            );

            migrationBuilder.AddColumn<decimal>(
                name: "segment_price",
                table: "clients",
                type: "numeric",
                nullable: true
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(name: "segments", table: "deliveries");

            migrationBuilder.DropColumn(name: "holidays", table: "clients");

            migrationBuilder.DropColumn(name: "most_a_day", table: "clients");

            migrationBuilder.DropColumn(name: "segment_price", table: "clients");
        }
    }
}
