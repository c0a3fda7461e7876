using System.Text.Json.Nodes;
using System.Text.Json.Serialization.Metadata;
using GateChain.Service.Access;
using GateChain.Service.Endpoints;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace GateChain.Service.Hosting;

/// <summary>The head of the OpenAPI document.</summary>
static class Api
{
    public static void Describe(OpenApiOptions options)
    {
        // The library leaves out that a map of any values has any members: clients would take none.
        options.AddSchemaTransformer(
            (schema, context, _) =>
            {
                if (context.JsonTypeInfo.Kind == JsonTypeInfoKind.Dictionary && schema.AdditionalProperties is null)
                    schema.AdditionalProperties = new OpenApiSchema();
                return Task.CompletedTask;
            }
        );
        // Who may use it stands beside each operation.
        options.AddOperationTransformer(
            (operation, context, _) =>
            {
                var metadata = context.Description.ActionDescriptor.EndpointMetadata;
                JsonObject needs = metadata.OfType<Permit>().FirstOrDefault() is { } permit
                    ? new()
                    {
                        ["permission"] = permit.Permission?.ToString().ToLowerInvariant() ?? "sign-in",
                        ["where"] = permit.Where.ToString().ToLowerInvariant(),
                    }
                    : new() { ["open"] = metadata.OfType<OpenTo>().First().Why };
                operation.Extensions ??= new Dictionary<string, IOpenApiExtension>();
                operation.Extensions["x-needs"] = new JsonNodeExtension(needs);
                return Task.CompletedTask;
            }
        );
        options.AddDocumentTransformer(
            (document, _, _) =>
            {
                document.Info = new()
                {
                    Title = "Gate Chain",
                    Version = HealthEndpoint.Version,
                    Description = "Chains, runs and what happens in them. Errors are problem details (RFC 9457).",
                };
                // The address differs from machine to machine; what is described does not.
                document.Servers = [];
                return Task.CompletedTask;
            }
        );
    }
}
