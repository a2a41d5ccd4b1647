import { z } from "zod";
import type { StaticRoute } from "../plan/index.ts";

/** The shapes of reports, as the command line prints them with `--json`. Types, and the JSON Schema in docs/, derive from these. */

const ids = z.array(z.string());
const milliseconds = z.number().min(0).nullable();

export const verdictSchema = z.enum(["works", "one-way", "fails", "unknown"]);

/** Least and most; null for no end; `unknown` where the end is not known (rule 3.3). */
const rangeSchema = z.strictObject({
  min: milliseconds,
  max: milliseconds,
  unknown: z.literal(true).optional(),
});

/** Marks beside a verdict: some branches work and others do not; another end is possible. Omitted unless true. */
const marks = { partly: z.literal(true).optional(), uncertain: z.literal(true).optional() };
export type Marks = z.output<z.ZodObject<typeof marks>>;

/** Whether established sessions survive, and why not (rule 18). */
const sessionsSchema = z.strictObject({
  state: z.enum(["kept", "broken"]),
  /** The reason as a sentence; null if sessions survive. */
  reason: z.string().nullable(),
  uncertain: z.literal(true).optional(),
});
export type SessionsReport = z.output<typeof sessionsSchema>;

/** A candidate route with its state (rule 5.2). */
const routeSchema = z.strictObject({
  to: z.string(),
  source: z.string(),
  via: z.string().nullable(),
  out: z.string().nullable(),
  /** null for families of devices without distances. */
  distance: z.number().int().nullable(),
  metric: z.number(),
  state: z.enum(["in-use", "standby", "unusable", "disabled"]),
  reason: z.strictObject({ code: z.string(), text: z.string() }).nullable(),
  discard: z.enum(["drop", "reject"]).optional(),
  toVrf: z.string().optional(),
  watch: z.string().optional(),
});
export type RouteReport = z.output<typeof routeSchema>;

export const tableSchema = z.strictObject({
  device: z.string(),
  vrf: z.string(),
  failed: ids,
  routes: z.array(routeSchema),
  policyTables: z.array(z.strictObject({ name: z.string(), routes: z.array(routeSchema) })).optional(),
});
export type TableReport = z.output<typeof tableSchema>;

export const lookupSchema = z.strictObject({
  device: z.string(),
  to: z.string(),
  /** Candidates whose destination contains the address or the whole prefix, longest first. */
  matches: z.array(routeSchema),
});
export type LookupReport = z.output<typeof lookupSchema>;

export const prefixLookupSchema = lookupSchema.extend({
  /** Active routes to parts of the prefix, the longest last. */
  inside: z.array(routeSchema),
  /** Whether its parts take different routes, or some have none. */
  split: z.boolean(),
});
export type PrefixLookupReport = z.output<typeof prefixLookupSchema>;

const hopSchema = z.strictObject({
  device: z.string(),
  vrf: z.string(),
  in: z.string().nullable(),
  match: z.string().nullable(),
  out: z.string().nullable(),
  nextHop: z.string().nullable(),
  to: z.string().nullable(),
  /** The source that translation put in place here. */
  translated: z.string().optional(),
});
export type HopReport = z.output<typeof hopSchema>;

const walkSchema = z.strictObject({
  result: z.enum(["delivered", "dropped", "looped"]),
  hops: z.array(hopSchema).min(1),
  drop: z.strictObject({ device: z.string(), code: z.string(), text: z.string() }).nullable(),
});

/** One direction: the worst branch, and all with their shares of the packets where routes share the load. */
const waySchema = walkSchema.extend({
  paths: z.array(walkSchema.extend({ share: z.number() })).optional(),
});
export type WayReport = z.output<typeof waySchema>;

/** Ping and trace at the sender (rule 6.11). */
const traceSchema = z.strictObject({
  /** Who answers hop limit 1, 2 and so on, the receiver last; null: no reply. */
  hops: z.array(z.string().nullable()),
  /** Round-trip times to them; left out if no link of the plan has a delay. */
  rttMs: z.array(z.number().nullable()).optional(),
  message: z.strictObject({ type: z.number().int(), code: z.number().int(), from: z.string() }).nullable(),
});
export type TraceReport = z.output<typeof traceSchema>;

const branchSchema = z.strictObject({
  verdict: verdictSchema,
  carriers: ids,
  /** null if the packet or its reply does not arrive. */
  symmetric: z.boolean().nullable(),
  seen: traceSchema,
  outbound: waySchema,
  reply: waySchema.nullable(),
});

