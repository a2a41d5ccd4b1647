import { data } from "react-router";
import { z } from "zod";
import { missingElement, type Outage } from "../../core/plan/index.ts";
import { tooMuch } from "../../lab/rehearsal/limits.ts";
import type { ReadablePlan } from "../../server/access/grants.ts";
import { permit } from "../../server/access/permit.ts";
import { documentOf } from "../../server/plans.ts";
import {
  askRehearsal,
  cancelRehearsal,
  latestRehearsal,
  type RehearsalQuestion,
} from "../../server/rehearsals.ts";
import { visitorOf } from "../../server/session.ts";
import { jsonBody } from "../engine/bodies.server.ts";
import { outageSteps, standingDown } from "../queries/conditions.ts";
import type { Route } from "./+types/rehearsals";

const refs = z.array(z.string().max(200)).max(500);
const questionSchema = z.strictObject({
  revision: z.number().int().min(1).max(2_147_483_647),
  outage: z.string().max(100),
  fail: refs,
  healMs: z.number().int().min(0).max(86_400_000).nullable(),
  down: refs,
});
/** What a page shows, and would have rehearsed. */
export type RehearsalAsked = z.input<typeof questionSchema>;

const bodySchema = z.union([questionSchema, z.strictObject({ cancel: z.string().max(20) })]);

/** The request with its steps; an error message if the plan has no such item. */
async function questionOf<P extends ReadablePlan>(
  plan: P,
  asked: z.output<typeof questionSchema>,
): Promise<(RehearsalQuestion & { plan: P }) | string> {
  const document = await documentOf(plan, asked.revision);
  if (!document) return "the plan has no such revision";
  const steps: Outage["steps"] | null = outageSteps({ plan: document }, asked);
  if (!steps) return "nothing fails: choose at least one element";
  const down = standingDown(asked.down, steps);
  const missing = [...down, ...asked.fail]
    .map((ref) => missingElement(ref, document))
    .find((one) => one !== null);
  return missing ?? tooMuch(document, steps) ?? { plan, revision: asked.revision, steps, down };
}

/** How the latest rehearsal of an outage stands. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const asked = questionSchema.safeParse(jsonIn(new URL(request.url).searchParams.get("of")));
  if (!asked.success) throw data("The outage is missing.", { status: 400 });
  const question = await questionOf(plan, asked.data);
  const run = typeof question === "string" ? null : await latestRehearsal(question);
  return Response.json({ run });
}

function jsonIn(text: string | null): unknown {
  try {
    return JSON.parse(text ?? "");
  } catch {
    return null;
  }
}

/** Has an outage rehearsed, or ends one that is under way. */
export async function action({ request, params }: Route.ActionArgs) {
  const plan = permit(request, params.plan, "edits");
  const body = bodySchema.safeParse(await jsonBody(request));
  if (!body.success) return Response.json({ error: "the outage is missing" }, { status: 400 });
  const visitor = await visitorOf(request);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  if ("cancel" in body.data) {
    await cancelRehearsal(plan, body.data.cancel);
    return Response.json({ error: "" }, { headers });
  }
  const question = await questionOf(plan, body.data);
  if (typeof question === "string") return Response.json({ error: question }, { status: 404, headers });
  if (await askRehearsal(question, visitor.name)) return Response.json({ error: "" }, { headers });
  return Response.json(
    { error: "another rehearsal of this plan is running; wait for it or stop it" },
    { status: 409, headers },
  );
}
