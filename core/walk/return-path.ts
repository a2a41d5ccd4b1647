import { isIpv6LinkLocal } from "../address/index.ts";
import { actionCodes, type DeviceRecord } from "../network/index.ts";
import { nextHopsOf } from "../routes/index.ts";
import { endsOfRoute, findRoute, type RouteMatch } from "./lookup.ts";
import type { Packet } from "./packet.ts";
import type { World } from "./world.ts";

/**
 * Rule 6.2, return-path check (RFC 3704): whether a packet may come in by an interface, judged by the route back
 * to its source. A discard or reject route is no return path. The policy tables that a packet back would meet are
 * asked, or main alone, as the profile says: it would come in where this one goes out (`onward`; null for a packet
 * that ends here). Where several ways share the load, the check must hold for each.
 */
export function passesReturnPath(
  world: World,
  device: DeviceRecord,
  at: { readonly vrf: number; readonly in: number; readonly packet: Packet },
  onward: RouteMatch | null,
): boolean {
  const { returnPath, returnPathDefault, returnPathTables } = device.profile;
  const { source, destination, protocol } = at.packet;
  // A link-local source goes back by the interface that it came in by, whatever the tables say.
  if (returnPath === "off" || isIpv6LinkLocal(source)) return true;
  const steered = returnPathTables === "policy" && device.policyTables.length > 0;
  return (steered ? outsOf(world, device, onward) : [-1]).every((incoming) => {
    // The port that a packet back would lead to is unknown, and it bears no mark (rule 6.10).
    const back = { destination: source, protocol, port: null, mark: null };
    const ask = (vrf: number) =>
      returnPathTables === "policy"
        ? findRoute(world, device, vrf, { ...back, in: incoming, source: destination })
        : findRoute(world, device, vrf, { ...back, in: -1, source: null });
    const ways = endsOfRoute(world, device, ask(at.vrf), ask);
    if (returnPath === "strict") return ways.some(({ hop }) => hop.out === at.in);
    return ways.some(({ isDefault }) => returnPathDefault || !isDefault);
  });
}

/** The interfaces that a route leads out of; -1 alone where it leads out of none. */
function outsOf(world: World, device: DeviceRecord, onward: RouteMatch | null): number[] {
  const { network } = world.state;
  const tables = world.tablesOf(device.index);
  const outs = (onward?.candidates ?? [])
    .filter((c) => network.candidates.action[c] === actionCodes.forward)
    .flatMap((c) => nextHopsOf(network, tables, c).map((hop) => hop.out));
  return outs.length ? [...new Set(outs)] : [-1];
}
