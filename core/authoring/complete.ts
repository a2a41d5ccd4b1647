import {
  containsAddress,
  formatAddress,
  formatPrefix,
  parseInterfaceAddress,
  parsePrefix,
  prefixOf,
} from "../address/index.ts";
import { endsOf, type Network } from "../network/index.ts";
import { clauses, deviceSpan, flags, tokensOf } from "./route-line.ts";

/** What could stand at the caret: the text that replaces the stretch from `from` to `to`. */
export interface Completion {
  readonly insert: string;
  readonly from: number;
  readonly to: number;
  /** Shown beside the completion. */
  readonly detail: string;
}

const MOST = 9;

/** What could come at a place of a route line, from what the plan holds. `device` is whose page the line is on. */
export function completeRouteLine(
  network: Network,
  text: string,
  caret: number,
  device: string | null,
): Completion[] {
  const span = deviceSpan(text);
  const named = tokensOf(text.slice(0, Math.max(0, span - 1)).replaceAll(",", " ")).map(
    (token) => token.text,
  );
  const devices = (named.length ? named : device ? [device] : []).filter((id) => network.deviceIndex.has(id));
  const tokens = tokensOf(text.slice(0, caret), Math.min(span, caret));
  const typing = caret > 0 && !/\s/.test(text[caret - 1] ?? " ");
  const current = typing ? tokens[tokens.length - 1] : undefined;
  const word = current?.text ?? "";
  const before = typing ? tokens.slice(0, -1) : tokens;
  const from = current?.at ?? caret;
  const fitting = (list: { insert: string; detail: string }[]): Completion[] => {
    const others = list.filter(({ insert }) => insert !== word);
    const starting = others.filter(({ insert }) => insert.startsWith(word));
    // A target may be typed by its name instead of its address.
    const holding = others.filter(({ insert, detail }) =>
      `${insert} ${detail}`.toLowerCase().includes(word.toLowerCase()),
    );
    return (starting.length ? starting : holding)
      .slice(0, MOST)
      .map((entry) => ({ ...entry, from, to: caret }));
  };

  // A note takes rest of the line, whatever stands in it.
  if (before.some((token) => token.text === "note")) return [];
  const last = before[before.length - 1]?.text;
  if (span === 0 && !device && before.length === 0) return fitting(deviceNames(network));
  if (last === "via") return fitting(nextHops(network, devices));
  if (last === "out") return fitting(interfaces(network, devices));
  if (last === "watch") return fitting(watches(network, devices));
  if (last === "resolve")
    return fitting([
      { insert: "connected", detail: "attached networks only" },
      { insert: "any", detail: "any route" },
    ]);
  if (last === "vrf" || last === "to-vrf") return fitting(vrfs(network, devices));
  if (last === "distance" || last === "metric") return [];
  if (before.length === 0) return fitting(destinations(network, devices));
  const taken = new Set(before.map((token) => token.text));
  const words = [...Object.keys(clauses), ...flags, "note"].filter((entry) => !taken.has(entry));
  return fitting(words.map((entry) => ({ insert: entry, detail: meanings[entry] ?? "" })));
}

const meanings: Record<string, string> = {
  via: "next hop",
  out: "outgoing interface",
  distance: "administrative distance",
  metric: "metric, compared at equal distance",
  watch: "usable only while this watch is up",
  vrf: "the route's VRF",
  resolve: "routes that the next hop may resolve through",
  "to-vrf": "look up in another VRF",
  discard: "drop matching packets silently",
  reject: "drop matching packets and notify the sender",
  "on-link": "treat the next hop as directly connected, whatever its subnet",
  off: "keep the route, disabled",
  note: "rest of the line",
};

function deviceNames(network: Network) {
  return network.devices.map((device) => ({ insert: `${device.id}:`, detail: device.label }));
}

/** Addresses of the neighbours on the devices' links, routers before hosts. */
function nextHops(network: Network, devices: readonly string[]) {
  const found = new Map<string, { insert: string; detail: string; rank: number }>();
  for (const id of devices) {
    const record = network.devices[network.deviceIndex.get(id) ?? -1];
    for (let i = record.firstInterface; i < record.endInterface; i++) {
      const link = network.interfaces.link[i];
      if (link < 0) continue;
      const subnets = addressTexts(network, i).flatMap((text) => {
        const read = parseInterfaceAddress(text);
        return read ? [prefixOf(read.address, read.length)] : [];
      });
      for (const end of endsOf(network.links, link)) {
        const owner = network.devices[network.interfaces.device[end]];
        if (owner === record) continue;
        for (const text of addressTexts(network, end)) {
          const address = parseInterfaceAddress(text)?.address;
          if (!address || !subnets.some((subnet) => containsAddress(subnet, address))) continue;
          const insert = formatAddress(address);
          const rank = owner.role === "host" ? 1 : 0;
          found.set(insert, { insert, detail: `${owner.label}, on ${network.interfaces.names[i]}`, rank });
        }
      }
    }
  }
  return [...found.values()].sort((a, b) => a.rank - b.rank);
}

function interfaces(network: Network, devices: readonly string[]) {
  return devices.flatMap((id) => {
    const record = network.devices[network.deviceIndex.get(id) ?? -1];
    return network.plan.devices[record.index].interfaces.map((port) => ({
      insert: port.name,
      detail: port.addresses.join(", ") || (port.kind ?? "no address"),
    }));
  });
}

function watches(network: Network, devices: readonly string[]) {
  return devices.flatMap((id) => {
    const record = network.devices[network.deviceIndex.get(id) ?? -1];
    return network.plan.devices[record.index].watches.map((watch) => ({
      insert: watch.id,
      detail: watch.kind,
    }));
  });
}

function vrfs(network: Network, devices: readonly string[]) {
  return [...new Set(devices.flatMap((id) => network.devices[network.deviceIndex.get(id) ?? -1].vrfs))].map(
    (insert) => ({ insert, detail: "VRF" }),
  );
}

/** Networks of the plan that the devices are not attached to, and the default. */
function destinations(network: Network, devices: readonly string[]) {
  const own = new Set(devices.flatMap((id) => subnetsOf(network, id)));
  const found = new Map<string, string[]>();
  for (const device of network.devices) {
    for (const subnet of subnetsOf(network, device.id)) {
      if (!own.has(subnet)) found.set(subnet, [...(found.get(subnet) ?? []), device.label]);
    }
  }
  const networks = [...found].map(([insert, owners]) => ({ insert, detail: owners.slice(0, 2).join(", ") }));
  const isNarrow = (text: string) => (parsePrefix(text)?.length ?? 0) >= 30 && !text.includes(":");
  return [
    { insert: "default", detail: "all destinations without a more specific route" },
    ...networks.sort((a, b) => Number(isNarrow(a.insert)) - Number(isNarrow(b.insert))),
  ];
}

function subnetsOf(network: Network, device: string): string[] {
  const record = network.devices[network.deviceIndex.get(device) ?? -1];
  return network.plan.devices[record.index].interfaces.flatMap((port) =>
    port.addresses.flatMap((text) => {
      const read = parseInterfaceAddress(text);
      return read ? [formatPrefix(prefixOf(read.address, read.length))] : [];
    }),
  );
}

function addressTexts(network: Network, i: number): string[] {
  const device = network.interfaces.device[i];
  return network.plan.devices[device].interfaces[i - network.devices[device].firstInterface].addresses;
}