export const pathSchema = branchSchema.extend({
  ...marks,
  /** Left out if new packets do not work. */
  sessions: sessionsSchema.optional(),
  /** Watches never settle under these failures; the worst of the states is reported (rule 9.5). */
  flaps: z.literal(true).optional(),
  /** Addresses of assumed hosts on which the verdict rests (rule 2.8). */
  assumed: ids.optional(),
  paths: z.array(branchSchema).optional(),
});
export type PathReport = z.output<typeof pathSchema>;

export const sweepSchema = z.strictObject({
  flows: z.array(
    z.strictObject({
      id: z.string(),
      nominal: z.strictObject({ verdict: verdictSchema, carriers: ids, ...marks }),
      failures: z.array(
        z.strictObject({
          ...{ failed: ids, verdict: verdictSchema, carriers: ids },
          ...{ outageMs: rangeSchema, sessions: sessionsSchema.optional(), ...marks },
        }),
      ),
    }),
  ),
});
export type SweepReport = z.output<typeof sweepSchema>;

const spanSchema = z.strictObject({
  ...{ fromMs: z.number(), toMs: z.number().nullable() },
  ...{ verdict: verdictSchema, carriers: ids, ...marks },
});
export type SpanReport = z.output<typeof spanSchema>;

/** States of a watch over time; `up` from `fromMs` on. */
const watchSchema = z.strictObject({
  watch: z.string(),
  changes: z.array(z.strictObject({ fromMs: z.number(), up: z.boolean() })),
});
export type WatchReport = z.output<typeof watchSchema>;

export const timelineSchema = z.strictObject({
  events: z.array(z.strictObject({ atMs: z.number(), what: z.string() })),
  /** Watches that go down or come up in the longest case, from the failure on. */
  watches: z.array(watchSchema),
  flows: z.array(
    z.strictObject({
      ...{ id: z.string(), spans: z.array(spanSchema), leastSpans: z.array(spanSchema) },
      ...{ outageMs: rangeSchema, lost: rangeSchema },
      /** Left out if new packets do not work in the end. */
      sessions: sessionsSchema.optional(),
    }),
  ),
});
export type TimelineReport = z.output<typeof timelineSchema>;

export const summarySchema = z.strictObject({
  exact: ids,
  /** null if both families are asked for at once: no single prefix contains them. */
  single: z
    .strictObject({
      prefix: z.string(),
      swallows: ids,
      /** With a plan: parts that are attached elsewhere, with the devices, and parts without an owner. */
      elsewhere: z.array(z.strictObject({ prefix: z.string(), by: ids })).optional(),
      unowned: ids.optional(),
    })
    .nullable(),
});
export type SummaryReport = z.output<typeof summarySchema>;

/** A route as the plan writes it. */
const writtenRoute = z.looseObject({ to: z.string() }) as unknown as z.ZodType<StaticRoute>;
const placed = { device: z.string(), table: z.string().nullable() };
const namedRouteSchema = z.strictObject({ ...placed, route: writtenRoute });

const outcomeSchema = z.strictObject({
  ...{ result: z.enum(["delivered", "dropped", "looped"]), at: z.string(), code: z.string().nullable() },
  ...{ carriers: ids, way: ids },
});
export type OutcomeReport = z.output<typeof outcomeSchema>;

const flowOutcomeSchema = z.strictObject({
  ...{ verdict: verdictSchema, carriers: ids, symmetric: z.boolean().nullable() },
});
export type FlowOutcomeReport = z.output<typeof flowOutcomeSchema>;

export const differenceSchema = z.strictObject({
  routes: z.strictObject({
    added: z.array(namedRouteSchema),
    removed: z.array(namedRouteSchema),
    changed: z.array(z.strictObject({ ...placed, before: writtenRoute, after: writtenRoute })),
  }),
  ranges: z.array(
    z.strictObject({ range: z.string(), from: z.string(), before: outcomeSchema, after: outcomeSchema }),
  ),
  /** null: the flow is not in that plan. */
  flows: z.array(
    z.strictObject({
      ...{ id: z.string(), before: flowOutcomeSchema.nullable(), after: flowOutcomeSchema.nullable() },
    }),
  ),
});
export type DifferenceReport = z.output<typeof differenceSchema>;
