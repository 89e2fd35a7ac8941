using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class WaitingByEnd : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            // What has ended says when, and what has not does not.
            migrationBuilder.Sql(
                "update deliveries set ended_at = coalesce(sent_at, made_at) where status not in ('due', 'sending') and ended_at is null"
            );
            migrationBuilder.Sql(
                "update deliveries set ended_at = null where status in ('due', 'sending') and ended_at is not null"
            );
            migrationBuilder.DropIndex(name: "ix_deliveries_waiting", table: "deliveries");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_waiting",
                table: "deliveries",
                columns: new[] { "client_id", "made_at" },
                filter: "ended_at is null"
            );
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropIndex(name: "ix_deliveries_waiting", table: "deliveries");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_waiting",
                table: "deliveries",
                columns: new[] { "client_id", "made_at" },
                filter: "status in ('due', 'sending')"
            );
        }
    }
}
