import { containsAddress, formatAddress, parseAddress, parsePrefix } from "../address/index.ts";
import { mainAddress } from "../forwarding/index.ts";
import type { DeviceRecord, Network } from "../network/index.ts";
import { ownersOf } from "../network/index.ts";
import type { Edit, Flow } from "../plan/index.ts";

/** Flows that are proposed at most. */
const MOST = 24;

/** Addresses outside, for documentation (RFC 5737), by which "the internet" is meant. */
const OUTSIDE = ["203.0.113.80", "198.51.100.80", "192.0.2.80"];

/**
 * Flows that a plan without any could begin with: from each host, else from each router and firewall, to the internet
 * where the plan shows it, and to another one. Null where there is nobody to ask about.
 */
export function proposeFlows(network: Network): Edit | null {
  const asking = senders(network);
  if (asking.length === 0) return null;
  const flows = new Map<string, Flow>();
  const add = (flow: Flow) => {
    if (!flows.has(flow.id) && flows.size < MOST) flows.set(flow.id, flow);
  };
  const outside = network.devices.some((device) => device.role === "internet" || device.outline)
    ? addressOutside(network)
    : null;
  for (const [i, device] of asking.entries()) {
    const other = asking[(i + 1) % asking.length];
    if (other !== device) {
      const id = idOf(device.id, other.id);
      add({ id, label: `${device.label} to ${other.label}`, from: device.id, to: other.id });
    }
    if (outside && mainAddress(network, device, 4)) {
      add({
        id: idOf(device.id, "internet"),
        label: `${device.label} to the internet`,
        from: device.id,
        to: outside,
      });
    }
  }
  if (flows.size === 0) return null;
  return {
    label: `Add ${flows.size} proposed ${flows.size === 1 ? "flow" : "flows"}`,
    changes: [...flows.values()].map((after) => ({ in: "plan", collection: "flows", before: null, after })),
  };
}

/** Hosts with an address; where there are none, routers and firewalls. */
function senders(network: Network): DeviceRecord[] {
  // Nobody knows what an outlined device sends.
  const withAddress = network.devices.filter(
    (device) => !device.outline && mainAddress(network, device, null),
  );
  const hosts = withAddress.filter((device) => device.role === "host");
  return hosts.length ? hosts : withAddress.filter(({ role }) => role === "router" || role === "firewall");
}

/** A public address that nobody in the plan owns or routes to. */
function addressOutside(network: Network): string | null {
  const inside = network.plan.devices.flatMap((device) =>
    [...device.routes.map((route) => route.to), ...(device.announces ?? [])].flatMap((text) => {
      const prefix = parsePrefix(text);
      return prefix && prefix.length > 0 ? [prefix] : [];
    }),
  );
  for (const text of OUTSIDE) {
    const address = parseAddress(text);
    if (!address || ownersOf(network, address).length > 0) continue;
    if (!inside.some((prefix) => containsAddress(prefix, address))) return formatAddress(address);
  }
  return null;
}

function idOf(from: string, to: string): string {
  return `${from}-to-${to}`.slice(0, 63);
}
