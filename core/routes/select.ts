import { type DeviceRecord, type Network, sourceCodes } from "../network/index.ts";
import { type ReasonCode, reasonOf, stateCodes } from "./codes.ts";
import { byPreference } from "./preference.ts";

/**
 * Chooses among the usable candidates of each destination (rules 5.1, 5.2, 7.1): lowest distance, then one
 * source, then lowest metric, then equal cost up to the profile's limit in document order. Local routes
 * stand outside: they are delivered to before any lookup. `groups` (network-wide) are those to choose in.
 */
export function selectRoutes(
  network: Network,
  device: DeviceRecord,
  usable: Int8Array,
  tables: { state: Uint8Array; reason: Uint8Array; detail: Int32Array },
  groups: Iterable<number>,
) {
  const selection = new Selection(network, device, usable, tables);
  for (const group of groups) selection.choose(group);
}

class Selection {
  private readonly first: number;
  private readonly hasDistance: boolean;
  private readonly preference: (a: number, b: number) => number;

  constructor(
    private readonly network: Network,
    private readonly device: DeviceRecord,
    private readonly usable: Int8Array,
    private readonly tables: { state: Uint8Array; reason: Uint8Array; detail: Int32Array },
  ) {
    this.first = device.firstCandidate;
    this.hasDistance = device.profile.staticDistance !== null;
    this.preference = byPreference(network, device);
  }

  /** Chooses within one group (network-wide). */
  choose(g: number) {
    const { candidates, groups } = this.network;
    let only = -1;
    let several: number[] | null = null;
    for (let c = groups.start[g]; c < groups.start[g + 1]; c++) {
      if (this.usable[c - this.first] !== 1) continue;
      if (candidates.source[c] === sourceCodes.local) this.use(c);
      else if (only < 0) only = c;
      else if (several) several.push(c);
      else several = [only, c];
    }
    if (several) this.share(several);
    else if (only >= 0) this.use(only);
    else this.keepLastGateway(g);
  }

  private use(c: number) {
    this.tables.state[c - this.first] = stateCodes["in-use"];
  }

  private standBy(c: number, code: ReasonCode, winner: number) {
    this.tables.state[c - this.first] = stateCodes.standby;
    this.tables.reason[c - this.first] = reasonOf(code);
    this.tables.detail[c - this.first] = winner;
  }

  private share(running: number[]) {
    running.sort(this.preference);
    const winner = running[0];
    this.use(winner);
    let sharing = 1;
    for (const c of running.slice(1)) {
      const lost = this.loses(c, winner);
      if (lost) this.standBy(c, lost, winner);
      else if (this.device.profile.deadGatewayMs && this.device.profile.equalCost === 1)
        this.shareUncertainly(winner, c);
      else if (
        this.device.profile.equalCostOneInterface &&
        this.network.candidates.out[c] !== this.network.candidates.out[winner]
      ) {
        this.standBy(c, "equal-cost-other-interface", winner);
      } else if (sharing >= this.device.profile.equalCost) this.standBy(c, "equal-cost-limit", winner);
      else {
        this.use(c);
        sharing++;
      }
    }
  }

  private loses(c: number, winner: number): ReasonCode | null {
    if (this.hasDistance && this.network.candidates.distance[c] !== this.network.candidates.distance[winner])
      return "beaten-on-distance";
    if (!this.hasDistance && this.network.candidates.metric[c] !== this.network.candidates.metric[winner])
      return "beaten-on-metric";
    if (this.network.candidates.source[c] !== this.network.candidates.source[winner])
      return "beaten-by-source";
    return this.network.candidates.metric[c] !== this.network.candidates.metric[winner]
      ? "beaten-on-metric"
      : null;
  }

  /** Rule 7.1: which of two equal gateways a host starts with is not known; both count as in use. */
  private shareUncertainly(winner: number, c: number) {
    this.use(c);
    for (const one of [winner, c]) {
      this.tables.reason[one - this.first] = reasonOf("gateway-order-uncertain");
      this.tables.detail[one - this.first] = one === winner ? c : winner;
    }
  }

  /** A sender all of whose gateways are dead keeps trying the one that it likes best. */
  private keepLastGateway(g: number) {
    let best = -1;
    for (let c = this.network.groups.start[g]; c < this.network.groups.start[g + 1]; c++) {
      if (this.tables.reason[c - this.first] !== reasonOf("gateway-dead")) continue;
      if (best < 0 || this.preference(c, best) < 0) best = c;
    }
    if (best < 0) return;
    this.use(best);
    this.tables.reason[best - this.first] = reasonOf("last-gateway");
  }
}
