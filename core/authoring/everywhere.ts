import { formatAddress, formatPrefix, type Prefix, samePrefix } from "../address/index.ts";
import { attachmentsOf, type Network } from "../network/index.ts";
import { applyEdit, type Change, type Edit } from "../plan/index.ts";
import { repairOf } from "../remedies/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { askFrom, walkBothWays } from "../walk/index.ts";

export interface EverywhereOutcome {
  /** The proven missing routes; null if there are none. */
  readonly edit: Edit | null;
  /** Networks that were asked, and of them those that reach it and get no answer, and that no route would mend. */
  readonly asked: number;
  readonly unmended: { from: string; because: string }[];
}

/** Networks that are asked at most. */
const MOST = 60;

/**
 * The routes that a network lacks everywhere: from it to every other network of the plan, each question that
 * gets no answer for want of a route is mended, one after the other.
 */
export function returnRoutesEverywhere(scenario: Scenario, to: Prefix): EverywhereOutcome {
  let now = scenario;
  const changes: Change[] = [];
  const unmended: EverywhereOutcome["unmended"] = [];
  const home = ownersOf(scenario.engine.network, to)[0];
  if (!home) return { edit: null, asked: 0, unmended };
  const targets = otherNetworks(scenario.engine.network, to).slice(0, MOST);
  for (const target of targets) {
    const { network, healthy } = now.engine;
    const asked = askFrom(network, { from: home.device, source: home.address, to: target.address });
    if (!asked.ok) continue;
    const trip = walkBothWays(healthy.world, asked.question);
    // A packet that does not arrive at all asks for a route there, not for one back.
    if (trip.verdict !== "one-way") continue;
    const edit = repairOf(now, asked.question);
    if (!edit) {
      unmended.push({ from: target.device, because: trip.worst.reply?.drop?.code ?? "" });
      continue;
    }
    const outcome = applyEdit(network.plan, edit);
    if (!outcome.ok) continue;
    changes.push(...edit.changes);
    now = now.after(outcome.plan);
  }
  const label = `Add the return path to ${formatPrefix(to)} on ${[...new Set(changes.map((c) => ("device" in c ? c.device : "")))].join(", ")}`;
  return {
    edit: changes.length ? { label: label.slice(0, 300), changes } : null,
    asked: targets.length,
    unmended,
  };
}

interface Owner {
  device: string;
  address: string;
}

/** Devices attached to a network with their addresses there, hosts first. */
function ownersOf(network: Network, to: Prefix): Owner[] {
  const found: (Owner & { host: boolean })[] = [];
  for (const { prefix, device, address } of attachmentsOf(network)) {
    if (!samePrefix(prefix, to)) continue;
    const record = network.devices[device];
    found.push({ device: record.id, address: formatAddress(address), host: record.role === "host" });
  }
  return found.sort((a, b) => Number(b.host) - Number(a.host));
}

/** One owner in each other network, of devices of ours. */
function otherNetworks(network: Network, to: Prefix): Owner[] {
  const found = new Map<string, Owner & { host: boolean }>();
  for (const { prefix, device, address } of attachmentsOf(network)) {
    const record = network.devices[device];
    if (samePrefix(prefix, to) || prefix.address.family !== to.address.family) continue;
    if (record.role === "internet" || record.role === "provider") continue;
    const key = formatPrefix(prefix);
    const host = record.role === "host";
    const known = found.get(key);
    if (!known || (host && !known.host))
      found.set(key, { device: record.id, address: formatAddress(address), host });
  }
  return [...found.values()];
}
