import type { Address } from "../address/index.ts";
import { contactBy, endsOf, type Neighbour, reaches } from "../network/index.ts";
import { endsOfRoute, findRoute } from "./lookup.ts";
import type { World } from "./world.ts";

/** The proxy ARP responder for an IPv4 address without an owner on a link (RFC 1027; rule 2.7): an interface with
 * `proxyArp` whose device has an active route to the address through another interface; for the hub of a multipoint
 * link also through the same one. The first in the link's order; null if there is none. */
export function proxyFor(world: World, out: number, address: Address): Neighbour | null {
  if (address.family !== 4) return null;
  const { network } = world.state;
  const { interfaces, links } = network;
  const link = interfaces.link[out];
  if (link < 0) return null;
  for (const end of endsOf(links, link)) {
    if (end === out || !interfaces.proxyArp[end] || !reaches(network, out, end)) continue;
    if (contactBy(world.state, out, end) !== "answers") continue;
    const record = network.devices[interfaces.device[end]];
    const asked = {
      source: null,
      destination: address,
      protocol: "icmp",
      port: null,
      in: end,
      mark: null,
    } as const;
    const ask = (vrf: number) => findRoute(world, record, vrf, asked);
    const ways = endsOfRoute(world, record, ask(interfaces.vrf[end]), ask);
    const elsewhere = ways.some(({ hop }) => hop.out !== end || links.hub[link] === end);
    if (record.forwards[4] && elsewhere) return { interface: end, contact: "answers" };
  }
  return null;
}
