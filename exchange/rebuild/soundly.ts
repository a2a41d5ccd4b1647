import { type Plan, type PlanError, readPlan } from "../../core/plan/index.ts";
import type { LineFate } from "../facts/index.ts";

/** A document whose lists can lose an item that contradicts the others. */
export interface Document {
  devices: object[];
  links: object[];
}

const ITEM =
  /^(devices|links|profiles|gateways|flows|outages|dismissals)\[(\d+)\](?:\.(interfaces|routes|learned|sourceNat|policyTables)\[(\d+)\](?:\.(addresses|routes)\[(\d+)\])?)?/;

/** How often what contradicts is taken out before it is given up: one thing may hide another. */
const MOST_ROUNDS = 5;

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
    const items = new Set(reading.errors.flatMap(({ path }) => ITEM.exec(path)?.[0] ?? []));
    const placed = reading.errors.every(({ path }) => ITEM.test(path));
    if (!placed || round === MOST_ROUNDS) return reading;
    leftOut.push(...reading.errors);
    // What is taken out is taken out of a copy: parts of the document may be somebody else's.
    if (document === given) document = structuredClone(given);
    // From the end on, so that the places of those before stay what they are.
    const deepest = [...items].sort((a, b) => b.localeCompare(a, "en", { numeric: true }));
    for (const item of deepest) removeAt(document, item);
  }
}

function removeAt(document: Document, item: string) {
  const [, list, at, inner, place, inmost, spot] = ITEM.exec(item) ?? [];
  const outer = document[list as keyof Document];
  const holder = outer[Number(at)] as Record<string, unknown[]> | undefined;
  if (inner === undefined || !holder) outer.splice(Number(at), 1);
  else if (inmost === undefined) holder[inner].splice(Number(place), 1);
  else (holder[inner][Number(place)] as Record<string, unknown[]>)[inmost].splice(Number(spot), 1);
}

/** What was left out, told beside the lines: it stands in no file, but in what was made of them. */
export function leftOutFate({ path, message }: PlanError): LineFate {
  return { file: "", line: 0, text: path, fate: "doubtful", detail: `omitted: ${message}` };
}
