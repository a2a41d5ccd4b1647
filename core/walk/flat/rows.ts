import type { Address } from "../../address/index.ts";
import { actionCodes, type Network, ownerOnLink, sourceCodes, virtualsOnLink } from "../../network/index.ts";
import {
  type DeviceTables,
  isRouteInUse,
  longestMatch,
  type NextHop,
  nextHopsOf,
} from "../../routes/index.ts";
import { type AddressBook, addressBook } from "./addresses.ts";
import { NumberMap } from "./number-map.ts";

/** A row: the length of the match, how many branches there are, then the branches. */
export const ROW = { length: 0, branches: 1, size: 2 } as const;

/** A branch: its action (`actionCodes`), egress interface, the interface that answers there regardless of failures (or
 * -1), its next hop's position in `hops`, the VRF it leads to or 1 if the destination itself must answer, and the
 * source that the device would choose (an address, NOT_CHOSEN or NONE). */
export const BRANCH = { action: 0, out: 1, owner: 2, hop: 3, detail: 4, source: 5, size: 6 } as const;

export const NOT_CHOSEN = -2;
export const NONE = -1;
/** In place of who answers: one of several, by the roles of the moment (rules 14 and 17). */
export const BY_ROLE = -2;

/** A device's forwarding by table and address: rows of integers, computed on first use, and shared by all states with
 * the same view of the device (rule 13). */
export class Rows {
  /** For each table, by address: one more than where the row starts in `cells`; -1 no route. */
  private readonly at: NumberMap[] = [];
  readonly cells: number[] = [];
  readonly hops: NextHop[] = [];
  readonly book: AddressBook;

  constructor(
    private readonly network: Network,
    readonly tables: DeviceTables,
  ) {
    this.book = addressBook(network);
  }

  /** Where the row of a table for an address starts in `cells`; -1 where the table has no route. */
  find(table: number, address: number): number {
    let rows = this.at[table];
    if (!rows) {
      rows = new NumberMap();
      this.at[table] = rows;
    }
    const known = rows.get(address);
    if (known !== 0) return known < 0 ? -1 : known - 1;
    const row = this.workOut(table, address);
    rows.add(address, row < 0 ? -1 : row + 1);
    return row;
  }

  /** The start of the main table's row for an address if it is plain: one owned next hop in a main VRF, over no tunnel,
   * bundle or tagged interface; -1 if it needs a closer look. */
  straight(address: number): number {
    const row = this.find(0, address);
    if (row < 0) return -1;
    const { cells } = this;
    const branch = row + ROW.size;
    const owner = cells[branch + BRANCH.owner];
    const { parent, bundle, vrf, tunnel } = this.network.interfaces;
    const out = cells[branch + BRANCH.out];
    return cells[row + ROW.branches] === 1 &&
      cells[branch + BRANCH.action] === actionCodes.forward &&
      owner >= 0 &&
      vrf[owner] === 0 &&
      tunnel[out] < 0 &&
      parent[out] < 0 &&
      bundle[out] < 0 &&
      parent[owner] < 0
      ? row
      : -1;
  }

  /** The next hop of a row that leads straight on. */
  hopOf(address: number): NextHop {
    return this.hops[this.cells[this.find(0, address) + ROW.size + BRANCH.hop]];
  }

  /** Calls for each interface by which a packet may come in next, whether it answers or not. */
  forEachNext(table: number, address: number, call: (next: number) => void) {
    const row = this.find(table, address);
    const branches = row < 0 ? 0 : this.cells[row + ROW.branches];
    for (let b = 0; b < branches; b++) {
      const branch = row + ROW.size + b * BRANCH.size;
      const owner = this.cells[branch + BRANCH.owner];
      if (owner >= 0) call(owner);
      else if (owner === BY_ROLE) {
        const hop = this.hops[this.cells[branch + BRANCH.hop]];
        for (const one of this.anyOf(hop, hop.address ?? this.book.addresses[address])) call(one);
      }
    }
  }

  /** All interfaces that may answer for a next hop, whatever their roles. */
  private anyOf({ out, peer }: NextHop, wanted: Address): number[] {
    const { network } = this;
    const virtual = virtualsOnLink(network, network.interfaces.link[out], wanted);
    const owner = ownerOnLink(network, out, wanted, peer);
    const owners = owner < 0 ? [] : [owner, ...(network.twin[owner] < 0 ? [] : [network.twin[owner]])];
    return [...virtual.map((v) => network.virtuals[v].interface), ...owners];
  }

  private workOut(table: number, number: number): number {
    const { network, tables, cells } = this;
    const address = this.book.addresses[number];
    const group = longestMatch(network, tables, table, address);
    if (group < 0) return -1;
    const row = cells.length;
    const first = network.groups.start[group];
    cells.push(network.candidates.length[first], 0);
    for (let c = first; c < network.groups.start[group + 1]; c++)
      if (isRouteInUse(network, tables, c)) cells[row + ROW.branches] += this.addBranches(address, c);
    return row;
  }

  /** Adds the branches of a candidate in use; gives how many. */
  private addBranches(address: Address, c: number): number {
    const { network, tables } = this;
    const { candidates, interfaces } = network;
    const action = candidates.action[c];
    if (action !== actionCodes.forward) {
      this.add(action, -1, -1, -1, action === actionCodes.vrf ? candidates.toVrf[c] : 0);
      return 1;
    }
    const connected = candidates.source[c] === sourceCodes.connected;
    const hops = nextHopsOf(network, tables, c);
    for (const hop of hops) {
      const wanted = hop.address ?? (connected || !interfaces.pointToPoint[hop.out] ? address : null);
      const straight = hop.address === null && wanted !== null;
      const owner = ownerOnLink(network, hop.out, wanted, hop.peer);
      const shared =
        (owner >= 0 && network.twin[owner] >= 0) ||
        (wanted !== null && virtualsOnLink(network, interfaces.link[hop.out], wanted).length > 0);
      this.add(action, hop.out, shared ? BY_ROLE : owner, this.hops.length, Number(straight));
      this.hops.push(hop);
    }
    return hops.length;
  }

  /** Adds a branch, in the order of BRANCH. */
  private add(action: number, out: number, owner: number, hop: number, detail: number) {
    this.cells.push(action, out, owner, hop, detail, NOT_CHOSEN);
  }
}

/**
 * The rows of a device's tables, kept as long as these. Tables that another network takes over have the same ones, as
 * long as the addresses are numbered alike: rows name interfaces, which are the same, and no routes.
 */
export function rowsOf(network: Network, tables: DeviceTables): Rows {
  const kept = tables.sends.kept as Rows | null;
  if (kept?.book === addressBook(network)) return kept;
  const rows = new Rows(network, tables);
  tables.sends.kept = rows;
  return rows;
}
