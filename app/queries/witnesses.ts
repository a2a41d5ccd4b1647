import { formatAddress } from "../../core/address/index.ts";
import { addressesOf, endsOf, interfaceWritten, type Network } from "../../core/network/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { GatewayRecord } from "../../core/walk/index.ts";

/** How a capture's frames and packets are known again in a plan. */
export interface Witnesses {
  /** Hardware addresses with the gateway whose frames bear them. */
  hardware: [hardware: string, gateway: string][];
  /** Each flow's addresses: the server's, and the sender's as they are on the way, translated or not. */
  flows: { flow: string; clients: string[]; server: string }[];
}

/** `neighbours`: hardware addresses that the capture itself tells, by the address that they belong to. */
export function witnessesOf(p: Scenario, neighbours: ReadonlyMap<string, readonly string[]>): Witnesses {
  const { network } = p.engine;
  const hardware: [string, string][] = [];
  for (const gateway of p.gateways) {
    for (const i of portsOf(network, gateway))
      for (const address of hardwareOf(network, i, neighbours)) hardware.push([address, gateway.id]);
  }
  const flows = p.flows().map(({ flow, question }) => {
    const trip = p.trace(question);
    const walks = trip.branches.map((branch) => branch.outbound);
    const clients = walks.flatMap(({ packet, sessions }) => [
      ...(packet ? [packet.source] : []),
      ...sessions.flatMap(({ original, translated }) => [original, translated]),
    ]);
    return {
      flow: flow.id,
      clients: [...new Set([...(question.source ? [question.source] : []), ...clients].map(formatAddress))],
      server: formatAddress(question.destination),
    };
  });
  return { hardware, flows };
}

/** The ports whose frames identify a gateway: its own and the far one; only the far one if several gateways share a
 * port. */
function portsOf(network: Network, gateway: GatewayRecord): number[] {
  const link = network.interfaces.link[gateway.interface];
  const others =
    link < 0 ? [] : Array.from(endsOf(network.links, link)).filter((i) => i !== gateway.interface);
  const { via } = gateway;
  if (!via) return others.length === 1 ? [gateway.interface, others[0]] : [gateway.interface];
  const text = formatAddress(via);
  return others.filter((i) => addressesOf(network, i, via.family).some((own) => formatAddress(own) === text));
}

function hardwareOf(
  network: Network,
  i: number,
  neighbours: ReadonlyMap<string, readonly string[]>,
): string[] {
  const written = interfaceWritten(network, i).hardware;
  const told = addressesOf(network, i).flatMap((address) => neighbours.get(formatAddress(address)) ?? []);
  return [...new Set([...(written ? [written] : []), ...told])];
}
