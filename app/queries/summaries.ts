import { groupsAlike, routesWithin, type SummaryAnswer, summaryOf } from "../../core/authoring/index.ts";
import { describeRoute, routeIdentity } from "../../core/plan/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { Looked } from "../search/looked.ts";

/** The selection to summarize: routes by identity, or a block that contains them. */
export interface Picked {
  routes: string[];
  block: string;
}

export interface SummariesAnswer {
  /** Devices with the number of routes that could be written together. */
  devices: { id: string; label: string; alike: number }[];
  device: string;
  /** Routes that go the same way, by groups, the largest first. */
  groups: { way: string; routes: { identity: string; to: string; note: string }[] }[];
  /** Identities of the routes that are chosen. */
  chosen: string[];
  block: string;
  summary: SummaryAnswer | null;
}

/** What can be written shorter on a device, and what that would cover. */
export function summariesAnswer(
  p: Scenario,
  looked: Looked,
  wanted: string,
  picked: Picked,
): SummariesAnswer {
  const scenario = p.under(looked.down);
  const devices = p.plan.devices
    .filter((device) => device.role !== "host" && device.routes.length > 0)
    .map((device) => ({
      id: device.id,
      label: device.label ?? device.id,
      alike: groupsAlike(scenario, device.id).reduce((sum, group) => sum + group.length, 0),
    }))
    .sort((a, b) => b.alike - a.alike);
  const device = devices.find((entry) => entry.id === wanted)?.id ?? devices[0]?.id ?? "";
  const groups = groupsAlike(scenario, device);
  const inBlock = picked.block ? routesWithin(scenario, device, picked.block).map(routeIdentity) : [];
  const chosen = picked.routes.length
    ? picked.routes
    : picked.block
      ? inBlock
      : (groups[0] ?? []).map(routeIdentity);
  return {
    devices,
    device,
    groups: groups.map((group) => ({
      way: describeRoute({ ...group[0], to: "" }).trim(),
      routes: group.map((route) => ({
        identity: routeIdentity(route),
        to: route.to,
        note: route.note ?? "",
      })),
    })),
    chosen,
    block: picked.block,
    summary: device && chosen.length > 0 ? summaryOf(scenario, device, chosen) : null,
  };
}
