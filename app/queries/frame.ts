import { answeringNow, elementCount, sourceCodes } from "../../core/network/index.ts";
import { stateCodes } from "../../core/routes/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import { asIfInService } from "../../core/settle/index.ts";
import type { World } from "../../core/walk/index.ts";
import type { Conditions, PageConditions } from "./conditions.ts";
import { type FlowSummary, summariseFlows } from "./flows.ts";

export interface GatewayView {
  id: string;
  label: string;
  device: string;
  interface: string;
}

/** What every page of a plan shows around its own answer: the rail, the conditions, the flows. */
export interface Frame {
  planName: string;
  conditions: Conditions;
  flows: FlowSummary[];
  gateways: GatewayView[];
  devices: { id: string; label: string; site: string }[];
  /** Links with a label different from their id. */
  links: { id: string; label: string }[];
  /** Risks and sites, which fail whole, and links that only carry others: what fails and is not drawn. */
  fates: { ref: string; label: string }[];
  counts: { devices: number; elements: number; broken: number; unusable: number };
  /** Watches that never come to rest under these conditions. */
  flapping: boolean;
}

export function frameOf(model: Scenario, { told, scenario }: PageConditions): Frame {
  const { network } = model.engine;
  const flows = summariseFlows(model, scenario);
  return {
    planName: model.plan.name,
    conditions: told,
    flows,
    gateways: model.gateways.map((gateway) => {
      // On an interface that a pair shares, it stands with the member that is active.
      const i = answeringNow(network, scenario.world.state.roles, gateway.interface);
      return {
        id: gateway.id,
        label: gateway.label,
        device: network.devices[network.interfaces.device[i]].id,
        interface: network.interfaces.names[i],
      };
    }),
    devices: network.devices.map((device) => ({
      id: device.id,
      label: device.label,
      site: model.plan.devices[device.index].site ?? "",
    })),
    links: model.plan.links.flatMap(({ id, label }) => (label && label !== id ? [{ id, label }] : [])),
    fates: [
      ...network.fates.map(({ ref, label }) => ({ ref, label })),
      ...model.plan.links
        .filter(({ ends }) => ends.length === 0)
        .map(({ id, label }) => ({ ref: `link:${id}`, label: label ?? id })),
    ],
    counts: {
      devices: network.devices.length,
      elements: elementCount(network),
      broken: flows.filter((flow) => !flow.fine && flow.verdict !== "unknown").length,
      unusable: countUnusable(scenario.world),
    },
    flapping: scenario.settled.flapping.length > 0,
  };
}

/** Written and learned routes that are unusable now, on all devices; standby members count as if active. */
function countUnusable(world: World): number {
  const { network } = world.state;
  const { candidates } = network;
  let count = 0;
  for (const device of network.devices) {
    const tables = asIfInService(world, device.index).tablesOf(device.index);
    for (let c = device.firstCandidate; c < device.endCandidate; c++) {
      const written =
        candidates.source[c] === sourceCodes.static || candidates.source[c] === sourceCodes.learned;
      if (written && tables.state[c - device.firstCandidate] === stateCodes.unusable) count++;
    }
  }
  return count;
}
