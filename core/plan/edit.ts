import { z } from "zod";
import {
  type Collection,
  type DeviceCollectionName,
  deviceCollections,
  deviceSettingsSchema,
  type PlanCollectionName,
  planCollections,
  planSettingsOf,
  planSettingsSchema,
  settingsOf,
} from "./collections.ts";
import type { Device } from "./device.ts";
import { errorsOfIssues, type PlanError } from "./errors.ts";
import { beyondLimits } from "./limits.ts";
import type { Plan } from "./plan.ts";
import { checkReferences, checkWithin } from "./references.ts";
import { describeRoute, staticRouteSchema } from "./route.ts";

/** One change: an item before and after. `before` null adds, `after` null removes. `index` is the position of an added
 * item; without it, the end. */
const changeSchema = z.discriminatedUnion("in", [
  z.strictObject({
    in: z.literal("plan"),
    collection: z.enum(Object.keys(planCollections) as [PlanCollectionName, ...PlanCollectionName[]]),
    before: z.unknown(),
    after: z.unknown(),
    index: z.number().int().min(0).optional(),
  }),
  z.strictObject({
    in: z.literal("device"),
    device: z.string(),
    collection: z.enum(Object.keys(deviceCollections) as [DeviceCollectionName, ...DeviceCollectionName[]]),
    before: z.unknown(),
    after: z.unknown(),
    index: z.number().int().min(0).optional(),
  }),
  z.strictObject({
    in: z.literal("policy-table"),
    device: z.string(),
    table: z.string(),
    before: z.unknown(),
    after: z.unknown(),
    index: z.number().int().min(0).optional(),
  }),
  z.strictObject({
    in: z.literal("device-settings"),
    device: z.string(),
    before: z.unknown(),
    after: z.unknown(),
  }),
  z.strictObject({ in: z.literal("plan-settings"), before: z.unknown(), after: z.unknown() }),
]);
export type Change = z.output<typeof changeSchema>;

/** An edit: a value that can be sent, stored, applied and undone. */
export const editSchema = z.strictObject({
  label: z.string().min(1).max(300),
  changes: z.array(changeSchema).min(1, "an edit must change something").max(10_000),
});
export type Edit = z.output<typeof editSchema>;

/** `applied` is the edit with the positions of removed items filled in, so that its inverse is exact. */
export type EditOutcome = { ok: true; plan: Plan; applied: Edit } | { ok: false; errors: PlanError[] };
type ChangeOutcome = { ok: true; plan: Plan; index?: number } | { ok: false; errors: PlanError[] };

/** The edit that takes back what this one did. */
export function invertEdit(edit: Edit): Edit {
  return {
    label: edit.label,
    changes: edit.changes.toReversed().map(invertChange),
  };
}

/** The change that takes back what this one did. */
export function invertChange(change: Change): Change {
  return { ...change, before: change.after, after: change.before };
}

/** Applies an edit to a copy of the plan. It applies if every changed item still matches its `before` and the result is
 * valid; otherwise the errors say why not. */
export function applyEdit(plan: Plan, edit: Edit): EditOutcome {
  let current = plan;
  const changes: Change[] = [];
  for (const change of edit.changes) {
    const outcome = applyChange(current, change);
    if (!outcome.ok) return outcome;
    current = outcome.plan;
    changes.push(outcome.index === undefined ? change : ({ ...change, index: outcome.index } as Change));
  }
  // What only shrinks was within the limits before.
  const large = edit.changes.some(({ before }) => before === null) ? beyondLimits(current) : [];
  const errors = large.length > 0 ? large : checkAfter(current, edit.changes);
  return errors.length
    ? { ok: false, errors }
    : { ok: true, plan: current, applied: { label: edit.label, changes } };
}

/** What nothing outside its device refers to, but for the watches that outages fail. */
const OWN_COLLECTIONS: ReadonlySet<string> = new Set([
  "routes",
  "learned",
  "policyTables",
  "sourceNat",
  "watches",
] satisfies DeviceCollectionName[]);

/** An edit of what only its own device refers to is checked where it was made. */
function checkAfter(plan: Plan, changes: readonly Change[]): PlanError[] {
  const devices = new Set<string>();
  let watches = false;
  for (const change of changes) {
    const own =
      change.in === "policy-table" || (change.in === "device" && OWN_COLLECTIONS.has(change.collection));
    if (!own) return checkReferences(plan);
    devices.add(change.device);
    watches ||= change.in === "device" && change.collection === "watches";
  }
  return checkWithin(plan, devices, watches);
}

function refuse(path: string, message: string): ChangeOutcome {
  return { ok: false, errors: [{ path, message }] };
}

function applyChange(plan: Plan, change: Change): ChangeOutcome {
  if (change.in === "plan-settings") {
    const settled = settle(planSettingsSchema, planSettingsOf(plan), change, "the plan's settings", "");
    if (!settled.ok) return settled;
    const { description: _old, ...rest } = plan;
    return { ok: true, plan: { ...rest, ...(settled.value as object) } as Plan };
  }
  if (change.in === "plan") {
    const collection = planCollections[change.collection];
    const items = change.collection === "devices" ? plan.devices : plan[change.collection];
    const next = applyToItems(items, change, collection, "the plan", change.collection);
    return next.ok
      ? { ok: true, plan: { ...plan, [change.collection]: next.items }, index: next.index }
      : next;
  }
  const at = plan.devices.findIndex((device) => device.id === change.device);
  if (at < 0) return refuse("devices", `the device ${change.device} is no longer in the plan`);
  const device = plan.devices[at];
  const outcome = applyToDevice(device, change);
  if (!outcome.ok) return outcome;
  return {
    ok: true,
    plan: { ...plan, devices: plan.devices.with(at, outcome.device) },
    index: outcome.index,
  };
}

