import { type Trip, type Walk, type World, walkBothWays } from "../forwarding/index.ts";
import type { Probe } from "../plan/index.ts";
import { probeSending } from "./watches.ts";

/**
 * Devices that an answer rests on: those that its walks visit, and, as long as one of them has a probe
 * or a tunnel, those that the probe's packets or the tunnel's underlay visit. Nothing that happens
 * elsewhere can change the answer (rule 10.4).
 */
export function devicesBehind(world: World, trips: readonly Trip[]): Set<number> {
  const { network } = world.state;
  const seen = new Set<number>();
  const open: number[] = [];
  const add = (walks: readonly Walk[]) => {
    for (const walk of walks) {
      for (const hop of walk.hops) {
        if (seen.has(hop.device)) continue;
        seen.add(hop.device);
        open.push(hop.device);
      }
    }
  };
  const addTrip = (trip: Trip) => {
    for (const branch of trip.branches)
      add(branch.reply ? [branch.outbound, branch.reply] : [branch.outbound]);
  };
  for (const trip of trips) addTrip(trip);
  for (let d = open.pop(); d !== undefined; d = open.pop()) {
    const { firstWatch, endWatch, firstInterface, endInterface } = network.devices[d];
    for (let w = firstWatch; w < endWatch; w++) {
      const record = network.watches[w];
      if (record.watch.kind !== "probe") continue;
      const sending = probeSending(world, record, record.watch as Probe);
      if (sending) addTrip(walkBothWays(world, sending));
    }
    for (let i = firstInterface; i < endInterface; i++) {
      const tunnel = network.interfaces.tunnel[i];
      if (tunnel < 0) continue;
      const { vrf, to } = network.tunnels[tunnel];
      addTrip(
        walkBothWays(world, { device: d, vrf, source: null, destination: to, protocol: "icmp", port: null }),
      );
    }
    for (const via of learnedNeighbours(world, d)) {
      if (!seen.has(via)) {
        seen.add(via);
        open.push(via);
      }
    }
  }
  return seen;
}

/** Devices at the far ends of links: their life decides whether neighbours answer. */
function learnedNeighbours(world: World, d: number): number[] {
  const { network } = world.state;
  const { candidates, devices } = network;
  const list: number[] = [];
  for (let c = devices[d].firstCandidate; c < devices[d].endCandidate; c++) {
    if (candidates.answer[c] >= 0 && candidates.peer[c] >= 0)
      list.push(network.interfaces.device[candidates.peer[c]]);
  }
  return list;
}
