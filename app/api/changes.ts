import { z } from "zod";
import { itemPhrase } from "../../core/plan/index.ts";
import { preferences, type Runbook } from "../../core/steps/index.ts";
import { auditDetail } from "../../server/access/audit.ts";
import {
  approveChange,
  type ChangeWords,
  changeOf,
  type Done,
  listChanges,
  proposeChange,
  tickChange,
} from "../../server/changes/changes.ts";
import { itemsOf, loadChange, proveDraft } from "../engine/changes.server.ts";
import { endpoint } from "./endpoint.ts";
import { needHead } from "./plans.ts";
import { Problem } from "./problem.ts";

const moment = z.iso.datetime().nullable();
const state = z.enum(["proposed", "approved", "done", "turned back", "withdrawn"]);
const listed = z.strictObject({
  number: z.number().int(),
  base: z.number().int(),
  draft: z.number().int(),
  title: z.string(),
  reference: z.string(),
  state,
  author: z.string(),
  madeAt: z.iso.datetime(),
  windowFrom: moment,
  windowTo: moment,
});

const wordsSchema = z.strictObject({
  title: z.string().trim().min(1).max(200),
  reason: z.string().max(5000).default(""),
  reference: z.string().max(200).default(""),
  windowFrom: moment.default(null),
  windowTo: moment.default(null),
  notes: z.string().max(10_000).default(""),
});

const proposalSchema = wordsSchema.extend({ prefer: z.enum(preferences).default("visits") });

const asDone = (done: Done) => {
  if (!done.ok) throw new Problem(done.error.startsWith("there is no such") ? 404 : 409, done.error);
};

const text = (at: Date | null) => (at === null ? null : at.toISOString());

export const changes = [
  endpoint({
    method: "GET",
    path: "/plans/{plan}/changes",
    role: "reads",
    summary: "Changes, newest first",
    reply: z.strictObject({ changes: z.array(listed) }),
    answer: async ({ plan }) => {
      await needHead(plan);
      const all = await listChanges(plan);
      return {
        body: {
          changes: all.map((one) => ({
            ...one,
            madeAt: text(one.madeAt),
            windowFrom: text(one.windowFrom),
            windowTo: text(one.windowTo),
          })),
        },
      };
    },
  }),
  endpoint({
    method: "POST",
    path: "/plans/{plan}/changes",
    role: "edits",
    summary: "Proposes the draft as a change with a safe rollout order",
    body: proposalSchema,
    reply: z.strictObject({ number: z.number().int() }),
    status: 201,
    answer: async ({ plan, params, body: { prefer, ...body }, author }) => {
      await needHead(plan);
      const at = (value: string | null) => (value === null ? null : new Date(value));
      const words: ChangeWords = { ...body, windowFrom: at(body.windowFrom), windowTo: at(body.windowTo) };
      if (words.windowFrom && words.windowTo && words.windowTo < words.windowFrom)
        throw new Problem(422, "The window ends before it begins.");
      const draft = await proveDraft(plan, prefer);
      if (!draft.ok) throw new Problem(409, draft.error);
      const made = await proposeChange(plan, draft.proven, words, author);
      if (!made.ok) throw new Problem(422, made.error);
      return {
        status: 201,
        headers: { Location: `/api/v1/plans/${params.plan}/changes/${made.number}` },
        body: { number: made.number },
      };
    },
  }),
  endpoint({
    method: "GET",
    path: "/plans/{plan}/changes/{change}",
    role: "reads",
    summary: "A change: its description, runbook with device texts, completed items and events",
    reply: z.looseObject({ number: z.number().int(), state, runbook: z.looseObject({ safe: z.boolean() }) }),
    answer: async ({ plan, params }) => {
      await needHead(plan);
      const { told, runbook } = await loadChange(plan, params.change);
      return { body: { ...told, runbook } };
    },
  }),
  endpoint({
    method: "POST",
    path: "/plans/{plan}/changes/{change}/approval",
    role: "approves",
    summary: "Approves a change",
    body: z.strictObject({}),
    reply: z.strictObject({ state }),
    answer: async ({ plan, params, author }) => {
      auditDetail({ change: params.change });
      asDone(await approveChange(plan, params.change, author));
      return { body: { state: "approved" } };
    },
  }),
  endpoint({
    method: "POST",
    path: "/plans/{plan}/changes/{change}/ticks",
    role: "edits",
    summary: "Marks an item of the runbook as done, or as not done",
    body: z.strictObject({ item: z.string().max(40), done: z.boolean().default(true) }),
    reply: z.strictObject({ ticked: z.array(z.string()) }),
    answer: async ({ plan, params, body: { item, done }, author }) => {
      const change = await changeOf<Runbook>(plan, params.change);
      if (!change) throw new Problem(404, `the plan has no change ${params.change.slice(0, 20)}`);
      auditDetail({ change: params.change, item: itemPhrase(item) });
      const items = itemsOf(change.runbook);
      if (!items.includes(item))
        throw new Problem(422, `the runbook has no item ${item}; it has ${items.slice(0, 6).join(", ")} …`);
      asDone(await tickChange(plan, params.change, item, done, author));
      const now = await changeOf(plan, params.change);
      return { body: { ticked: now?.ticks.map((tick) => tick.item) ?? [] } };
    },
  }),
];