type DeviceOutcome = { ok: true; device: Device; index?: number } | { ok: false; errors: PlanError[] };

function applyToDevice(
  device: Device,
  change: Exclude<Change, { in: "plan" | "plan-settings" }>,
): DeviceOutcome {
  const path = `devices.${device.id}`;
  if (change.in === "device-settings") {
    const settled = settle(
      deviceSettingsSchema,
      settingsOf(device),
      change,
      `the settings of ${device.id}`,
      path,
    );
    if (!settled.ok) return settled;
    const { interfaces, routes, learned, policyTables, sourceNat, watches } = device;
    const collections = { interfaces, routes, learned, policyTables, sourceNat, watches };
    return { ok: true, device: { ...(settled.value as Device), ...collections } };
  }
  if (change.in === "device") {
    const collection = deviceCollections[change.collection];
    const next = applyToItems(
      device[change.collection],
      change,
      collection,
      device.id,
      `${path}.${change.collection}`,
    );
    return next.ok
      ? { ok: true, device: { ...device, [change.collection]: next.items }, index: next.index }
      : next;
  }
  const at = device.policyTables.findIndex((table) => table.name === change.table);
  if (at < 0) {
    return {
      ok: false,
      errors: [{ path, message: `${device.id} no longer has the policy table ${change.table}` }],
    };
  }
  const table = device.policyTables[at];
  const where = `table ${table.name} of ${device.id}`;
  const next = applyToItems(
    table.routes,
    change,
    deviceCollections.routes,
    where,
    `${path}.policyTables.${table.name}`,
  );
  if (!next.ok) return next;
  const policyTables = device.policyTables.with(at, { ...table, routes: next.items as typeof table.routes });
  return { ok: true, device: { ...device, policyTables }, index: next.index };
}

/** Checks a setting's value before and reads the one after. */
function settle(
  schema: z.ZodType,
  now: unknown,
  change: { before?: unknown; after?: unknown },
  what: string,
  path: string,
): { ok: true; value: unknown } | { ok: false; errors: PlanError[] } {
  if (!sameValue(now, change.before)) {
    return { ok: false, errors: [{ path, message: `${what} have been changed since` }] };
  }
  const parsed = schema.safeParse(change.after, { reportInput: true });
  if (!parsed.success) return { ok: false, errors: errorsOfIssues(parsed.error.issues, [path]) };
  return { ok: true, value: parsed.data };
}

const keys = new WeakMap<object, string>();

/** The key of an item, cached: items are never changed in place. */
function keyOf(collection: Collection, item: unknown): string {
  if (typeof item !== "object" || item === null) return collection.key(item);
  let key = keys.get(item);
  if (key === undefined) {
    key = collection.key(item);
    keys.set(item, key);
  }
  return key;
}

type ItemsOutcome = { ok: true; items: unknown[]; index: number } | { ok: false; errors: PlanError[] };

function applyToItems(
  items: readonly unknown[],
  change: { before?: unknown; after?: unknown; index?: number },
  collection: Collection,
  owner: string,
  path: string,
): ItemsOutcome {
  const fail = (message: string): ItemsOutcome => ({ ok: false, errors: [{ path, message }] });
  let after: unknown = null;
  if (change.after !== null && change.after !== undefined) {
    const parsed = collection.schema.safeParse(change.after, { reportInput: true });
    if (!parsed.success) return { ok: false, errors: errorsOfIssues(parsed.error.issues, [path]) };
    after = parsed.data;
  }
  if (change.before === null || change.before === undefined) {
    if (after === null) return fail("a change needs a before or an after");
    const key = collection.key(after);
    if (items.some((item) => keyOf(collection, item) === key)) {
      return fail(`${nameItem(collection, after)} is already on ${owner}`);
    }
    const index = Math.min(change.index ?? items.length, items.length);
    return { ok: true, items: items.toSpliced(index, 0, after), index };
  }
  const before = collection.schema.safeParse(change.before);
  if (!before.success) return fail(`this is not a valid ${collection.noun}`);
  const key = collection.key(before.data);
  const at = items.findIndex((item) => keyOf(collection, item) === key);
  if (at < 0) return fail(`${nameItem(collection, before.data)} is no longer on ${owner}`);
  if (!sameValue(items[at], before.data)) {
    return fail(`${nameItem(collection, before.data)} on ${owner} has been changed since`);
  }
  if (after === null) return { ok: true, items: items.toSpliced(at, 1), index: at };
  const newKey = collection.key(after);
  if (items.some((item, i) => i !== at && collection.key(item) === newKey)) {
    return fail(`${nameItem(collection, after)} is already on ${owner}`);
  }
  return { ok: true, items: items.with(at, after), index: at };
}

/** An item as one would name it: "the route 10.0.0.0/8 via 192.0.2.1". */
export function nameItem(collection: Collection, item: unknown): string {
  const route = staticRouteSchema.safeParse(item);
  return `the ${collection.noun} ${route.success ? describeRoute(route.data) : collection.key(item)}`;
}

/** Whether two plan values say the same: by their keys and items, absent and undefined alike. */
export function sameValue(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  if (Array.isArray(a) && Array.isArray(b)) {
    return a.length === b.length && a.every((item, i) => sameValue(item, b[i]));
  }
  const left = a as Record<string, unknown>;
  const right = b as Record<string, unknown>;
  const keys = new Set([...Object.keys(left), ...Object.keys(right)]);
  return [...keys].every((key) => sameValue(left[key], right[key]));
}
