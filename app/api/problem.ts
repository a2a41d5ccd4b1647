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
  400: "The request cannot be read",
  403: "This is not allowed",
  404: "There is nothing here",
  409: "It is not as the request takes it to be",
  412: "It has changed since",
  422: "This cannot be done as asked",
  428: "The request must say what it was made on",
};

/** The answer that tells a problem; `instance` is the number of the request, as in the log. */
export function problemResponse({ status, detail, errors, headers }: Problem, instance: string): Response {
  const body = {
    type: "about:blank",
    title: titles[status] ?? "This was refused",
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
