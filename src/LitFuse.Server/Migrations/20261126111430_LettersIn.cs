using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class LettersIn : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Instant>(
                name: "email_bounced_at",
                table: "leads",
                type: "timestamp with time zone",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(
                name: "email_bounced_because",
                table: "leads",
                type: "text",
                nullable: true
            );

            migrationBuilder.AddColumn<string>(name: "signing_key", table: "connections", type: "text", nullable: true);

            migrationBuilder.CreateTable(
                name: "incoming_messages",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    way = table.Column<string>(type: "text", nullable: false),
                    reference = table.Column<string>(type: "text", nullable: false),
                    from = table.Column<string>(type: "text", nullable: false),
                    to = table.Column<string>(type: "text", nullable: false),
                    subject = table.Column<string>(type: "text", nullable: true),
                    words = table.Column<string>(type: "text", nullable: false),
                    automatic = table.Column<bool>(type: "boolean", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    known_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: true),
                    meaning = table.Column<string>(type: "text", nullable: false),
                    dismissed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    dismissed_by = table.Column<Guid>(type: "uuid", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_incoming_messages", x => x.id);
                    table.ForeignKey(
                        name: "fk_incoming_messages_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "library_files",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    type = table.Column<string>(type: "text", nullable: false),
                    size = table.Column<int>(type: "integer", nullable: false),
                    bytes = table.Column<byte[]>(type: "bytea", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    made_by = table.Column<Guid>(type: "uuid", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_library_files", x => x.id);
                }
            );

            migrationBuilder.CreateIndex(
                name: "ix_incoming_messages_connection_id_reference",
                table: "incoming_messages",
                columns: new[] { "connection_id", "reference" },
                unique: true
            );

            migrationBuilder.CreateIndex(
                name: "ix_incoming_messages_lead_id_at",
                table: "incoming_messages",
                columns: new[] { "lead_id", "at" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_incoming_messages_tray",
                table: "incoming_messages",
                columns: new[] { "client_id", "at" },
                filter: "lead_id is null and dismissed_at is null"
            );

            migrationBuilder.CreateIndex(
                name: "ix_library_files_client_id_name",
                table: "library_files",
                columns: new[] { "client_id", "name" },
                unique: true
            );

            // What people wrote before stays, under its new name.
            migrationBuilder.Sql(
                """
                insert into incoming_messages (id, client_id, connection_id, way, reference, "from", "to", words, automatic, at, known_at, lead_id, meaning)
                select id, client_id, connection_id, 'text', reference, "from", "to", words, false, at, known_at, lead_id, meaning from incoming_texts;
                """
            );
            migrationBuilder.DropTable(name: "incoming_texts");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "incoming_messages");

            migrationBuilder.DropTable(name: "library_files");

            migrationBuilder.DropColumn(name: "email_bounced_at", table: "leads");

            migrationBuilder.DropColumn(name: "email_bounced_because", table: "leads");

            migrationBuilder.DropColumn(name: "signing_key", table: "connections");

            migrationBuilder.CreateTable(
                name: "incoming_texts",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    from = table.Column<string>(type: "text", nullable: false),
                    known_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: true),
                    meaning = table.Column<string>(type: "text", nullable: false),
                    reference = table.Column<string>(type: "text", nullable: false),
                    to = table.Column<string>(type: "text", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
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
        }
    }
}
