using System;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;
using Npgsql.EntityFrameworkCore.PostgreSQL.Metadata;

#nullable disable

namespace LitFuse.Server.Migrations
{
    /// <inheritdoc />
    public partial class Start : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AlterDatabase().Annotation("Npgsql:PostgresExtension:pg_trgm", ",,");

            migrationBuilder.CreateTable(
                name: "clients",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    short_name = table.Column<string>(type: "text", nullable: false),
                    zone = table.Column<string>(type: "text", nullable: false),
                    country = table.Column<string>(type: "text", nullable: false),
                    currency = table.Column<string>(type: "text", nullable: false),
                    target_seconds = table.Column<int>(type: "integer", nullable: false),
                    send_from = table.Column<TimeOnly>(type: "time without time zone", nullable: false),
                    send_to = table.Column<TimeOnly>(type: "time without time zone", nullable: false),
                    work_from = table.Column<TimeOnly>(type: "time without time zone", nullable: false),
                    work_to = table.Column<TimeOnly>(type: "time without time zone", nullable: false),
                    work_days = table.Column<int[]>(type: "integer[]", nullable: false),
                    revision = table.Column<long>(type: "bigint", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_clients", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "connections",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    base_url = table.Column<string>(type: "text", nullable: false),
                    secret = table.Column<string>(type: "text", nullable: false),
                    notice_secret = table.Column<string>(type: "text", nullable: true),
                    sender = table.Column<string>(type: "text", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_connections", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "data_protection_keys",
                columns: table => new
                {
                    id = table
                        .Column<int>(type: "integer", nullable: false)
                        .Annotation(
                            "Npgsql:ValueGenerationStrategy",
                            NpgsqlValueGenerationStrategy.IdentityByDefaultColumn
                        ),
                    friendly_name = table.Column<string>(type: "text", nullable: true),
                    xml = table.Column<string>(type: "text", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_data_protection_keys", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "fuses",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "text", nullable: false),
                    armed_version_id = table.Column<Guid>(type: "uuid", nullable: true),
                    draft = table.Column<string>(type: "jsonb", nullable: true),
                    draft_revision = table.Column<int>(type: "integer", nullable: false),
                    draft_by = table.Column<Guid>(type: "uuid", nullable: true),
                    draft_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_fuses", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "lead_fields",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    label = table.Column<string>(type: "text", nullable: false),
                    choices = table.Column<string>(type: "jsonb", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lead_fields", x => new { x.client_id, x.key });
                }
            );

            migrationBuilder.CreateTable(
                name: "sources",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_sources", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "spend_days",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    day = table.Column<DateOnly>(type: "date", nullable: false),
                    source_id = table.Column<Guid>(type: "uuid", nullable: false),
                    campaign = table.Column<string>(type: "text", nullable: false),
                    amount_minor = table.Column<long>(type: "bigint", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_spend_days", x => new
                    {
                        x.client_id,
                        x.day,
                        x.source_id,
                        x.campaign,
                    });
                }
            );

            migrationBuilder.CreateTable(
                name: "submissions",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    received_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    content_type = table.Column<string>(type: "text", nullable: false),
                    raw = table.Column<byte[]>(type: "bytea", nullable: false),
                    own_id = table.Column<string>(type: "text", nullable: true),
                    dedupe_key = table.Column<byte[]>(type: "bytea", nullable: false),
                    status = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: true),
                    attempts = table.Column<int>(type: "integer", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_submissions", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "users",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    user_name = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_user_name = table.Column<string>(
                        type: "character varying(256)",
                        maxLength: 256,
                        nullable: true
                    ),
                    email = table.Column<string>(type: "character varying(256)", maxLength: 256, nullable: true),
                    normalized_email = table.Column<string>(
                        type: "character varying(256)",
                        maxLength: 256,
                        nullable: true
                    ),
                    email_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    password_hash = table.Column<string>(type: "text", nullable: true),
                    security_stamp = table.Column<string>(type: "text", nullable: true),
                    concurrency_stamp = table.Column<string>(type: "text", nullable: true),
                    phone_number = table.Column<string>(type: "text", nullable: true),
                    phone_number_confirmed = table.Column<bool>(type: "boolean", nullable: false),
                    two_factor_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    lockout_end = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: true),
                    lockout_enabled = table.Column<bool>(type: "boolean", nullable: false),
                    access_failed_count = table.Column<int>(type: "integer", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_users", x => x.id);
                }
            );

            migrationBuilder.CreateTable(
                name: "fuse_versions",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    fuse_id = table.Column<Guid>(type: "uuid", nullable: false),
                    number = table.Column<int>(type: "integer", nullable: false),
                    definition = table.Column<string>(type: "jsonb", nullable: false),
                    armed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    armed_by = table.Column<Guid>(type: "uuid", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_fuse_versions", x => x.id);
                    table.ForeignKey(
                        name: "fk_fuse_versions_fuses_fuse_id",
                        column: x => x.fuse_id,
                        principalTable: "fuses",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "forms",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    source_id = table.Column<Guid>(type: "uuid", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    fields = table.Column<string>(type: "jsonb", nullable: false),
                    thank_you_url = table.Column<string>(type: "text", nullable: true),
                    page_url = table.Column<string>(type: "text", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_forms", x => x.id);
                    table.ForeignKey(
                        name: "fk_forms_sources_source_id",
                        column: x => x.source_id,
                        principalTable: "sources",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "memberships",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: true),
                    role = table.Column<string>(type: "text", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_memberships", x => x.id);
                    table.ForeignKey(
                        name: "fk_memberships_asp_net_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "user_claims",
                columns: table => new
                {
                    id = table
                        .Column<int>(type: "integer", nullable: false)
                        .Annotation(
                            "Npgsql:ValueGenerationStrategy",
                            NpgsqlValueGenerationStrategy.IdentityByDefaultColumn
                        ),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    claim_type = table.Column<string>(type: "text", nullable: true),
                    claim_value = table.Column<string>(type: "text", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_user_claims", x => x.id);
                    table.ForeignKey(
                        name: "fk_user_claims_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "user_logins",
                columns: table => new
                {
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    provider_key = table.Column<string>(type: "text", nullable: false),
                    provider_display_name = table.Column<string>(type: "text", nullable: true),
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_user_logins", x => new { x.login_provider, x.provider_key });
                    table.ForeignKey(
                        name: "fk_user_logins_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "user_tokens",
                columns: table => new
                {
                    user_id = table.Column<Guid>(type: "uuid", nullable: false),
                    login_provider = table.Column<string>(type: "text", nullable: false),
                    name = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_user_tokens", x => new
                    {
                        x.user_id,
                        x.login_provider,
                        x.name,
                    });
                    table.ForeignKey(
                        name: "fk_user_tokens_users_user_id",
                        column: x => x.user_id,
                        principalTable: "users",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "form_maps",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    version = table.Column<int>(type: "integer", nullable: false),
                    status = table.Column<string>(type: "text", nullable: false),
                    map = table.Column<string>(type: "jsonb", nullable: false),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    confirmed_by = table.Column<Guid>(type: "uuid", nullable: true),
                    confirmed_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_form_maps", x => x.id);
                    table.ForeignKey(
                        name: "fk_form_maps_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "leads",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    form_id = table.Column<Guid>(type: "uuid", nullable: false),
                    first_name = table.Column<string>(type: "text", nullable: true),
                    last_name = table.Column<string>(type: "text", nullable: true),
                    email = table.Column<string>(type: "text", nullable: true),
                    phone = table.Column<string>(type: "text", nullable: true),
                    phone_readable = table.Column<bool>(type: "boolean", nullable: false),
                    zone = table.Column<string>(type: "text", nullable: false),
                    fields = table.Column<string>(type: "jsonb", nullable: false),
                    asked_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    target_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    taken_by = table.Column<Guid>(type: "uuid", nullable: true),
                    taken_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    auto_touch_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    first_touch_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    first_touch_by = table.Column<Guid>(type: "uuid", nullable: true),
                    opted_out_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    search_text = table.Column<string>(type: "text", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_leads", x => x.id);
                    table.ForeignKey(
                        name: "fk_leads_forms_form_id",
                        column: x => x.form_id,
                        principalTable: "forms",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "burns",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    fuse_id = table.Column<Guid>(type: "uuid", nullable: false),
                    fuse_version_id = table.Column<Guid>(type: "uuid", nullable: false),
                    submission_id = table.Column<Guid>(type: "uuid", nullable: false),
                    status = table.Column<string>(type: "text", nullable: false),
                    state = table.Column<string>(type: "jsonb", nullable: false),
                    lit_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    wake_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_burns", x => x.id);
                    table.ForeignKey(
                        name: "fk_burns_fuse_versions_fuse_version_id",
                        column: x => x.fuse_version_id,
                        principalTable: "fuse_versions",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                    table.ForeignKey(
                        name: "fk_burns_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "deliveries",
                columns: table => new
                {
                    id = table.Column<Guid>(type: "uuid", nullable: false),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    connection_id = table.Column<Guid>(type: "uuid", nullable: false),
                    burn_id = table.Column<Guid>(type: "uuid", nullable: true),
                    band = table.Column<string>(type: "text", nullable: true),
                    step_id = table.Column<string>(type: "text", nullable: true),
                    step = table.Column<string>(type: "text", nullable: true),
                    fuse = table.Column<string>(type: "text", nullable: true),
                    kind = table.Column<string>(type: "text", nullable: false),
                    lane = table.Column<string>(type: "text", nullable: false),
                    key = table.Column<string>(type: "text", nullable: false),
                    settings = table.Column<string>(type: "jsonb", nullable: false),
                    planned_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    age_limit_hours = table.Column<int>(type: "integer", nullable: false),
                    written_by = table.Column<Guid>(type: "uuid", nullable: true),
                    status = table.Column<string>(type: "text", nullable: false),
                    reason = table.Column<string>(type: "text", nullable: true),
                    made_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    due_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    attempts = table.Column<int>(type: "integer", nullable: false),
                    leased_by = table.Column<string>(type: "text", nullable: true),
                    leased_until = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    sent_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    ended_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                    answer = table.Column<string>(type: "text", nullable: true),
                    reference = table.Column<string>(type: "text", nullable: true),
                    receipt_at = table.Column<Instant>(type: "timestamp with time zone", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_deliveries", x => x.id);
                    table.ForeignKey(
                        name: "fk_deliveries_connections_connection_id",
                        column: x => x.connection_id,
                        principalTable: "connections",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                    table.ForeignKey(
                        name: "fk_deliveries_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "lead_contacts",
                columns: table => new
                {
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    value = table.Column<string>(type: "text", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_lead_contacts", x => new
                    {
                        x.client_id,
                        x.kind,
                        x.value,
                    });
                    table.ForeignKey(
                        name: "fk_lead_contacts_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateTable(
                name: "story",
                columns: table => new
                {
                    id = table
                        .Column<long>(type: "bigint", nullable: false)
                        .Annotation(
                            "Npgsql:ValueGenerationStrategy",
                            NpgsqlValueGenerationStrategy.IdentityByDefaultColumn
                        ),
                    client_id = table.Column<Guid>(type: "uuid", nullable: false),
                    lead_id = table.Column<Guid>(type: "uuid", nullable: false),
                    kind = table.Column<string>(type: "text", nullable: false),
                    at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    known_at = table.Column<Instant>(type: "timestamp with time zone", nullable: false),
                    words = table.Column<string>(type: "text", nullable: false),
                    fuse = table.Column<string>(type: "text", nullable: true),
                    band = table.Column<string>(type: "text", nullable: true),
                    step = table.Column<string>(type: "text", nullable: true),
                    burn_id = table.Column<Guid>(type: "uuid", nullable: true),
                    delivery_id = table.Column<Guid>(type: "uuid", nullable: true),
                    submission_id = table.Column<Guid>(type: "uuid", nullable: true),
                    user_id = table.Column<Guid>(type: "uuid", nullable: true),
                },
                constraints: table =>
                {
                    table.PrimaryKey("pk_story", x => x.id);
                    table.ForeignKey(
                        name: "fk_story_leads_lead_id",
                        column: x => x.lead_id,
                        principalTable: "leads",
                        principalColumn: "id",
                        onDelete: ReferentialAction.Cascade
                    );
                }
            );

            migrationBuilder.CreateIndex(
                name: "ix_burns_due",
                table: "burns",
                column: "wake_at",
                filter: "wake_at is not null"
            );

            migrationBuilder.CreateIndex(
                name: "ix_burns_fuse_id_lit_at",
                table: "burns",
                columns: new[] { "fuse_id", "lit_at" }
            );

            migrationBuilder.CreateIndex(name: "ix_burns_fuse_version_id", table: "burns", column: "fuse_version_id");

            migrationBuilder.CreateIndex(
                name: "ix_burns_lead_id_fuse_id",
                table: "burns",
                columns: new[] { "lead_id", "fuse_id" }
            );

            migrationBuilder.CreateIndex(name: "ix_clients_key", table: "clients", column: "key", unique: true);

            migrationBuilder.CreateIndex(
                name: "ix_connections_client_id_kind",
                table: "connections",
                columns: new[] { "client_id", "kind" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_connection_id_reference",
                table: "deliveries",
                columns: new[] { "connection_id", "reference" },
                filter: "reference is not null"
            );

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_due",
                table: "deliveries",
                columns: new[] { "connection_id", "due_at" },
                filter: "status = 'due'"
            );

            migrationBuilder.CreateIndex(name: "ix_deliveries_key", table: "deliveries", column: "key", unique: true);

            migrationBuilder.CreateIndex(name: "ix_deliveries_lead_id", table: "deliveries", column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_deliveries_leased",
                table: "deliveries",
                column: "leased_until",
                filter: "status = 'sending'"
            );

            migrationBuilder.CreateIndex(
                name: "ix_form_maps_form_id_version",
                table: "form_maps",
                columns: new[] { "form_id", "version" },
                unique: true
            );

            migrationBuilder.CreateIndex(name: "ix_forms_client_id", table: "forms", column: "client_id");

            migrationBuilder.CreateIndex(name: "ix_forms_key", table: "forms", column: "key", unique: true);

            migrationBuilder.CreateIndex(name: "ix_forms_source_id", table: "forms", column: "source_id");

            migrationBuilder.CreateIndex(
                name: "ix_fuse_versions_fuse_id_number",
                table: "fuse_versions",
                columns: new[] { "fuse_id", "number" },
                unique: true
            );

            migrationBuilder.CreateIndex(name: "ix_fuses_client_id", table: "fuses", column: "client_id");

            migrationBuilder.CreateIndex(name: "ix_lead_contacts_lead_id", table: "lead_contacts", column: "lead_id");

            migrationBuilder.CreateIndex(
                name: "ix_leads_client_id_asked_at",
                table: "leads",
                columns: new[] { "client_id", "asked_at" }
            );

            migrationBuilder.CreateIndex(name: "ix_leads_form_id", table: "leads", column: "form_id");

            migrationBuilder.CreateIndex(
                name: "ix_leads_in_the_air",
                table: "leads",
                columns: new[] { "client_id", "target_at" },
                filter: "first_touch_at is null"
            );

            migrationBuilder
                .CreateIndex(name: "ix_leads_search_text", table: "leads", column: "search_text")
                .Annotation("Npgsql:IndexMethod", "gin")
                .Annotation("Npgsql:IndexOperators", new[] { "gin_trgm_ops" });

            migrationBuilder.CreateIndex(
                name: "ix_memberships_user_id_client_id",
                table: "memberships",
                columns: new[] { "user_id", "client_id" },
                unique: true
            );

            migrationBuilder.CreateIndex(name: "ix_sources_client_id", table: "sources", column: "client_id");

            migrationBuilder.CreateIndex(
                name: "ix_story_lead_id_at",
                table: "story",
                columns: new[] { "lead_id", "at" }
            );

            migrationBuilder.CreateIndex(
                name: "ix_submissions_due",
                table: "submissions",
                column: "due_at",
                filter: "status = 'received'"
            );

            migrationBuilder.CreateIndex(
                name: "ix_submissions_form_id_dedupe_key",
                table: "submissions",
                columns: new[] { "form_id", "dedupe_key" },
                unique: true
            );

            migrationBuilder.CreateIndex(
                name: "ix_submissions_form_id_own_id",
                table: "submissions",
                columns: new[] { "form_id", "own_id" },
                filter: "lead_id is not null"
            );

            migrationBuilder.CreateIndex(
                name: "ix_submissions_form_id_received_at",
                table: "submissions",
                columns: new[] { "form_id", "received_at" },
                filter: "status <> 'received'"
            );

            migrationBuilder.CreateIndex(
                name: "ix_submissions_lead_id",
                table: "submissions",
                column: "lead_id",
                filter: "lead_id is not null"
            );

            migrationBuilder.CreateIndex(name: "ix_user_claims_user_id", table: "user_claims", column: "user_id");

            migrationBuilder.CreateIndex(name: "ix_user_logins_user_id", table: "user_logins", column: "user_id");

            migrationBuilder.CreateIndex(name: "EmailIndex", table: "users", column: "normalized_email");

            migrationBuilder.CreateIndex(
                name: "UserNameIndex",
                table: "users",
                column: "normalized_user_name",
                unique: true
            );
            migrationBuilder.Sql(LitFuse.Server.Features.Clients.RevisionTriggers.Sql);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(name: "burns");

            migrationBuilder.DropTable(name: "clients");

            migrationBuilder.DropTable(name: "data_protection_keys");

            migrationBuilder.DropTable(name: "deliveries");

            migrationBuilder.DropTable(name: "form_maps");

            migrationBuilder.DropTable(name: "lead_contacts");

            migrationBuilder.DropTable(name: "lead_fields");

            migrationBuilder.DropTable(name: "memberships");

            migrationBuilder.DropTable(name: "spend_days");

            migrationBuilder.DropTable(name: "story");

            migrationBuilder.DropTable(name: "submissions");

            migrationBuilder.DropTable(name: "user_claims");

            migrationBuilder.DropTable(name: "user_logins");

            migrationBuilder.DropTable(name: "user_tokens");

            migrationBuilder.DropTable(name: "fuse_versions");

            migrationBuilder.DropTable(name: "connections");

            migrationBuilder.DropTable(name: "leads");

            migrationBuilder.DropTable(name: "users");

            migrationBuilder.DropTable(name: "fuses");

            migrationBuilder.DropTable(name: "forms");

            migrationBuilder.DropTable(name: "sources");
        }
    }
}
