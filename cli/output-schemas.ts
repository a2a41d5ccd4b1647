import { z } from "zod";
import {
  differenceSchema,
  lookupSchema,
  pathSchema,
  prefixLookupSchema,
  summarySchema,
  sweepSchema,
  tableSchema,
  timelineSchema,
  verdictSchema,
} from "../core/reports/index.ts";
import { preferences } from "../core/steps/index.ts";
import { deviceFactsSchema } from "../exchange/facts/index.ts";
import { tokenRoleSchema } from "../exchange/layout.ts";

/** The shapes of what the command line prints with --json. The JSON Schema in docs/ is made of these. */

const ids = z.array(z.string());

const planError = z.strictObject({ path: z.string(), message: z.string() });
const check = z.union([
  z.strictObject({ ok: z.literal(true), name: z.string(), counts: z.record(z.string(), z.number().int()) }),
  z.strictObject({ ok: z.literal(false), errors: z.array(planError) }),
]);

const evidence = z.looseObject({ kind: z.enum(["route", "path", "range", "interface", "watch"]) });
const findings = z.array(
  z.strictObject({
    code: z.string(),
    severity: z.enum(["error", "warning", "advice"]),
    device: z.string().nullable(),
    subject: z.string(),
    text: z.string(),
    evidence: z.array(evidence),
    fixes: z.array(z.strictObject({ label: z.string(), edit: z.looseObject({ label: z.string() }) })),
    /** Why it was accepted, where the plan has that on record. */
    dismissed: z.string().optional(),
  }),
);

const change = z.looseObject({ in: z.string() });
const stepCheck = z.discriminatedUnion("kind", [
  z.strictObject({
    kind: z.literal("table"),
    device: z.string(),
    vrf: z.string(),
    to: z.string(),
    inUse: ids,
  }),
  z.strictObject({ kind: z.literal("flow"), flow: z.string(), verdict: verdictSchema, carriers: ids }),
]);
/** A step in a form that devices take; null where the form cannot say it. */
const deviceText = z.strictObject({ text: z.string().nullable(), unsaid: ids });
const stepTexts = z.strictObject({
  sentence: z.string(),
  json: deviceText,
  xml: deviceText,
  iproute2: deviceText,
});
const visitNumber = z.number().int().min(1);
const count = z.number().int().min(0);
const preference = z.enum(preferences);
const steps = z.strictObject({
  safe: z.boolean(),
  proven: z.strictObject({ states: count, flows: count, subnets: count }),
  moved: count,
  alternative: z.strictObject({ prefer: preference, visits: count, moved: count }).nullable(),
  visits: z.array(
    z.strictObject({
      device: z.string().nullable(),
      steps: z.array(z.strictObject({ do: change, undo: change, texts: stepTexts, undoTexts: stepTexts })),
      anyOrder: z.array(z.array(visitNumber)),
      before: z.array(stepCheck),
      after: z.array(stepCheck),
      breaks: z.array(z.strictObject({ flow: z.string(), until: visitNumber })),
      unreached: z.array(z.strictObject({ subnet: z.string(), from: z.string(), until: visitNumber })),
      loops: z.array(z.strictObject({ range: z.string(), from: z.string(), until: visitNumber })),
      risks: z.array(z.strictObject({ failed: z.string(), flow: z.string() })),
    }),
  ),
  anyOrder: z.array(z.array(visitNumber)),
  helpers: z
    .strictObject({
      routes: z.array(z.strictObject({ device: z.string(), route: z.looseObject({ to: z.string() }) })),
      saves: ids,
      safe: z.boolean(),
    })
    .nullable(),
  unproven: ids,
});

const read = z.strictObject({
  plan: z.looseObject({ ironFork: z.literal(1) }),
  facts: z.array(deviceFactsSchema),
  devices: z.array(
    z.strictObject({
      id: z.string(),
      label: z.string(),
      role: z.string(),
      profile: z.string().nullable(),
      outline: z.boolean(),
    }),
  ),
  links: z.array(z.strictObject({ id: z.string(), ends: ids, because: ids, certain: z.boolean() })),
  outlines: z.array(
    z.strictObject({
      id: z.string(),
      link: z.string(),
      addresses: ids,
      hardware: z.string().nullable(),
      because: ids,
    }),
  ),
  lines: z.array(
    z.strictObject({
      file: z.string(),
      line: z.number().int(),
      text: z.string(),
      fate: z.enum(["taken", "doubtful", "known", "not-understood"]),
      detail: z.string(),
    }),
  ),
  questions: z.array(
    z.strictObject({
      file: z.string(),
      column: z.string(),
      lines: z.array(z.number().int()),
      candidates: z.array(
        z.strictObject({
          role: tokenRoleSchema,
          to: z.string(),
          via: z.string().nullable(),
          distance: z.number().nullable(),
          metric: z.number().nullable(),
        }),
      ),
    }),
  ),
});

const difference = z.strictObject({
  device: z.string(),
  kind: z.string(),
  subject: z.string(),
  planned: z.unknown(),
  seen: z.unknown(),
  text: z.string(),
});
const drift = z.strictObject({
  differences: z.array(difference),
  ignored: z.array(difference.extend({ reason: z.string() })),
  compared: ids,
});

const write = z.strictObject({ files: ids });

export const outputSchemas = {
  check,
  table: tableSchema,
  lookup: z.union([lookupSchema, prefixLookupSchema]),
  path: pathSchema,
  findings,
  sweep: sweepSchema,
  timeline: timelineSchema,
  summarise: summarySchema,
  diff: differenceSchema,
  steps,
  read,
  write,
  drift,
};
