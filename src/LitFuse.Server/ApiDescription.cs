using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;
using NodaTime;

namespace LitFuse.Server;

/// <summary>How the API describes itself (OpenAPI 3.1).</summary>
public static class ApiDescription
{
    /// <summary>Sets it up.</summary>
    public static void Configure(OpenApiOptions options)
    {
        options.OpenApiVersion = OpenApiSpecVersion.OpenApi3_1;
        options.AddDocumentTransformer(
            (document, _, _) =>
            {
                document.Info.Title = "Lit Fuse";
                document.Info.Version = "1";
                document.Info.Description =
                    "Sign in at POST /api/session. Writing needs the XSRF-TOKEN cookie's value in the X-XSRF-TOKEN header. Refusals are Problem Details (RFC 9457) with a code and a mend.";
                document.Servers?.Clear();
                return Task.CompletedTask;
            }
        );
        options.AddSchemaTransformer(
            (schema, context, _) =>
            {
                if (
                    (Nullable.GetUnderlyingType(context.JsonTypeInfo.Type) ?? context.JsonTypeInfo.Type)
                    == typeof(Instant)
                )
                {
                    schema.Type = Nullable.GetUnderlyingType(context.JsonTypeInfo.Type) is null
                        ? JsonSchemaType.String
                        : JsonSchemaType.String | JsonSchemaType.Null;
                    schema.Format = "date-time";
                }

                return Task.CompletedTask;
            }
        );
    }
}
