import { type ElementNumber, findElement } from "../../core/network/index.ts";
import type { Settled } from "../../core/outage/index.ts";
import { settle } from "../../core/outage/index.ts";
import { parseElement } from "../../core/plan/index.ts";
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
}

/** The conditions of a page with the network settled under them: worked out once for all that it shows. */
export interface Under {
  readonly told: Conditions;
  readonly settled: Settled;
}

export function conditionsOf(prepared: Prepared, down: readonly string[]): Under {
  const elements: ElementNumber[] = [];
  const told: Conditions = { plates: [], unknown: [] };
  for (const ref of new Set(down)) {
    const element = findElement(prepared.engine.network, ref);
    if (element === null) {
      told.unknown.push(ref);
      continue;
    }
    elements.push(element);
    told.plates.push(plateOf(prepared, ref));
  }
  return { told, settled: settle(prepared.engine, elements) };
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
