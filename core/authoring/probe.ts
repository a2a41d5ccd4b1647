import { type Address, formatAddress, parseAddress, sameAddress } from "../address/index.ts";
import { addRoute, addWatch, type Context, routeChange, type Written } from "../findings/context.ts";
import { freshName } from "../findings/fixes/bfd.ts";
import { addressesOf } from "../network/index.ts";
import { type Change, describeRoute, type StaticRoute, type Watch } from "../plan/index.ts";
import type { Companion } from "./companion.ts";

/**
 * A probe of an address beyond the first hop, that no flow uses, pinned to the route's exit: by the probe's
 * own next hop, and by a host route, so that the probe cannot leave by the backup and recover by it.
 */
export function probeBeyond(context: Context, written: Written): Companion | null {
  const [hop] = written.hops;
  if (!hop?.address || written.device.role === "host") return null;
  for (const target of targetsBeyond(context, written, hop.address).slice(0, MAX_TRIED)) {
    const probe = probeOf(context, written, hop.address, hop.out, target);
    if (staysUp(context, written, probe.edit)) return probe;
  }
  return null;
}

/** Targets that are tried at most. */
const MAX_TRIED = 4;

interface Target {
  address: Address;
  label: string;
}

/** Whether the route stays active once the probe watches it: the reply needs a return path. */
function staysUp(context: Context, written: Written, edit: Companion["edit"]): boolean {
  const outcome = context.scenario.afterEdit(edit);
  if (!outcome.ok) return false;
  const { network, world } = outcome.scenario;
  const { watchUp } = world.state;
  return network.watches.every(
    (watch) => watch.device !== written.device.index || watchUp[watch.index] === 1,
  );
}

function probeOf(
  context: Context,
  written: Written,
  nextHop: Address,
  port: number,
  target: Target,
): Companion {
  const { network } = context;
  const via = formatAddress(nextHop);
  const out = network.interfaces.names[port];
  const device = context.deviceOf(written.device);
  const id = freshName(
    `far-${out}`.slice(0, 60),
    device.watches.map((watch) => watch.id),
  );
  const watch: Watch = {
    id,
    kind: "probe",
    target: formatAddress(target.address),
    source: out,
    out,
    via,
    intervalMs: 2000,
    timeoutMs: 1000,
    failAfter: 3,
    recoverAfter: 3,
  };
  const pin: StaticRoute = {
    to: `${formatAddress(target.address)}/${target.address.family === 4 ? 32 : 128}`,
    via,
    note: `pins the probe ${id}`,
  };
  if (written.device.profile.interfaceRequired) pin.out = out;
  const pinned = device.routes.some((route) => route.to === pin.to);
  const changes: Change[] = [
    addWatch(device.id, watch),
    ...(pinned ? [] : [addRoute(device.id, pin)]),
    routeChange(written, { ...written.route, watch: id }),
  ];
  return {
    kind: "watch",
    why: `A probe of ${formatAddress(target.address)} on ${target.label}, beyond the first hop, withdraws the route after three probes without a reply. A host route pins the probe to ${out}.`,
    edit: {
      label: `Watch ${describeRoute(written.route)} with a probe of ${formatAddress(target.address)}`,
      changes,
    },
  };
}

/** Addresses past the neighbour, on the way that packets of the route take, that no flow goes to; the nearest first. */
function targetsBeyond(context: Context, written: Written, nextHop: Address): Target[] {
  const { network } = context;
  const next = context.nextDevice(written);
  const used = [
    nextHop,
    ...context.flows.map(({ question }) => question.destination),
    ...context.flows.flatMap(({ question }) => (question.source ? [question.source] : [])),
    ...network.plan.devices.flatMap((device) =>
      device.watches.flatMap((watch) =>
        watch.kind === "probe" ? [parseAddress(watch.target) as Address] : [],
      ),
    ),
  ];
  const onWay = context.flows.flatMap(({ trip }) =>
    trip.branches.flatMap((branch) => {
      const at = branch.outbound.hops.findIndex((hop) => hop.candidate === written.candidate);
      return at < 0 ? [] : branch.outbound.hops.slice(at + 1);
    }),
  );
  const walk = context.walkFrom(written.device.index, written.to.address);
  const at = walk.hops.findIndex((hop) => hop.candidate === written.candidate);
  const found: Target[] = [];
  for (const hop of [...onWay, ...(at < 0 ? [] : walk.hops.slice(at + 1))]) {
    const record = network.devices[hop.device];
    if (hop.device === next || hop.device === written.device.index || record.role === "internet") continue;
    if (hop.in < 0) continue;
    const [address] = addressesOf(network, hop.in, written.to.address.family);
    if (!address || used.some((other) => sameAddress(other, address))) continue;
    if (!found.some((target) => sameAddress(target.address, address)))
      found.push({ address, label: record.label });
  }
  return found;
}
