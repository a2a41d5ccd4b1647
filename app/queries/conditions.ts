import { LRUCache } from "lru-cache";
import { findElement } from "../../core/network/index.ts";
import { type Outage, parseElement } from "../../core/plan/index.ts";
import { eventTexts } from "../../core/reports/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { Looked, MomentAsked } from "../search/looked.ts";

/** Something that is down, as a plate in the conditions bar. */
export interface Plate {
  ref: string;
  label: string;
  kind: "link" | "device" | "interface" | "watch" | "risk" | "site";
}

export interface Conditions {
  plates: Plate[];
  /** References that name nothing in this plan. */
  unknown: string[];
  /** The outage in the middle of which all is shown; null where the network has settled. */
  moment: MomentNotice | null;
}

/** How far an outage has come, in its longest case. Times in milliseconds from its first failure. */
export interface MomentNotice {
  label: string;
  atMs: number;
  stops: number[];
  /** The latest events. */
  events: string[];
}

/** The conditions of a page, and the network under them: computed once for the whole page. */
export interface PageConditions {
  readonly told: Conditions;
  readonly scenario: Scenario;
}

const KEPT = 6;
const known = new WeakMap<Scenario, LRUCache<string, PageConditions>>();

/** The conditions in a page's address; cached, because a page's parts and its next keystroke share them. */
export function conditionsOf(model: Scenario, looked: Looked): PageConditions {
  const held = known.get(model) ?? new LRUCache<string, PageConditions>({ max: KEPT });
  known.set(model, held);
  const key = JSON.stringify([[...new Set(looked.down)], looked.moment]);
  const found = held.get(key) ?? readConditions(model, looked);
  held.set(key, found);
  return found;
}

function readConditions(model: Scenario, { down, moment }: Looked): PageConditions {
  const told: Conditions = { plates: [], unknown: [], moment: null };
  for (const ref of new Set(down)) {
    if (findElement(model.network, ref) === null) told.unknown.push(ref);
    else told.plates.push(plateOf(model, ref));
  }
  const stopped = moment && stoppedAt(model, down, moment);
  if (!stopped) return { told, scenario: model.under(down) };
  return { told: { ...told, moment: stopped.told }, scenario: stopped.scenario };
}

/** The network at a moment of an outage; null where the plan has no such outage, or nothing fails. */
function stoppedAt(model: Scenario, down: readonly string[], moment: MomentAsked) {
  const steps = outageSteps(model, moment);
  if (!steps) return null;
  const stopped = model.under(standingDown(down, steps)).at(steps, moment.atMs);
  const saved = model.plan.outages.find((entry) => entry.id === moment.outage);
  const label = saved
    ? (saved.label ?? saved.id)
    : moment.fail.map((ref) => plateOf(model, ref).label).join(", ");
  const told: MomentNotice = {
    label,
    atMs: moment.atMs,
    stops: [...stopped.stops],
    events: eventTexts(model, stopped),
  };
  return { scenario: stopped.scenario, told };
}

/** The steps of an outage: a saved one's, or elements that fail together and may be restored; null without any. */
export function outageSteps(
  p: Pick<Scenario, "plan">,
  { outage, fail, healMs }: Omit<MomentAsked, "atMs">,
): Outage["steps"] | null {
  if (outage !== "") return p.plan.outages.find((entry) => entry.id === outage)?.steps ?? null;
  if (fail.length === 0) return null;
  return [{ atMs: 0, fail }, ...(healMs === null ? [] : [{ atMs: healMs, restore: fail }])];
}

/** The elements down before an outage begins: the conditions without those that the outage itself fails. */
export function standingDown(down: readonly string[], steps: Outage["steps"]): string[] {
  const failing = new Set(steps.flatMap((step) => [...(step.fail ?? []), ...(step.shut ?? [])]));
  return down.filter((ref) => !failing.has(ref));
}

export function plateOf(model: Scenario, ref: string): Plate {
  const element = parseElement(ref);
  const { plan } = model;
  if (!element) return { ref, label: ref, kind: "link" };
  const device = (id: string) => plan.devices.find((d) => d.id === id)?.label ?? id;
  switch (element.kind) {
    case "link":
      return { ref, kind: "link", label: plan.links.find((l) => l.id === element.id)?.label ?? element.id };
    case "direction": {
      const link = plan.links.find((l) => l.id === element.link)?.label ?? element.link;
      return { ref, kind: "link", label: `${link} towards ${device(element.device)}` };
    }
    case "device":
      return { ref, kind: "device", label: device(element.id) };
    case "interface":
      return { ref, kind: "interface", label: `${device(element.device)} ${element.name}` };
    case "watch":
      return { ref, kind: "watch", label: `${device(element.device)}, watch ${element.id}` };
    case "risk":
      return { ref, kind: "risk", label: plan.risks.find((r) => r.id === element.id)?.label ?? element.id };
    case "site":
      return { ref, kind: "site", label: `all of ${element.id}` };
  }
}
