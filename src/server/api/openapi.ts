import { z } from "zod";
import { type Operation, operations } from "./operations.ts";

/** The API's description (OpenAPI 3.1), made from the schemas that check the input. */
export function openapiDocument(url: string, version: string): Record<string, unknown> {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [name, operation] of Object.entries(operations) as [string, Operation][]) {
    const parameters = [...parametersOf(operation.params, "path"), ...parametersOf(operation.query, "query")];
    const item = (paths[operation.path] ??= {});
    item[operation.method.toLowerCase()] = {
      operationId: name,
      summary: operation.summary,
      ...(operation.open ? { security: [] } : {}),
      ...(parameters.length > 0 ? { parameters } : {}),
      ...(operation.body
        ? { requestBody: { required: true, content: { "application/json": { schema: jsonSchema(operation.body) } } } }
        : {}),
      ...(operation.streams
        ? {
            requestBody: {
              required: true,
              content: {
                [operation.streams]: {
                  schema:
                    operation.streams === "text/csv"
                      ? { type: "string" }
                      : operation.streams === "application/json"
                        ? { type: "object" }
                        : arrivalForm,
                },
              },
            },
          }
        : {}),
      responses: {
        [operation.path === "/arrivals" && operation.method === "POST" ? "201" : "200"]: { description: operation.answers },
        default: {
          description: "What went wrong (RFC 9457)",
          content: { "application/problem+json": { schema: { $ref: "#/components/schemas/Problem" } } },
        },
      },
    };
  }
  return {
    openapi: "3.1.0",
    info: {
      title: "Amber Clip",
      version,
      description: "Documents and the records they belong to. Idempotency-Key on any POST; lists take limit and cursor.",
    },
    servers: [{ url: `${url}/api/v1` }],
    security: [{ key: [] }],
    paths,
    components: {
      securitySchemes: { key: { type: "http", scheme: "bearer" } },
      schemas: {
        Problem: {
          type: "object",
          properties: {
            type: { type: "string" },
            title: { type: "string" },
            status: { type: "integer" },
            detail: { type: "string" },
            errors: { type: "array", items: { type: "object", properties: { path: { type: "string" }, message: { type: "string" } } } },
          },
        },
      },
    },
  };
}

const arrivalForm = {
  type: "object",
  required: ["file", "queue"],
  properties: {
    file: { type: "string", format: "binary" },
    queue: { type: "string" },
    company: { type: "string" },
    source: { type: "string" },
    note: { type: "string" },
    record: { type: "string", description: "type:key" },
    documentType: { type: "string" },
  },
};

function jsonSchema(schema: z.ZodType): unknown {
  const { $schema: _dropped, ...rest } = z.toJSONSchema(schema, { io: "input", unrepresentable: "any" });
  return rest;
}

function parametersOf(schema: z.ZodObject | undefined, place: "path" | "query"): unknown[] {
  if (!schema) return [];
  return Object.entries(schema.shape).map(([name, value]) => ({
    name,
    in: place,
    required: place === "path" || !(value as z.ZodType).safeParse(undefined).success,
    schema: jsonSchema(value as z.ZodType),
  }));
}
