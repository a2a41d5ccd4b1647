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

/** How often what contradicts is taken out before it is given up: one thing may hide another. */
const MAX_ROUNDS = 5;

export type Sound = { ok: true; plan: Plan; leftOut: PlanError[] } | { ok: false; errors: PlanError[] };

/**
 * Reads a document that devices' own words made. Where one of them contradicts the others, a route out of an interface
 * of another VRF, say, that alone is left out and told: nothing that a device says stops the rest.
 */
export function readSoundly(given: Document & Record<string, unknown>): Sound {
  const leftOut: PlanError[] = [];
  let document = given;
  for (let round = 0; ; round++) {
    const reading = readPlan(document);
    if (reading.ok) return { ok: true, plan: reading.plan, leftOut };
    const items = new Set(reading.errors.map(({ path }) => itemOn(path)));
    if (items.has(null) || round === MAX_ROUNDS) return reading;
    leftOut.push(...reading.errors);
    // What is taken out is taken out of a copy: parts of the document may be somebody else's.
    if (document === given) document = structuredClone(given);
    // From the end on, so that the places of those before stay what they are.
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

/** What was left out, told beside the lines: it stands in no file, but in what was made of them. */
export function leftOutFate({ path, message }: PlanError): LineFate {
  return { file: "", line: 0, text: path, fate: "doubtful", detail: `omitted: ${message}` };
}
