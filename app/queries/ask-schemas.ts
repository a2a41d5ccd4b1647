import { z } from "zod";
import { editSchema, protocolField, staticRouteSchema } from "../../core/plan/index.ts";
import { preferences } from "../../core/steps/index.ts";
import { layoutSchema, tokenRoleSchema } from "../../exchange/layout.ts";
import type { TemplateData } from "../../exchange/texts/index.ts";
import type { AskArgs, AskName } from "./asks.ts";

const text = z.string().max(100_000);
const name = z.string().max(200);
const refs = z.array(name).max(1000);
const down = refs.default([]);
const words = z.array(z.tuple([name, name])).max(1000);
const layouts = z.array(layoutSchema).max(100).default([]);
const flowFields = {
  ...{ flow: name.optional(), from: name.optional(), source: name.optional(), to: name.optional() },
  ...{ protocol: protocolField.optional(), port: z.number().int().min(1).max(65535).optional() },
};

/** What each query of an open page takes, for those who ask it from outside. */
export const askSchemas: { readonly [N in AskName]: z.ZodType<AskArgs<N>> } = {
  board: z.strictObject({ down, depth: z.union([z.literal(1), z.literal(2), z.literal(3)]) }),
  witnesses: z.strictObject({ down, neighbours: z.array(z.tuple([name, refs])).max(10_000) }),
  timeline: z.strictObject({
    down,
    fail: refs.default([]),
    healMs: z.number().int().min(0).nullable().default(null),
    outage: name.default(""),
    edit: editSchema.optional(),
    beforeDraft: z.boolean().optional(),
  }),
  effect: z.strictObject({ down, edit: editSchema, whole: z.boolean().optional() }),
  completions: z.strictObject({
    ...{ down, text, caret: z.number().int().min(0), device: name.nullable().default(null) },
  }),
  companions: z.strictObject({ down, device: name, route: staticRouteSchema }),
  findings: z.strictObject({ down, fixes: z.boolean().default(false) }),
  findingsAfter: z.strictObject({ down, edit: editSchema }),
  costs: z.strictObject({ down, edit: editSchema }),
  remedies: z.strictObject({ down, asked: z.strictObject(flowFields) }),
  everywhere: z.strictObject({ down, to: name }),
  gridRow: z.strictObject({ down, from: name, to: refs }),
  draft: z.strictObject({ down }),
  survival: z.strictObject({ down }),
  runbook: z.strictObject({ down, prefer: z.enum(preferences).optional() }),
  templateTry: z.strictObject({
    ...{ down, source: text, steps: z.array(z.custom<TemplateData>(isObject)).max(500) },
  }),
  warm: z.strictObject({ down, device: name.nullable().default(null) }),
  proposedFlows: z.strictObject({ down }),
  interfaceList: z.strictObject({ down, text, device: name.nullable().default(null) }),
  exchange: z.strictObject({
    down,
    files: z.array(z.strictObject({ name, text, device: name.optional() })).max(1000),
    words: words.default([]),
    without: refs.default([]),
    layouts,
    roles: z
      .array(z.tuple([z.string().max(200), tokenRoleSchema]))
      .max(100)
      .default([]),
  }),
  picture: z.strictObject({ down, text, words: words.default([]), layouts }),
};

function isObject(value: unknown): boolean {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
