using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;

namespace Valtro.Server.Api;

/// <summary>How the API speaks: JSON with NodaTime's ISO forms, problem details, an OpenAPI document.</summary>
internal static class ApiServices
{
    public static void AddApi(this IServiceCollection services)
    {
        services.ConfigureHttpJsonOptions(options => Configure(options.SerializerOptions));
        // An answer says the same whenever it is asked for: what a request is traced by stands in the log.
        services.AddProblemDetails(options => options.CustomizeProblemDetails = context => context.ProblemDetails.Extensions.Remove("traceId"));
        services.AddExceptionHandler<ProblemHandler>();
        // A body that cannot be read is answered in the same form in every environment.
        services.Configure<RouteHandlerOptions>(options => options.ThrowOnBadRequest = true);
        services.AddOpenApi("valtro", options => options.AddSchemaTransformer(NodaSchema));
    }

    public static void Configure(JsonSerializerOptions json)
    {
        json.NumberHandling = JsonNumberHandling.Strict;
        json.Converters.Add(new JsonStringEnumConverter(JsonNamingPolicy.CamelCase));
        json.ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);
        BoundedDates.AddTo(json);
        json.TypeInfoResolver = (json.TypeInfoResolver ?? new DefaultJsonTypeInfoResolver()).WithAddedModifier(StrictBodies.Modify);
    }

    private static Task NodaSchema(OpenApiSchema schema, OpenApiSchemaTransformerContext context, CancellationToken cancellation)
    {
        var type = Nullable.GetUnderlyingType(context.JsonTypeInfo.Type) ?? context.JsonTypeInfo.Type;
        string? format = type == typeof(LocalDate) ? "date"
            : type == typeof(LocalDateTime) ? "local-date-time"
            : type == typeof(Instant) ? "date-time"
            : null;
        if (format is not null)
        {
            var nullable = Nullable.GetUnderlyingType(context.JsonTypeInfo.Type) is not null;
            schema.Type = nullable ? JsonSchemaType.String | JsonSchemaType.Null : JsonSchemaType.String;
            schema.Format = format;
            schema.Properties = null;
            schema.Required = null;
        }
        else if (type.IsAssignableTo(typeof(IEnumerable<LocalDateTime>)))
        {
            schema.Items = new OpenApiSchema { Type = JsonSchemaType.String, Format = "local-date-time" };
        }
        else if (type.IsAssignableTo(typeof(IEnumerable<LocalDate>)))
        {
            schema.Items = new OpenApiSchema { Type = JsonSchemaType.String, Format = "date" };
        }
        return Task.CompletedTask;
    }
}
