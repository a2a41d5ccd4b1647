import { z } from "zod";
import { preferences } from "../core/steps/index.ts";
import { deviceFactsSchema } from "../exchange/facts/index.ts";

/** The shapes of what the command line prints with --json. The JSON Schema in docs/ is made of these. */

const verdict = z.enum(["works", "one-way", "fails", "unknown"]);
const ids = z.array(z.string());
const milliseconds = z.number().min(0).nullable();
const range = z.strictObject({ min: milliseconds, max: milliseconds, unknown: z.literal(true).optional() });

/** What stands beside a verdict where it holds, and what becomes of what was established. */
const marks = { partly: z.literal(true).optional(), uncertain: z.literal(true).optional() };
const sessions = z
  .strictObject({
    state: z.enum(["kept", "broken"]),
    reason: z.string().nullable(),
    uncertain: z.literal(true).optional(),
  })
  .optional();

const planError = z.strictObject({ path: z.string(), message: z.string() });
const check = z.union([
  z.strictObject({ ok: z.literal(true), name: z.string(), counts: z.record(z.string(), z.number().int()) }),
  z.strictObject({ ok: z.literal(false), errors: z.array(planError) }),
]);

const route = z.strictObject({
  to: z.string(),
  source: z.string(),
  via: z.string().nullable(),
  out: z.string().nullable(),
  distance: z.number().int().nullable(),
  metric: z.number(),
  state: z.enum(["in-use", "standby", "unusable", "disabled"]),
  reason: z.strictObject({ code: z.string(), text: z.string() }).nullable(),
  discard: z.enum(["drop", "reject"]).optional(),
  toVrf: z.string().optional(),
  watch: z.string().optional(),
});
const table = z.strictObject({
  device: z.string(),
  vrf: z.string(),
  failed: ids,
  routes: z.array(route),
  policyTables: z.array(z.strictObject({ name: z.string(), routes: z.array(route) })).optional(),
});
const lookup = z.strictObject({
  device: z.string(),
  to: z.string(),
  matches: z.array(route),
  /** Of a prefix: the active routes to parts of it, and whether its parts go different ways. */
  inside: z.array(route).optional(),
  split: z.boolean().optional(),
});

const hop = z.strictObject({
  device: z.string(),
  vrf: z.string(),
  in: z.string().nullable(),
  match: z.string().nullable(),
  out: z.string().nullable(),
  nextHop: z.string().nullable(),
  to: z.string().nullable(),
  translated: z.string().optional(),
});
const walk = z.strictObject({
  result: z.enum(["delivered", "dropped", "looped"]),
  hops: z.array(hop).min(1),
  drop: z.strictObject({ device: z.string(), code: z.string(), text: z.string() }).nullable(),
});
const way = walk.extend({ paths: z.array(walk.extend({ share: z.number() })).optional() });
const trip = z.strictObject({
  verdict,
  carriers: ids,
  symmetric: z.boolean().nullable(),
  seen: z.strictObject({
    hops: z.array(z.string().nullable()),
    rttMs: z.array(z.number().nullable()).optional(),
    message: z.strictObject({ type: z.number().int(), code: z.number().int(), from: z.string() }).nullable(),
  }),
  outbound: way,
  reply: way.nullable(),
});
const path = trip.extend({
  ...marks,
  sessions,
  flaps: z.literal(true).optional(),
  /** Addresses of hosts that are not drawn, on which the verdict rests. */
  assumed: ids.optional(),
  paths: z.array(trip).optional(),
});

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

const sweep = z.strictObject({
  flows: z.array(
    z.strictObject({
      id: z.string(),
      nominal: z.strictObject({ verdict, carriers: ids, ...marks }),
      failures: z.array(
        z.strictObject({ failed: ids, verdict, carriers: ids, outageMs: range, sessions, ...marks }),
      ),
    }),
  ),
});

const span = z.strictObject({
  fromMs: z.number(),
  toMs: z.number().nullable(),
  verdict,
  carriers: ids,
  ...marks,
});
const timeline = z.strictObject({
  events: z.array(z.strictObject({ atMs: z.number(), what: z.string() })),
  watches: z.array(
    z.strictObject({
      watch: z.string(),
      changes: z.array(z.strictObject({ fromMs: z.number(), up: z.boolean() })),
    }),
  ),
  flows: z.array(
    z.strictObject({
      id: z.string(),
      spans: z.array(span),
      leastSpans: z.array(span),
      outageMs: range,
      lost: range,
      sessions,
    }),
  ),
});

const summarise = z.strictObject({
  exact: ids,
  single: z
    .strictObject({
      prefix: z.string(),
      swallows: ids,
      elsewhere: z.array(z.strictObject({ prefix: z.string(), by: ids })).optional(),
      unowned: ids.optional(),
    })
    .nullable(),
});

const namedRoute = z.strictObject({
  device: z.string(),
  table: z.string().nullable(),
  route: z.looseObject({ to: z.string() }),
});
const rangeOutcome = z.strictObject({
  result: z.enum(["delivered", "dropped", "looped"]),
  at: z.string(),
  code: z.string().nullable(),
  carriers: ids,
  way: ids,
});
const change = z.looseObject({ in: z.string() });
const stepCheck = z.discriminatedUnion("kind", [
  z.strictObject({
    kind: z.literal("table"),
    device: z.string(),
    vrf: z.string(),
    to: z.string(),
    inUse: ids,
  }),
  z.strictObject({ kind: z.literal("flow"), flow: z.string(), verdict, carriers: ids }),
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

const flowOutcome = z.strictObject({ verdict, carriers: ids, symmetric: z.boolean().nullable() }).nullable();
const diff = z.strictObject({
  routes: z.strictObject({
    added: z.array(namedRoute),
    removed: z.array(namedRoute),
    changed: z.array(
      z.strictObject({
        device: z.string(),
        table: z.string().nullable(),
        before: z.looseObject({}),
        after: z.looseObject({}),
      }),
    ),
  }),
  ranges: z.array(
    z.strictObject({ range: z.string(), from: z.string(), before: rangeOutcome, after: rangeOutcome }),
  ),
  flows: z.array(z.strictObject({ id: z.string(), before: flowOutcome, after: flowOutcome })),
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
  table,
  lookup,
  path,
  findings,
  sweep,
  timeline,
  summarise,
  diff,
  steps,
  read,
  write,
  drift,
};
