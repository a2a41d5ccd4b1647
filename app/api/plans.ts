import { z } from "zod";
import { editSchema, planSchema, readPlan } from "../../core/plan/index.ts";
import { may } from "../../server/access/actor.ts";
import { auditDetail } from "../../server/access/audit.ts";
import type { ReadablePlan } from "../../server/access/grants.ts";
import { createPlan, headOf, historyOf, listPlans, saveEdit } from "../../server/plans.ts";
import { revisionIn } from "../engine/bodies.server.ts";
import { documentAt } from "../engine/documents.server.ts";
import { endpoint } from "./endpoint.ts";
import { Problem } from "./problem.ts";

const id = z.string().regex(/^\d+$/);
const revision = z.number().int().min(1);
const headSchema = z.strictObject({ id, name: z.string(), revision, approved: revision });

/** The revision as its entity tag (RFC 9110, 8.8.3). */
const etagOf = (number: number) => `"${number}"`;

export async function needHead(plan: ReadablePlan) {
  const head = await headOf(plan);
  if (!head) throw new Problem(404, "There is no such plan. It may have been deleted.");
  return head;
}

/** The revision that If-Match says (RFC 9110, 13.1.1); `newest` for "*". */
function matched(request: Request, newest: number): number {
  const text = request.headers.get("If-Match")?.trim();
  if (!text) throw new Problem(428, 'Add the revision that the edit is based on, such as If-Match: "12".');
  if (text === "*") return newest;
  const number = /^"(\d{1,9})"$/.exec(text)?.[1];
  if (!number)
    throw new Problem(400, `If-Match is ${text.slice(0, 60)}; expected a revision in quotes, or *`);
  if (Number(number) !== newest)
    throw new Problem(
      412,
      `The plan is at revision ${newest}; the edit is based on revision ${number}. Fetch the plan again.`,
    );
  return newest;
}

export const plans = [
  endpoint({
    method: "GET",
    path: "/plans",
    summary: "Plans that the token may view",
    reply: z.strictObject({
      plans: z.array(headSchema.omit({ approved: true }).extend({ changedAt: z.iso.datetime() })),
    }),
    answer: async ({ request }) => {
      const all = await listPlans((plan) => may(request, "reads", plan));
      return {
        body: {
          plans: all.map(({ id, name, revision, changedAt }) => ({
            id,
            name,
            revision,
            changedAt: changedAt.toISOString(),
          })),
        },
      };
    },
  }),
  endpoint({
    method: "POST",
    path: "/plans",
    summary: "Adds a plan",
    body: z.strictObject({ document: z.unknown() }),
    reply: headSchema,
    status: 201,
    answer: async ({ body: { document }, author }) => {
      const reading = readPlan(document);
      if (!reading.ok) throw new Problem(422, "The document is not a plan.", reading.errors);
      const made = await createPlan(reading.plan, author, "sent by a program");
      return {
        status: 201,
        headers: { Location: `/api/v1/plans/${made}`, ETag: etagOf(1) },
        body: { id: made, name: reading.plan.name, revision: 1, approved: 1 },
      };
    },
  }),
  endpoint({
    method: "GET",
    path: "/plans/{plan}",
    role: "reads",
    summary: "Name, current revision and approved revision of a plan",
    reply: headSchema,
    answer: async ({ plan }) => {
      const { id, name, revision, approved } = await needHead(plan);
      return { headers: { ETag: etagOf(revision) }, body: { id, name, revision, approved } };
    },
  }),
  endpoint({
    method: "GET",
    path: "/plans/{plan}/revisions",
    role: "reads",
    summary: "Revisions, newest first, with author, time and reason",
    query: { before: "only revisions before this number", count: "number of revisions, at most 100" },
    reply: z.strictObject({
      revisions: z.array(
        z.strictObject({
          number: revision,
          kind: z.enum(["load", "edit", "undo", "redo"]),
          author: z.string(),
          why: z.string(),
          madeAt: z.iso.datetime(),
        }),
      ),
    }),
    answer: async ({ plan, query }) => {
      await needHead(plan);
      const before = revisionIn(query.get("before") ?? "") ?? undefined;
      const count = Math.min(100, revisionIn(query.get("count") ?? "") ?? 100);
      const rows = await historyOf(plan, count, before);
      return {
        body: {
          revisions: rows.map(({ number, kind, author, why, madeAt }) => ({
            number,
            kind,
            author,
            why,
            madeAt: madeAt.toISOString(),
          })),
        },
      };
    },
  }),
  endpoint({
    method: "GET",
    path: "/plans/{plan}/revisions/{revision}",
    role: "reads",
    summary: "A revision's document",
    reply: planSchema,
    answer: async ({ plan, params }) => {
      await needHead(plan);
      const number = revisionIn(params.revision);
      const document = number === null ? null : await documentAt(plan, number);
      if (!document) throw new Problem(404, `the plan has no revision ${params.revision.slice(0, 20)}`);
      return { headers: { ETag: etagOf(number as number) }, body: document };
    },
  }),
  endpoint({
    method: "POST",
    path: "/plans/{plan}/edits",
    role: "edits",
    summary: "Edits the current revision",
    description:
      "An edit lists each item before and after. It fits if the items are still as they were before.",
    body: editSchema,
    ifMatch: true,
    reply: z.strictObject({ revision }),
    status: 201,
    answer: async ({ request, plan, params, body, author }) => {
      const head = await needHead(plan);
      const base = matched(request, head.revision);
      auditDetail({ edit: body.label });
      const saved = await saveEdit(plan, base, body, author);
      if (!saved.ok) throw new Problem(409, "The edit does not fit the current revision.", saved.errors);
      return {
        status: 201,
        headers: {
          ETag: etagOf(saved.revision),
          Location: `/api/v1/plans/${params.plan}/revisions/${saved.revision}`,
        },
        body: { revision: saved.revision },
      };
    },
  }),
];
