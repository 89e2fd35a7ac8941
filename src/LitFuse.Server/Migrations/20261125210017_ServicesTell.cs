using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class ServicesTell : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "file_rows",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    sheet = table.Column<string>(type: "text", nullable: false),
                    row_key = table.Column<Guid>(type: "uuid", nullable: false),
                    cells = table.Column<string>(type: "jsonb", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_file_rows", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "nightly_files",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    to = table.Column<string>(type: "text", nullable: false),
                    format = table.Column<string>(type: "text", nullable: false),
                    columns = table.Column<string>(type: "jsonb", nullable: false),
                    of_the_day = table.Column<bool>(type: "boolean", nullable: false),
                    at = table.Column<LocalTime>(type: "time", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    attempts = table.Column<int>(type: "integer", nullable: false),
                    sent_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    rows = table.Column<int>(type: "integer", nullable: true),
                    fault = table.Column<string>(type: "text", nullable: true),
                    made_by = table.Column<Guid>(type: "uuid", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_nightly_files", x => x.id);
                    table.ForeignKey(
                        name: "fk_nightly_files_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "service_news",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    reference = table.Column<string>(type: "text", nullable: false),
                    @event = table.Column<string>(name: "event", type: "text", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    known_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_service_news", x => x.id);
                    table.ForeignKey(
                        name: "fk_service_news_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateIndex(
                name: "ix_file_rows_client_id_sheet_row_key_id",
                table: "file_rows",
                columns: new[] { "client_id", "sheet", "row_key", "id" }
            );

            migrationBuilder.CreateIndex(name: "ix_file_rows_lead_id", table: "file_rows", column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_nightly_files_connection_id",
                table: "nightly_files",
                column: "connection_id"
            );

            migrationBuilder.CreateIndex(name: "ix_nightly_files_due_at", table: "nightly_files", column: "due_at");

            migrationBuilder.CreateIndex(
                name: "ix_service_news_connection_id_reference",
                table: "service_news",
                columns: new[] { "connection_id", "reference" },
                unique: true
            );

            migrationBuilder.CreateIndex(name: "ix_service_news_lead_id", table: "service_news", column: "lead_id");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "file_rows");

            migrationBuilder.DropTable(name: "nightly_files");

            migrationBuilder.DropTable(name: "service_news");
        }
    }
}
