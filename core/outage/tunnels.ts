import { type World, walkBothWays } from "../forwarding/index.ts";
import type { TunnelRecord } from "../network/index.ts";

/** How a tunnel's underlay fares: it delivers both ways, it does not, or it leads into the tunnel itself (rule 2.5). */
export function underlayOf(world: World, tunnel: TunnelRecord): "passes" | "fails" | "through-itself" {
  const { network } = world.state;
  const device = network.interfaces.device[tunnel.interface];
  const trip = walkBothWays(world, {
    device,
    vrf: tunnel.vrf,
    source: null,
    destination: tunnel.to,
    protocol: "icmp",
    port: null,
  });
  const walks = trip.branches.flatMap((branch) =>
    branch.reply ? [branch.outbound, branch.reply] : [branch.outbound],
  );
  const ends = [tunnel.interface, tunnel.peer];
  if (walks.some((walk) => walk.hops.some((hop) => hop.out >= 0 && ends.includes(hop.out))))
    return "through-itself";
  return trip.verdict === "works" ? "passes" : "fails";
}
