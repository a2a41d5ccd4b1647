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
  /** The device's own lookup of them comes back to the tunnel, also through other tunnels of its own. */
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

/**
 * The tunnels that a tunnel's outer packets enter on its own device, one inside the other; the tunnel itself among them
 * where they come back to it.
 */
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

/**
 * How the underlay of each tunnel fares, as bits of `tunnelBits`: its outer packets arrive, both ends' do, or they
 * lead into the tunnel itself. Ends that go down for it stay so and are added to `selfTunnels`.
 */
export function readTunnels(world: World, selfTunnels: Set<number>): Uint8Array {
  const { network, tunnelPasses } = world.state;
  const readings = network.tunnels.map((tunnel) =>
    selfTunnels.has(tunnel.index) ? nothing : readTunnel(world, tunnel),
  );
  return tunnelBitsOf(network, readings, tunnelPasses, selfTunnels);
}

const nothing: TunnelReading = { sends: false, works: false, leadsIntoItself: false };

/** The bits of all tunnels by what was read of each, `before` by what was known of them then. */
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

/** The bits of a tunnel that does not lead into itself, by what was read of it and of its far end. */
export function tunnelBitOf(network: Network, t: number, reading: (t: number) => TunnelReading): number {
  const { peer } = network.tunnels[t];
  const { sends, works } = reading(t);
  const far = peer < 0 ? -1 : network.interfaces.tunnel[peer];
  // Where the plan does not show the far end, its answers are all that is known of it.
  const back = far >= 0 ? reading(far).sends : works;
  return (sends ? tunnelBits.sends : 0) | (sends && back ? tunnelBits.bothWays : 0);
}

/**
 * What is known of tunnels before their underlays are judged anew. Where one led into itself, all are taken to pass, as
 * they were when that came out: so it shows again whether they still do, by the same way as without the failure.
 */
export function judgedAnew(tunnelPasses: Uint8Array): Uint8Array {
  if (!tunnelPasses.some((bits) => bits & tunnelBits.throughItself)) return tunnelPasses;
  return tunnelPasses.map(() => tunnelBits.sends | tunnelBits.bothWays);
}
