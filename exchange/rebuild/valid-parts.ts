import { type Plan, type PlanError, readPlan } from "../../core/plan/index.ts";
import type { LineFate } from "../facts/index.ts";

/** A document whose lists can lose an item that contradicts the others. */
export interface Document {
  devices: object[];
  links: object[];
}

/** The lists that may lose an item, by how deep they lie in the document. */
const LISTS: readonly ReadonlySet<string>[] = [
  new Set(["devices", "links", "profiles", "gateways", "flows", "outages", "dismissals"]),
  new Set(["interfaces", "routes", "learned", "sourceNat", "destNat", "marks", "policyTables"]),
  new Set(["addresses", "routes"]),
];

/** The deepest item of such a list that a path leads through, as "devices[2].routes[0]"; null where it leads through none. */
function itemOn(path: string): string | null {
  const steps = path.split(".");
  let depth = 0;
  while (depth < Math.min(steps.length, LISTS.length)) {
    const [list, place] = steps[depth].split("[");
    if (place === undefined || !LISTS[depth].has(list)) break;
    depth++;
  }
  return depth > 0 ? steps.slice(0, depth).join(".") : null;
}

/** The most rounds of removing contradictions: one may hide another. */
const MAX_ROUNDS = 5;

export type ValidReading =
  | { ok: true; plan: Plan; leftOut: PlanError[] }
  | { ok: false; errors: PlanError[] };

/** Reads a document made from readings. An item that contradicts the others, such as a route out of another VRF's
 * interface, is left out and reported; nothing else is affected. */
export function readValidParts(given: Document & Record<string, unknown>): ValidReading {
  const leftOut: PlanError[] = [];
  let document = given;
  for (let round = 0; ; round++) {
    const reading = readPlan(document);
    if (reading.ok) return { ok: true, plan: reading.plan, leftOut };
    const items = new Set(reading.errors.map(({ path }) => itemOn(path)));
    if (items.has(null) || round === MAX_ROUNDS) return reading;
    leftOut.push(...reading.errors);
    // Removals are made in a copy: parts of the document may belong to the caller.
    if (document === given) document = structuredClone(given);
    // In reverse order, so that earlier positions remain valid.
    const deepest = [...items]
      .flatMap((item) => item ?? [])
      .sort((a, b) => b.localeCompare(a, "en", { numeric: true }));
    for (const item of deepest) removeAt(document, item);
  }
}

/** Removes what a path such as "devices[2].routes[0]" names. */
function removeAt(document: Document, item: string) {
  let holder: unknown = document;
  const steps = item.split(".").map((step) => step.slice(0, -1).split("["));
  for (const [n, [list, place]] of steps.entries()) {
    const items = (holder as Record<string, unknown[]>)[list];
    if (n === steps.length - 1) items.splice(Number(place), 1);
    else holder = items[Number(place)];
  }
}

/** The report of an omitted item: it belongs to the result rather than to a file's line. */
export function leftOutFate({ path, message }: PlanError): LineFate {
  return { file: "", line: 0, text: path, fate: "doubtful", detail: `omitted: ${message}` };
}
