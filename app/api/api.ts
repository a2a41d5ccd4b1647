import { errorsOfIssues, isDeeperThan, LIMITS, malformedText } from "../../core/plan/index.ts";
import { signedInAs } from "../../server/access/actor.ts";
import { ownPlan } from "../../server/access/grants.ts";
import { permit } from "../../server/access/permit.ts";
import { visitorOf } from "../../server/session.ts";
import { changes } from "./changes.ts";
import type { Endpoint, Reply } from "./endpoint.ts";
import { onceByKey } from "./idempotency.ts";
import { openApi } from "./openapi.ts";
import { plans } from "./plans.ts";
import { Problem, problemResponse } from "./problem.ts";
import { questions } from "./questions.ts";
import { readings } from "./readings.ts";
import { webhooks } from "./webhooks.ts";

/** Everything that /api/v1 answers. */
export const endpoints: readonly Endpoint[] = [...plans, ...questions, ...changes, ...readings, ...webhooks];

const patterns = endpoints.map((endpoint) => ({
  endpoint,
  pattern: new RegExp(`^${endpoint.path.replace(/\{(\w+)\}/g, "(?<$1>[^/]+)")}$`),
}));

/** Answers a request to /api/v1; `path` is the rest of the path. */
export async function answerApi(request: Request, path: string, requestId: string): Promise<Response> {
  try {
    if (path === "/openapi.json" && request.method === "GET")
      return Response.json(openApi(endpoints, new URL(request.url).origin));
    const found = patterns.flatMap(({ endpoint, pattern }) => {
      const match = endpoint.method === request.method ? pattern.exec(path) : null;
      return match ? [{ endpoint, params: { ...match.groups } as Record<string, string> }] : [];
    });
    if (!found[0]) throw new Problem(404, `No endpoint matches ${request.method} ${path.slice(0, 100)}.`);
    const { endpoint, params } = found[0];
    const asker = signedInAs(request)?.account ?? "alone";
    return await onceByKey(request, asker, endpoint.withheld ?? [], async (body) =>
      responseOf(await reply(endpoint, params, request, body)),
    );
  } catch (error) {
    if (error instanceof Problem) return problemResponse(error, requestId);
    if (error instanceof Response) return error;
    // What pages end with: a sentence with its status.
    const thrown = error as { type?: string; data?: unknown; init?: { status?: number } | null };
    if (thrown.type === "DataWithResponseInit")
      return problemResponse(new Problem(thrown.init?.status ?? 500, String(thrown.data)), requestId);
    throw error;
  }
}

async function reply(
  endpoint: Endpoint,
  params: Record<string, string>,
  request: Request,
  sent: Uint8Array | null,
): Promise<Reply> {
  let body: unknown;
  if (endpoint.body) {
    const read = endpoint.body.safeParse(jsonIn(sent), { reportInput: true });
    if (!read.success)
      throw new Problem(
        422,
        "The body does not match the endpoint's schema.",
        errorsOfIssues(read.error.issues).slice(0, 50),
      );
    body = read.data;
  }
  const author = await visitorOf(request);
  const plan = endpoint.role ? permit(request, params.plan, endpoint.role) : ownPlan("");
  return endpoint.answer({ request, plan, params, query: new URL(request.url).searchParams, body, author });
}

function jsonIn(sent: Uint8Array | null): unknown {
  let value: unknown;
  try {
    value = JSON.parse(new TextDecoder("utf-8", { fatal: true }).decode(sent ?? new Uint8Array()));
  } catch {
    throw new Problem(400, "The body is not JSON.");
  }
  if (isDeeperThan(value, LIMITS.depth + 8)) throw new Problem(400, "The body is nested too deeply.");
  const malformed = malformedText(value);
  if (malformed !== null)
    throw new Problem(400, "The body holds text that cannot be saved, such as a zero byte.");
  return value;
}

function responseOf({ status = 200, headers = {}, body }: Reply): Response {
  return new Response(JSON.stringify(body), {
    status,
    headers: { "Content-Type": "application/json", "Cache-Control": "no-store", ...headers },
  });
}
