import { deviceCollections, planCollections } from "./collections.ts";
import { type Change, nameItem, sameValue } from "./edit.ts";

/** The device that a change is of; null for links, flows and what else is of none. */
export function deviceOfChange(change: Change): string | null {
  if ("device" in change) return change.device;
  const isDevice = change.in === "plan" && change.collection === "devices";
  return isDevice ? ((change.after ?? change.before) as { id: string }).id : null;
}

/** A change as a sentence: "Add the route 10.0.0.0/8 via 192.0.2.1 on edge: distance 20"; of what is changed, what differs. */
export function describeChange(change: Change): string {
  const { before, after } = change;
  const differs = after ? differing(before ?? {}, after, before ? NONE : NAMED) : "";
  if (change.in === "plan-settings") return `Change the plan's name and description${differs}`;
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

/** The fields in which two items differ, as they are after; those that are told already left out. */
function differing(before: object, after: object, told: ReadonlySet<string>): string {
  const [a, b] = [before, after] as Record<string, unknown>[];
  const keys = [...new Set([...Object.keys(a), ...Object.keys(b)])].filter(
    (key) =>
      !told.has(key) &&
      !sameValue(a[key], b[key]) &&
      !(Array.isArray(b[key]) && b[key].length === 0 && !a[key]),
  );
  if (keys.length === 0) return "";
  const text = (value: unknown) => {
    const plain = Array.isArray(value) && value.every((item) => typeof item !== "object");
    const whole = plain
      ? value.join(", ")
      : typeof value === "object"
        ? JSON.stringify(value)
        : String(value);
    return whole.length > LONGEST ? `${whole.slice(0, LONGEST)}…` : whole;
  };
  return `: ${keys.map((key) => (b[key] === undefined ? `without ${key}` : `${key} ${text(b[key])}`)).join(", ")}`;
}
