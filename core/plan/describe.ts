import { deviceCollections, planCollections } from "./collections.ts";
import { type Change, nameItem, sameValue } from "./edit.ts";
import { fieldValue, fieldWord, watchPhrase } from "./field-words.ts";
import { staticRouteSchema } from "./route.ts";
import type { Watch } from "./watch.ts";

/** The device that a change is of; null for links, flows and what else is of none. */
export function deviceOfChange(change: Change): string | null {
  if ("device" in change) return change.device;
  const isDevice = change.in === "plan" && change.collection === "devices";
  return isDevice ? ((change.after ?? change.before) as { id: string }).id : null;
}

/** A change as a sentence: "Add the route 10.0.0.0/8 via 192.0.2.1 on edge: distance 20". For a changed item, its
 * differences. */
export function describeChange(change: Change): string {
  const { before, after } = change;
  const differs = after ? differing(before ?? {}, after, before ? NONE : NAMED) : "";
  if (change.in === "plan-settings") return `Change the plan's settings${differs}`;
  if (change.in === "device-settings") return `Change the settings of ${change.device}${differs}`;
  const collection =
    change.in === "plan"
      ? planCollections[change.collection]
      : change.in === "device"
        ? deviceCollections[change.collection]
        : deviceCollections.routes;
  const where =
    change.in === "plan"
      ? ""
      : change.in === "device"
        ? ` on ${change.device}`
        : ` in the table ${change.table} of ${change.device}`;
  const verb = before ? (after ? "Change" : "Remove") : "Add";
  return `${verb} ${nameItem(collection, before ?? after)}${where}${differs}`;
}

/** Fields that the name of an item tells already. */
const NAMED: ReadonlySet<string> = new Set([
  "id",
  "name",
  "to",
  "via",
  "viaFrom",
  "out",
  "discard",
  "toVrf",
  "vrf",
]);
const NONE: ReadonlySet<string> = new Set();

/** Characters of a field that a sentence holds. */
const LONGEST = 200;

/** The fields in which two items differ, with their new values, without the fields already mentioned. */
function differing(before: object, after: object, told: ReadonlySet<string>): string {
  const [a, b] = [before, after] as Record<string, unknown>[];
  const keys = [...new Set([...Object.keys(a), ...Object.keys(b)])].filter(
    (key) =>
      !told.has(key) &&
      !sameValue(a[key], b[key]) &&
      !(Array.isArray(b[key]) && b[key].length === 0 && !a[key]),
  );
  if (keys.length === 0) return "";
  return `: ${keys.map((key) => (b[key] === undefined ? `without ${fieldWord(key)}` : phraseOf(key, cut(wordsOf(a[key], b[key], key))))).join(", ")}`;
}

/** A field with its value; of a switch that is on its word alone, of one that is off "no" and its word. */
function phraseOf(key: string, value: string): string {
  if (value === "true") return fieldWord(key);
  return value === "false" ? `no ${fieldWord(key)}` : `${fieldWord(key)} ${value}`;
}

/**
 * An item of a change in a line: a route as its route line would be, a watch as "far-a: BFD session to …", anything else by
 * its fields.
 * @param routeLine how routes are written
 */
export function describeItem(
  change: Change,
  item: object,
  routeLine: (route: ReturnType<typeof staticRouteSchema.parse>) => string,
): string {
  if (change.in === "policy-table" || (change.in === "device" && change.collection === "routes")) {
    const route = staticRouteSchema.safeParse(item);
    if (route.success) return routeLine(route.data);
  }
  if (change.in === "device" && change.collection === "watches")
    return cut(`${(item as Watch).id}: ${watchPhrase(item as Watch)}`);
  return cut(wordsOf(undefined, item));
}

/** A value in words: of a list of items those that differ from the ones before, of an item its fields. */
function wordsOf(before: unknown, after: unknown, name = ""): string {
  if (Array.isArray(after)) return wordsOfList(Array.isArray(before) ? before : [], after);
  if (typeof after !== "object" || after === null) return fieldValue(name, after);
  const was: Record<string, unknown> = typeof before === "object" && before !== null ? { ...before } : {};
  const fields = Object.entries(after).filter(
    ([key, value]) =>
      !sameValue(was[key], value) && !(Array.isArray(value) && value.length === 0 && !was[key]),
  );
  const gone = Object.keys(was).filter((key) => !(key in after));
  const kept = fields.map(([key, value]) =>
    key in NAMING ? wordsOf(undefined, value) : phraseOf(key, wordsOf(was[key], value, key)),
  );
  return [...kept, ...gone.map((key) => `without ${fieldWord(key)}`)].join(" ");
}

/** Lists of plain values are given in full; for named items, those added, changed and removed. */
function wordsOfList(before: readonly unknown[], after: readonly unknown[]): string {
  if (!after.some((item) => typeof item === "object")) return after.join(", ") || "none";
  const left = [...before];
  const take = (fits: (item: unknown) => boolean) => {
    const at = left.findIndex(fits);
    return at < 0 ? undefined : left.splice(at, 1)[0];
  };
  const open = after.filter((item) => take((one) => sameValue(one, item)) === undefined);
  const told = open.map((item) => {
    const name = nameOf(item);
    const was = name === null ? undefined : take((one) => nameOf(one) === name);
    return was === undefined ? `(${wordsOf(undefined, item)})` : `(${name} ${wordsOf(was, item)})`;
  });
  const gone = left.map((item) => `without (${nameOf(item) ?? wordsOf(undefined, item)})`);
  return [...told, ...gone].join(", ") || "reordered";
}

/** Fields by which an item in a list is known. */
const NAMING = { id: true, name: true } as const;

function nameOf(item: unknown): string | null {
  if (typeof item !== "object" || item === null) return null;
  const { id, name } = item as { id?: unknown; name?: unknown };
  return id === undefined && name === undefined ? null : String(id ?? name);
}

function cut(whole: string): string {
  return whole.length > LONGEST ? `${whole.slice(0, LONGEST)}…` : whole;
}
