import { type Question, type Trip, type World, walkBothWays } from "../forwarding/index.ts";
import { type Network, type TunnelRecord, tunnelBits } from "../network/index.ts";

/** The outer packet of a tunnel's end (rule 2.5): where its source address is gone, nothing leaves. */
export function outerPacket(network: Network, tunnel: TunnelRecord): Question {
  return {
    device: network.interfaces.device[tunnel.interface],
    vrf: tunnel.vrf,
    source: tunnel.from,
    destination: tunnel.to,
    protocol: "icmp",
    port: null,
  };
}

/**
 * How the underlay of each tunnel fares, as bits of `tunnelBits`: its outer packets arrive, both ends' do, or they
 * lead into the tunnel itself. Those that once led into themselves stay so and are added to `selfTunnels`.
 */
export function readTunnels(world: World, selfTunnels: Set<number>): Uint8Array {
  const { network, tunnelPasses } = world.state;
  const trips = network.tunnels.map((tunnel) =>
    selfTunnels.has(tunnel.index) ? null : walkBothWays(world, outerPacket(network, tunnel)),
  );
  for (const [t, trip] of trips.entries()) {
    const before = tunnelPasses[t] & tunnelBits.sends;
    if (trip && before && leadsInto(network.tunnels[t], trip)) selfTunnels.add(t);
  }
  const sends = network.tunnels.map(
    (_, t) =>
      !selfTunnels.has(t) &&
      (trips[t]?.branches.every(({ outbound }) => outbound.result === "delivered") ?? false),
  );
  return Uint8Array.from(network.tunnels, (tunnel, t) => {
    if (selfTunnels.has(t)) return tunnelBits.throughItself;
    const far = tunnel.peer < 0 ? -1 : network.interfaces.tunnel[tunnel.peer];
    // Where the plan does not show the far end, its answers are all that is known of it.
    const back = far >= 0 ? sends[far] : trips[t]?.verdict === "works";
    return (sends[t] ? tunnelBits.sends : 0) | (sends[t] && back ? tunnelBits.bothWays : 0);
  });
}

/**
 * What is known of tunnels before their underlays are judged anew. Where one led into itself, all are taken to pass, as
 * they were when that came out: so it shows again whether they still do, by the same way as without the failure.
 */
export function judgedAnew(tunnelPasses: Uint8Array): Uint8Array {
  if (!tunnelPasses.some((bits) => bits & tunnelBits.throughItself)) return tunnelPasses;
  return tunnelPasses.map(() => tunnelBits.sends | tunnelBits.bothWays);
}

/** Whether a tunnel's outer packets, or the answers to them, pass the tunnel itself. */
function leadsInto(tunnel: TunnelRecord, trip: Trip): boolean {
  const ends = [tunnel.interface, tunnel.peer];
  return trip.branches.some(({ outbound, reply }) =>
    [...outbound.hops, ...(reply?.hops ?? [])].some((hop) => hop.out >= 0 && ends.includes(hop.out)),
  );
}
