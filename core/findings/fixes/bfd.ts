import { formatAddress } from "../../address/index.ts";
import { type Change, describeRoute, type Edit, type Watch } from "../../plan/index.ts";
import { addWatch, type Context, routeChange, type Written } from "../context.ts";

/** A name that is not taken yet: the one wanted, or with a number behind it. */
export function freshName(wanted: string, taken: readonly string[]): string {
  let name = wanted;
  for (let n = 2; taken.includes(name); n++) name = `${wanted}-${n}`;
  return name;
}

/**
 * A BFD session on both ends of a route's link, with the same timers, on which the route depends; and the
 * routes that lead back the same way, on which the far end depends. Null where the neighbour takes none.
 */
export function bfdBothEnds(context: Context, written: Written): Edit | null {
  const [hop] = written.hops;
  if (!hop?.address) return null;
  const neighbour = context.neighbourOf(hop);
  if (neighbour.interface < 0) return null;
  const { network } = context;
  const far = network.devices[network.interfaces.device[neighbour.interface]];
  const own = context.addressOnLink(
    written.device.index,
    network.interfaces.link[hop.out],
    hop.address.family,
  );
  if (!own || far.role === "internet" || far.role === "host" || written.device.role === "host") return null;
  const session = (i: number, peer: string, taken: readonly string[]): Watch => ({
    id: freshName("bfd", taken),
    kind: "bfd",
    interface: network.interfaces.names[i],
    peer,
    minTxMs: 300,
    minRxMs: 300,
    multiplier: 3,
  });
  const ids = (watches: readonly Watch[]) => watches.map((watch) => watch.id);
  const here = session(hop.out, formatAddress(hop.address), ids(context.deviceOf(written.device).watches));
  const there = session(neighbour.interface, formatAddress(own.address), ids(context.deviceOf(far).watches));
  const back = context.routes
    .of(far.index)
    .filter((w) => w.route.via === formatAddress(own.address) && !w.route.watch);
  const changes: Change[] = [
    addWatch(written.device.id, here),
    addWatch(far.id, there),
    routeChange(written, { ...written.route, watch: here.id }),
    ...back.map((w) => routeChange(w, { ...w.route, watch: there.id })),
  ];
  return { label: `Watch ${describeRoute(written.route)} with BFD to ${far.label}, on both ends`, changes };
}
