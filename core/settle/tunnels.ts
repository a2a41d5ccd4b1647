import { type Network, type TunnelRecord, tunnelBits } from "../network/index.ts";
import { flatTrips, type Question, type World } from "../walk/index.ts";

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

/** What a tunnel's outer packets and the answers to them do in a world. */
export interface TunnelReading {
  /** Every one of them arrives. */
  readonly sends: boolean;
  /** They are answered. */
  readonly works: boolean;
  /** The device's own lookup of the outer destination returns to the tunnel, possibly through its other tunnels. */
  readonly leadsIntoItself: boolean;
}

export function readTunnel(world: World, tunnel: TunnelRecord): TunnelReading {
  const { network } = world.state;
  const trips = flatTrips(network);
  const verdict = trips.verdictOf(world, outerPacket(network, tunnel));
  const arrives = trips.allArrive() && tunnel.accepted;
  const leadsIntoItself = tunnelsUnder(world, tunnel).has(tunnel);
  return {
    sends: arrives && !leadsIntoItself,
    works: arrives && !leadsIntoItself && verdict === "works",
    leadsIntoItself,
  };
}

/** The interfaces by which a tunnel's outer packets leave its own device. */
function exitsOf(world: World, tunnel: TunnelRecord): Set<number> {
  const { network } = world.state;
  const question = outerPacket(network, tunnel);
  const exits = new Set<number>();
  for (const way of flatTrips(network).hopsOut(world, question)) {
    const first = way.find(({ out }) => out >= 0);
    if (first?.device === question.device) exits.add(first.out);
  }
  return exits;
}

/** The tunnels that a tunnel's outer packets enter on its own device, nested; includes the tunnel itself if they return
 * to it. */
export function tunnelsUnder(world: World, tunnel: TunnelRecord): Set<TunnelRecord> {
  const { tunnels, interfaces } = world.state.network;
  const under = new Set<TunnelRecord>();
  const open = [tunnel];
  for (let at = open.pop(); at; at = open.pop()) {
    for (const out of exitsOf(world, at)) {
      const next = tunnels[interfaces.tunnel[out]];
      if (!next || under.has(next)) continue;
      under.add(next);
      if (next !== tunnel) open.push(next);
    }
  }
  return under;
}

/** Whether a tunnel that leads into itself stays down: by its profile, or since its keepalives are lost (rule 2.5). */
function goesDown(network: Network, { interface: i, keepaliveMs }: TunnelRecord): boolean {
  const { profile } = network.devices[network.interfaces.device[i]];
  return profile.selfRecursiveTunnel === "down" || keepaliveMs > 0;
}

/** The condition of each tunnel's underlay as bits of `tunnelBits`: its outer packets arrive, those of both ends do, or
 * they lead into the tunnel itself. Ends that go down for that reason remain down and are added to `selfTunnels`. */
export function readTunnels(world: World, selfTunnels: Set<number>): Uint8Array {
  const { network, tunnelPasses } = world.state;
  const readings = network.tunnels.map((tunnel) =>
    selfTunnels.has(tunnel.index) ? nothing : readTunnel(world, tunnel),
  );
  return tunnelBitsOf(network, readings, tunnelPasses, selfTunnels);
}

const nothing: TunnelReading = { sends: false, works: false, leadsIntoItself: false };

/** The bits of all tunnels from their readings; `before` holds the previous bits. */
export function tunnelBitsOf(
  network: Network,
  readings: readonly TunnelReading[],
  before: Uint8Array,
  selfTunnels: Set<number>,
): Uint8Array {
  for (const [t, { leadsIntoItself }] of readings.entries())
    if (leadsIntoItself && before[t] & tunnelBits.sends && goesDown(network, network.tunnels[t]))
      selfTunnels.add(t);
  const reading = (t: number) => (selfTunnels.has(t) ? nothing : readings[t]);
  return Uint8Array.from(network.tunnels, (_, t) =>
    selfTunnels.has(t) ? tunnelBits.throughItself : tunnelBitOf(network, t, reading),
  );
}

/** The bits of a tunnel that does not lead into itself, from its reading and its far end's. */
export function tunnelBitOf(network: Network, t: number, reading: (t: number) => TunnelReading): number {
  const { peer } = network.tunnels[t];
  const { sends, works } = reading(t);
  const far = peer < 0 ? -1 : network.interfaces.tunnel[peer];
  // Where the plan does not show the far end, its answers are all that is known of it.
  const back = far >= 0 ? reading(far).sends : works;
  return (sends ? tunnelBits.sends : 0) | (sends && back ? tunnelBits.bothWays : 0);
}

/** Tunnel bits before underlays are judged again. If one tunnel led into itself, all are assumed to pass, as they were
 * when that was found, so that the same path shows it again. */
export function judgedAnew(tunnelPasses: Uint8Array): Uint8Array {
  if (!tunnelPasses.some((bits) => bits & tunnelBits.throughItself)) return tunnelPasses;
  return tunnelPasses.map(() => tunnelBits.sends | tunnelBits.bothWays);
}
