import { standingUnder } from "../../core/effect/index.ts";
import { type ElementNumber, findElement } from "../../core/network/index.ts";
import type { Settled } from "../../core/outage/index.ts";
import { settle } from "../../core/outage/index.ts";
import { type Outage, parseElement } from "../../core/plan/index.ts";
import { momentOf, stepsOf } from "../../core/reports/index.ts";
import type { Looked, MomentAsked } from "../search/looked.ts";
import type { Prepared } from "./engines.ts";

/** Something that is down, as a plate in the conditions bar. */
export interface Plate {
  ref: string;
  label: string;
  kind: "link" | "device" | "interface" | "watch";
}

export interface Conditions {
  plates: Plate[];
  /** References that name nothing in this plan. */
  unknown: string[];
  /** The outage in the middle of which all is shown; null where the network has settled. */
  moment: MomentTold | null;
}

/** How far an outage has come, in its longest case. Times in milliseconds from its first failure. */
export interface MomentTold {
  label: string;
  atMs: number;
  stops: number[];
  /** What has just happened. */
  events: string[];
}

/** The conditions of a page with the network settled under them: worked out once for all that it shows. */
export interface Under {
  readonly told: Conditions;
  readonly settled: Settled;
}

const KEPT = 6;
const known = new WeakMap<Prepared["engine"], Map<string, Under>>();

/** What a page's address says of the conditions; remembered, for a page's parts and its next keystroke ask alike. */
export function conditionsOf(prepared: Prepared, { down, moment }: Looked): Under {
  let held = known.get(prepared.engine);
  if (!held) {
    held = new Map();
    known.set(prepared.engine, held);
  }
  const key = JSON.stringify([[...new Set(down)], moment]);
  const found = held.get(key) ?? settledUnder(prepared, { down, moment });
  held.delete(key);
  held.set(key, found);
  if (held.size > KEPT) held.delete(held.keys().next().value as string);
  return found;
}

function settledUnder(prepared: Prepared, { down, moment }: Looked): Under {
  const elements: ElementNumber[] = [];
  const told: Conditions = { plates: [], unknown: [], moment: null };
  for (const ref of new Set(down)) {
    const element = findElement(prepared.engine.network, ref);
    if (element === null) {
      told.unknown.push(ref);
      continue;
    }
    elements.push(element);
    told.plates.push(plateOf(prepared, ref));
  }
  const stopped = moment && stoppedAt(prepared, down, moment);
  if (!stopped) return { told, settled: settle(prepared.engine, elements) };
  told.moment = stopped.told;
  return { told, settled: { world: stopped.world, flapping: [], selfTunnels: new Set() } };
}

/** The network at a moment of an outage; null where the plan has no such outage, or nothing fails. */
function stoppedAt(p: Prepared, down: readonly string[], moment: MomentAsked) {
  const steps = outageSteps(p, moment);
  if (!steps) return null;
  const { engine, gateways } = standingUnder(p, standingDown(down, steps));
  const { world, stops, events } = momentOf(engine, gateways, stepsOf(engine, { steps }), moment.atMs);
  const saved = p.plan.outages.find((entry) => entry.id === moment.outage);
  const label = saved
    ? (saved.label ?? saved.id)
    : moment.fail.map((ref) => plateOf(p, ref).label).join(", ");
  return { world, told: { label, atMs: moment.atMs, stops: [...stops], events: [...events] } };
}

/** The steps of an outage: a saved one's, or of elements that fail at once and perhaps heal; null where there are none. */
export function outageSteps(
  p: Prepared,
  { outage, fail, healMs }: Omit<MomentAsked, "atMs">,
): Outage["steps"] | null {
  if (outage !== "") return p.plan.outages.find((entry) => entry.id === outage)?.steps ?? null;
  if (fail.length === 0) return null;
  return [{ atMs: 0, fail }, ...(healMs === null ? [] : [{ atMs: healMs, restore: fail }])];
}

/** What is down before an outage begins: the conditions, without what the outage itself makes fail. */
export function standingDown(down: readonly string[], steps: Outage["steps"]): string[] {
  const failing = new Set(steps.flatMap((step) => step.fail ?? []));
  return down.filter((ref) => !failing.has(ref));
}

export function plateOf(prepared: Prepared, ref: string): Plate {
  const element = parseElement(ref);
  const { plan } = prepared;
  if (!element) return { ref, label: ref, kind: "link" };
  const device = (id: string) => plan.devices.find((d) => d.id === id)?.label ?? id;
  switch (element.kind) {
    case "link":
      return { ref, kind: "link", label: plan.links.find((l) => l.id === element.id)?.label ?? element.id };
    case "device":
      return { ref, kind: "device", label: device(element.id) };
    case "interface":
      return { ref, kind: "interface", label: `${device(element.device)} ${element.name}` };
    case "watch":
      return { ref, kind: "watch", label: `${device(element.device)}, watch ${element.id}` };
  }
}
