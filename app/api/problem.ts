import type { PlanError } from "../../core/plan/index.ts";

/** What went wrong, as RFC 9457 has it. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly detail: string,
    readonly errors: readonly PlanError[] = [],
    readonly headers: Readonly<Record<string, string>> = {},
  ) {
    super(detail);
  }
}

const titles: Record<number, string> = {
  400: "Malformed request",
  403: "Not allowed",
  404: "Not found",
  409: "Conflict",
  412: "Changed meanwhile",
  422: "Invalid request",
  428: "If-Match required",
};

/** The answer that tells a problem; `instance` is the number of the request, as in the log. */
export function problemResponse({ status, detail, errors, headers }: Problem, instance: string): Response {
  const body = {
    type: "about:blank",
    title: titles[status] ?? "Refused",
    status,
    detail,
    instance: `urn:uuid:${instance}`,
    ...(errors.length > 0 && { errors }),
  };
  return new Response(JSON.stringify(body), {
    status,
    headers: { "Content-Type": "application/problem+json", "Cache-Control": "no-store", ...headers },
  });
}
