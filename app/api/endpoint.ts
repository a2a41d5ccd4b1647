import type { z } from "zod";
import type { PermittedPlan, PlanRole } from "../../server/access/permit.ts";
import type { Author } from "../../server/plans.ts";

/** What an endpoint is asked. */
export interface Call<B, R extends PlanRole> {
  readonly request: Request;
  /** The plan of the address, which the requester may reach by the endpoint's `role`. */
  readonly plan: PermittedPlan[R];
  /** Parts of the address, by name. */
  readonly params: Readonly<Record<string, string>>;
  readonly query: URLSearchParams;
  /** The request body, read by the endpoint's schema. */
  readonly body: B;
  readonly author: Author;
}

/** What an endpoint answers. */
export interface Reply {
  readonly status?: number;
  readonly headers?: Readonly<Record<string, string>>;
  readonly body: unknown;
}

/** An endpoint of /api/v1: its documentation and its handler. */
export interface Endpoint<B = unknown, R extends PlanRole = PlanRole> {
  readonly method: "GET" | "POST";
  /** Within /api/v1, with {plan} and such. */
  readonly path: string;
  /** The role that it needs in the plan of its path; none where its path names no plan. */
  readonly role?: R;
  readonly summary: string;
  readonly description?: string;
  /** Query parameters, each with its description. */
  readonly query?: Readonly<Record<string, string>>;
  readonly body?: z.ZodType<B>;
  readonly reply: z.ZodType;
  readonly status?: number;
  /** Fields of the reply that are shown once: a request that is repeated with its Idempotency-Key gets null. */
  readonly withheld?: readonly string[];
  /** Whether If-Match must say the revision that it is made on. */
  readonly ifMatch?: boolean;
  readonly answer: (call: Call<B, R>) => Promise<Reply>;
}

/** An endpoint whose body is what its schema reads. */
export function endpoint<B = undefined, R extends PlanRole = never>(of: Endpoint<B, R>): Endpoint {
  return of as unknown as Endpoint;
}
