import { addTo } from "../collections/index.ts";
import { type Plan, parseElement, sitesOf } from "../plan/index.ts";
import type { FateRecord } from "./network.ts";

/** What fails together (rule 16.2): the plan's risks, then its sites, each with the elements that it takes along. */
export function compileFates(plan: Plan, interfaceIndex: ReadonlyMap<string, number>): FateRecord[] {
  const devices = new Map(plan.devices.map((device, d) => [device.id, d]));
  const links = new Map(plan.links.map((link, l) => [link.id, l]));
  const firstDevice = plan.links.length;
  const firstInterface = firstDevice + plan.devices.length;
  const atSite = new Map<string, number[]>();
  for (const [d, { site }] of plan.devices.entries())
    if (site !== undefined) addTo(atSite, site, firstDevice + d);
  const elementsOf = (text: string): readonly number[] => {
    const element = parseElement(text);
    switch (element?.kind) {
      case "link":
        return [links.get(element.id) as number];
      case "device":
        return [firstDevice + (devices.get(element.id) as number)];
      case "interface":
        return [firstInterface + (interfaceIndex.get(`${element.device}/${element.name}`) as number)];
      case "site":
        return atSite.get(element.id) ?? [];
      default:
        return [];
    }
  };
  return [
    ...plan.risks.map((risk) => ({
      ref: `risk:${risk.id}`,
      label: risk.label ?? risk.id,
      elements: [...new Set(risk.of.flatMap(elementsOf))].sort((a, b) => a - b),
    })),
    ...sitesOf(plan).map((site) => ({
      ref: `site:${site}`,
      label: site,
      elements: atSite.get(site) ?? [],
    })),
  ];
}

/** Whether the same things fail together in two plans of the same links, devices and interfaces. */
export function sameFates(a: Plan, b: Plan): boolean {
  return a.risks === b.risks && a.devices.every((device, d) => device.site === b.devices[d].site);
}
