import { z } from "zod";
import { neededFor } from "../../server/access/needs.ts";
import type { Endpoint } from "./endpoint.ts";

/** The description of /api/v1 (OpenAPI 3.1), made of the schemas by which requests are read. */
export function openApi(endpoints: readonly Endpoint[], server: string): Record<string, unknown> {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const endpoint of endpoints) {
    paths[endpoint.path] = { ...paths[endpoint.path], [endpoint.method.toLowerCase()]: operation(endpoint) };
  }
  return {
    openapi: "3.1.0",
    info: {
      title: "Iron Fork",
      version: "1",
      description:
        "Plans, their revisions and edits, every query that a page makes, changes and readings. Errors are problem details (RFC 9457). A request that is repeated with the same Idempotency-Key is executed once.",
    },
    servers: [{ url: `${server}/api/v1` }],
    security: [{ token: [] }],
    paths,
    components: {
      securitySchemes: { token: { type: "http", scheme: "bearer" } },
      responses: {
        Problem: {
          description: "Problem details",
          content: {
            "application/problem+json": {
              schema: {
                type: "object",
                required: ["type", "title", "status", "detail", "instance"],
                properties: {
                  type: { type: "string" },
                  title: { type: "string" },
                  status: { type: "integer" },
                  detail: { type: "string" },
                  instance: { type: "string" },
                  errors: {
                    type: "array",
                    items: {
                      type: "object",
                      required: ["path", "message"],
                      properties: { path: { type: "string" }, message: { type: "string" } },
                    },
                  },
                },
              },
            },
          },
        },
      },
    },
  };
}

function operation({
  method,
  path,
  summary,
  description,
  query = {},
  body,
  reply,
  status = 200,
  ifMatch,
}: Endpoint) {
  const need = neededFor(method, `/api/v1${path.replace(/\{\w+\}/g, "1")}`)?.need ?? "administers";
  const named = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: "path",
    required: true,
    schema: { type: "string" },
  }));
  const asked = Object.entries(query).map(([name, what]) => ({
    name,
    in: "query",
    description: what,
    schema: name === "down" ? { type: "array", items: { type: "string" } } : { type: "string" },
  }));
  const headers = [
    ...(ifMatch
      ? [
          {
            name: "If-Match",
            in: "header",
            required: true,
            description: "revision that the edit is based on, in quotes, or *",
            schema: { type: "string" },
          },
        ]
      : []),
    ...(method === "POST"
      ? [
          {
            name: "Idempotency-Key",
            in: "header",
            description: "a request that is repeated with the same key is not executed again",
            schema: { type: "string", maxLength: 200 },
          },
        ]
      : []),
  ];
  return {
    operationId: `${method.toLowerCase()}${path.replace(/[{}]/g, "").replace(/\/(\w)/g, (_, c) => c.toUpperCase())}`,
    summary,
    description: [description, `Needs: ${need}.`].filter(Boolean).join(" "),
    parameters: [...named, ...asked, ...headers],
    ...(body && {
      requestBody: { required: true, content: { "application/json": { schema: schemaOf(body, "input") } } },
    }),
    responses: {
      [String(status)]: {
        description: summary,
        content: { "application/json": { schema: schemaOf(reply, "output") } },
      },
      default: { $ref: "#/components/responses/Problem" },
    },
  };
}

function schemaOf(schema: z.ZodType, io: "input" | "output"): unknown {
  const { $schema: _, ...rest } = z.toJSONSchema(schema, { io, unrepresentable: "any" }) as Record<
    string,
    unknown
  >;
  return rest;
}
