import {
  actionCodes,
  type DeviceRecord,
  faults,
  type Network,
  restsOnOwnRole,
  type State,
  sourceCodes,
} from "../network/index.ts";
import { reasonOf, stateCodes } from "./codes.ts";
import { AnswerCache, candidateStatesOf, type DeviceTables } from "./device-tables.ts";
import { chainOf, circularIn } from "./next-hops.ts";
import { resolveNextHops } from "./resolve.ts";
import { selectRoutes } from "./select.ts";

export type LocalState = Pick<State, "interfaceUp" | "watchUp" | "answers">;

/** Builds a device's tables (rules 3 to 5) from the device's own interfaces, watches and neighbor answers. O(candidates
 * × log) if next-hop chains are short. `absent` lists candidates (network-wide) to leave out. */
export function buildTables(
  network: Network,
  device: DeviceRecord,
  local: LocalState,
  absent: ReadonlySet<number> = none,
): DeviceTables {
  const circles = new Map<number, readonly number[]>();
  const everything = Array.from(
    { length: device.endGroup - device.firstGroup },
    (_, n) => device.firstGroup + n,
  );
  for (;;) {
    const tables = emptyTables(network, device, circles);
    settleGroups(network, local, tables, everything, absent);
    // Whether a chain meets itself shows only once it is known which routes are in use.
    const more = circularIn(network, tables);
    if (more.length === 0) return tables;
    const chains = more.map((c) => chainOf(network, tables, c));
    for (const [n, c] of more.entries()) circles.set(c, chains[n]);
  }
}

function emptyTables(
  network: Network,
  device: DeviceRecord,
  circles: ReadonlyMap<number, readonly number[]>,
): DeviceTables {
  return {
    device,
    ...candidateStatesOf(device.endCandidate - device.firstCandidate),
    circles,
    matching: network.layouts[device.index].matching,
    answered: new AnswerCache(),
    sends: { kept: null },
  };
}

/** Resolves and selects in some groups (network-wide), the candidates that are known to lead to themselves left out. */
export function settleGroups(
  network: Network,
  local: LocalState,
  tables: DeviceTables,
  groups: readonly number[],
  absent: ReadonlySet<number> = none,
) {
  const { device, circles, resolved, reason } = tables;
  const { candidates } = network;
  const deadGateways: number[] = [];
  const open: number[] = [];
  for (const g of groups) {
    for (let c = network.groups.start[g]; c < network.groups.start[g + 1]; c++) {
      const i = c - device.firstCandidate;
      tables.state[i] = stateCodes.unusable;
      tables.detail[i] = -1;
      tables.through[i] = -1;
      tables.depth[i] = 0;
      resolved[i] = 0;
      reason[i] = 0;
      const against = absent.has(c) ? disabled : circles.has(c) ? circular : directReason(network, c, local);
      // A dead gateway's route is resolved too: where all are dead, the sender keeps trying one of them.
      const dead = against === gatewayDead;
      if (dead) deadGateways.push(i);
      if ((against === 0 || dead) && candidates.action[c] === actionCodes.forward && candidates.out[c] < 0) {
        open.push(i);
        continue;
      }
      resolved[i] = against === 0 ? 1 : -1;
      reason[i] = against;
      if (against === disabled) tables.state[i] = stateCodes.disabled;
    }
  }
  resolveNextHops(network, device, resolved, tables, open);
  const usable = deadGateways.length ? resolved.slice() : resolved;
  for (const i of deadGateways) {
    if (usable[i] === 1) reason[i] = gatewayDead;
    usable[i] = -1;
  }
  selectRoutes(network, device, usable, tables, groups);
}

const none: ReadonlySet<number> = new Set();

const faultReason = faults.map((fault) => reasonOf(fault));
const circular = reasonOf("next-hop-circular");
const ownAddress = reasonOf("next-hop-own-address");
const gatewayDead = reasonOf("gateway-dead");
const neighbourLost = reasonOf("neighbour-lost");
const interfaceDown = reasonOf("interface-down");
const watchDown = reasonOf("watch-down");
const disabled = reasonOf("disabled");

/** Why a candidate is unusable before its next hop is resolved; 0 if it is not. */
function directReason(network: Network, c: number, local: LocalState): number {
  const { candidates } = network;
  if (candidates.fault[c]) return faultReason[candidates.fault[c]];
  const out = candidates.out[c];
  if (out >= 0 && !local.interfaceUp[out]) return interfaceDown;
  const watch = candidates.watch[c];
  if (watch >= 0 && !local.watchUp[watch]) return watchDown;
  const slot = candidates.answer[c];
  if (slot >= 0 && !local.answers[slot]) {
    if (restsOnOwnRole(network, c)) return ownAddress;
    const written =
      candidates.source[c] === sourceCodes.static || candidates.source[c] === sourceCodes.handedOut;
    return written ? gatewayDead : neighbourLost;
  }
  return 0;
}
