import { formatAddress } from "../../core/address/index.ts";
import { onceFor } from "../../core/collections/index.ts";
import { addressesOf, formatElement, type Network } from "../../core/network/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import { endLabels } from "../drawing/labels.ts";
import { type Trunk, trunksOf } from "../drawing/trunks.ts";
import type { Looked } from "../search/looked.ts";
import { conditionsOf, type PageConditions } from "./conditions.ts";
import { answerFlow, type FlowOutcome, type FlowQuery } from "./flows.ts";

export interface MapDevice {
  id: string;
  label: string;
  role: string;
  site: string;
  up: boolean;
  /** Only seen from afar: drawn dashed. */
  outline: boolean;
  place: { x: number; y: number } | null;
}

export interface MapEnd {
  device: string;
  interface: string;
  /** As written at the link's end, cut to what tells the ends apart. */
  text: string;
  addresses: string[];
  up: boolean;
}

export interface MapLink {
  id: string;
  label: string;
  medium: string;
  /** Whether the link itself is down. */
  down: boolean;
  ends: MapEnd[];
}

/** Two devices that are one to their neighbours, and which of them carries now. */
export interface MapPair {
  id: string;
  label: string;
  members: string[];
  active: string[];
}

export interface MapAnswer {
  devices: MapDevice[];
  pairs: MapPair[];
  /** Links that can be drawn as one line. */
  trunks: readonly Trunk[];
  links: MapLink[];
  flow: FlowOutcome;
}

/** The topology, and the path of the selected flow. */
export function mapAnswer(model: Scenario, looked: Looked, asked: FlowQuery): MapAnswer {
  const { network } = model.engine;
  const conditions = conditionsOf(model, looked);
  const { state } = conditions.scenario.world;
  return {
    devices: model.plan.devices.map((device, d) => ({
      id: device.id,
      label: device.label ?? device.id,
      role: device.role,
      site: device.site ?? "",
      up: state.deviceAlive[d] === 1,
      outline: device.outline ?? false,
      place: device.place ?? null,
    })),
    pairs: network.pairs.map(({ index, members }) => {
      const { id, label } = model.plan.pairs[index];
      const names = members.map((d) => model.plan.devices[d].id);
      const active = names.filter((_, n) => state.roles.pairActive[index * 2 + n] > 0);
      return { id, label: label ?? id, members: names, active };
    }),
    trunks: trunksOf(network),
    links: linksOf(network).map((link, l) => ({
      ...link,
      down: state.linkAlive[l] === 0,
      ends: link.ends.map((end, n) => {
        const i = network.links.ends[network.links.endStart[l] + n];
        // A standby member is not down: it has carrier, and waits.
        const standsBy = network.twin[i] >= 0 && state.carrierUp[i] === 1;
        return { ...end, up: standsBy || state.interfaceUp[i] === 1 };
      }),
    })),
    flow: chosenFlow(model, conditions, asked),
  };
}

/** The links with their labels, which no failure changes; computed once. */
const linksOf = onceFor((network: Network): readonly MapLink[] =>
  network.plan.links.map((link, l) => {
    const texts = endLabels(network, l);
    return {
      id: link.id,
      label: link.label ?? link.id,
      medium: link.medium,
      down: false,
      ends: link.ends.map((end, n) => {
        const i = network.links.ends[network.links.endStart[l] + n];
        return {
          device: end.slice(0, end.indexOf("/")),
          interface: network.interfaces.names[i],
          text: texts[n],
          addresses: addressesOf(network, i).map(formatAddress),
          up: true,
        };
      }),
    };
  }),
);

/** The answer to the question, under conditions. */
export function chosenFlow(
  model: Scenario,
  { scenario, told }: PageConditions,
  asked: FlowQuery,
): FlowOutcome {
  const down = scenario.world.state.failed.map((element) => formatElement(model.network, element));
  const standby = (ref: string) => model.under([...down, ref]).world;
  return answerFlow(model, scenario.world, asked, standby, told.moment !== null);
}
