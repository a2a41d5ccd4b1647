import { type DeviceRecord, type Network, sourceCodes } from "../network/index.ts";
import { type ReasonCode, reasonOf, stateCodes } from "./codes.ts";
import { byPreference } from "./preference.ts";

/**
 * Chooses among the usable candidates of each destination (rules 5.1, 5.2, 7.1): lowest distance, then one
 * source, then lowest metric, then equal cost up to the profile's limit in document order. Local routes
 * stand outside: they are delivered to before any lookup.
 */
export function selectRoutes(
  network: Network,
  device: DeviceRecord,
  usable: Int8Array,
  tables: { state: Uint8Array; reason: Uint8Array; detail: Int32Array },
) {
  const { candidates, groups } = network;
  const first = device.firstCandidate;
  const { profile } = device;
  const hasDistance = profile.staticDistance !== null;
  const preference = byPreference(network, device);

  for (let g = device.firstGroup; g < device.endGroup; g++) {
    const running: number[] = [];
    for (let c = groups.start[g]; c < groups.start[g + 1]; c++) {
      if (usable[c - first] !== 1) continue;
      if (candidates.source[c] === sourceCodes.local) tables.state[c - first] = stateCodes["in-use"];
      else running.push(c);
    }
    if (running.length === 0) keepLastGateway(g);
    else if (running.length === 1) use(running[0]);
    else choose(running);
  }

  function use(c: number) {
    tables.state[c - first] = stateCodes["in-use"];
  }

  function standBy(c: number, code: ReasonCode, winner: number) {
    tables.state[c - first] = stateCodes.standby;
    tables.reason[c - first] = reasonOf(code);
    tables.detail[c - first] = winner;
  }

  function choose(running: number[]) {
    running.sort(preference);
    const winner = running[0];
    use(winner);
    let sharing = 1;
    for (const c of running.slice(1)) {
      const lost = loses(c, winner);
      if (lost) standBy(c, lost, winner);
      else if (profile.deadGatewayMs && profile.equalCost === 1) shareUncertainly(winner, c);
      else if (profile.equalCostOneInterface && candidates.out[c] !== candidates.out[winner]) {
        standBy(c, "equal-cost-other-interface", winner);
      } else if (sharing >= profile.equalCost) standBy(c, "equal-cost-limit", winner);
      else {
        use(c);
        sharing++;
      }
    }
  }

  function loses(c: number, winner: number): ReasonCode | null {
    if (hasDistance && candidates.distance[c] !== candidates.distance[winner]) return "beaten-on-distance";
    if (!hasDistance && candidates.metric[c] !== candidates.metric[winner]) return "beaten-on-metric";
    if (candidates.source[c] !== candidates.source[winner]) return "beaten-by-source";
    return candidates.metric[c] !== candidates.metric[winner] ? "beaten-on-metric" : null;
  }

  /** Rule 7.1: which of two equal gateways a host starts with is not known; both count as in use. */
  function shareUncertainly(winner: number, c: number) {
    use(c);
    for (const one of [winner, c]) {
      tables.reason[one - first] = reasonOf("gateway-order-uncertain");
      tables.detail[one - first] = one === winner ? c : winner;
    }
  }

  /** A sender all of whose gateways are dead keeps trying the one that it likes best. */
  function keepLastGateway(g: number) {
    let best = -1;
    for (let c = groups.start[g]; c < groups.start[g + 1]; c++) {
      if (tables.reason[c - first] !== reasonOf("gateway-dead")) continue;
      if (best < 0 || preference(c, best) < 0) best = c;
    }
    if (best < 0) return;
    use(best);
    tables.reason[best - first] = reasonOf("last-gateway");
  }
}
