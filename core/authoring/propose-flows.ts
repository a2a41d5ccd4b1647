import { formatAddress } from "../address/index.ts";
import { addressOutside, type DeviceRecord, type Network } from "../network/index.ts";
import type { Edit, Flow } from "../plan/index.ts";
import { mainAddress } from "../walk/index.ts";

/** Flows that are proposed at most. */
const MOST = 24;

/** Flows for a plan without any: from each host (else each router and firewall) to the internet, if the plan has it,
 * and to another sender. Null if there is no sender. */
export function proposeFlows(network: Network): Edit | null {
  const asking = senders(network);
  if (asking.length === 0) return null;
  const flows = new Map<string, Flow>();
  const add = (flow: Flow) => {
    if (!flows.has(flow.id) && flows.size < MOST) flows.set(flow.id, flow);
  };
  const outside = network.devices.some((device) => device.role === "internet" || device.outline)
    ? addressOutside(network, 4)
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
        to: formatAddress(outside),
      });
    }
  }
  if (flows.size === 0) return null;
  return {
    label: `Add ${flows.size} proposed ${flows.size === 1 ? "flow" : "flows"}`,
    changes: [...flows.values()].map((after) => ({ in: "plan", collection: "flows", before: null, after })),
  };
}

/** Hosts with an address; without hosts, routers and firewalls. */
function senders(network: Network): DeviceRecord[] {
  // Nobody knows what an outlined device sends.
  const withAddress = network.devices.filter(
    (device) => !device.outline && mainAddress(network, device, null),
  );
  const hosts = withAddress.filter((device) => device.role === "host");
  return hosts.length ? hosts : withAddress.filter(({ role }) => role === "router" || role === "firewall");
}

function idOf(from: string, to: string): string {
  return `${from}-to-${to}`.slice(0, 63);
}
