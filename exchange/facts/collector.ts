import type { Question } from "../readers/text/numbers.ts";
import type { DeviceFacts, Fate, InterfaceFact, LineFate, RouteFact, VirtualFact } from "./facts.ts";

/** The length up to which an input line is quoted. */
const MAX_TEXT = 200;

/** What a line of input added. */
export type Added =
  | { readonly kind: "interface"; readonly name: string; readonly addresses: readonly string[] }
  | { readonly kind: "route"; readonly route: RouteFact };

const emptyInterface = (name: string): InterfaceFact => ({
  name,
  kind: null,
  up: null,
  enabled: null,
  hardware: null,
  addresses: [],
  vrf: null,
  parent: null,
  vlan: null,
  members: [],
  minUp: null,
  lacp: null,
  zone: null,
  mbps: null,
  virtual: [],
});

const lists = ["rules", "neighbours", "adjacent", "translations", "destinations", "marks"] as const;
type List = (typeof lists)[number];

const keyIn = (list: List, entry: unknown) => `${list} ${JSON.stringify(entry)}`;

/** What the readers of one device's files put together: facts, each once, and the fate of every line. */
export class Collector {
  readonly facts: DeviceFacts;
  readonly fates: LineFate[] = [];
  /** Names of the device that its own files tell, the first kept. */
  told: string | null = null;
  /** VRFs by the table that holds their routes. */
  readonly vrfOfTable = new Map<string, string>();
  /** Interfaces that stand under another, by their names. */
  readonly masters = new Map<string, string>();
  /** Routes whose next hop is a neighbour whatever the addresses say: destination, next hop and interface. */
  readonly onLink = new Set<string>();
  /** What its interfaces say of forwarding, by family. */
  readonly forwardingOf: ["ipv4" | "ipv6", boolean][] = [];
  /** Words without a known meaning, with their number of lines. */
  readonly openWords = new Map<string, number>();
  /** Questions about columns that a text leaves open. */
  readonly questions: Question[] = [];
  private readonly interfaces = new Map<string, InterfaceFact>();
  private readonly routes = new Set<string>();
  private readonly routesByHop = new Map<string, RouteFact[]>();
  private readonly seen = new Set<string>();
  /** What each line of input added, in the order of the lines' fates. */
  readonly added: { readonly file: string; readonly line: number; readonly facts: readonly Added[] }[] = [];
  private fresh: Added[] = [];

  constructor(device: string) {
    this.facts = {
      device,
      interfaces: [],
      routes: [],
      rules: [],
      neighbours: [],
      adjacent: [],
      translations: [],
      destinations: [],
      marks: [],
      forwarding: { ipv4: null, ipv6: null },
    };
  }

  /** The device's name: its own, else the one given with its files. */
  get name(): string {
    return this.told ?? this.facts.device;
  }

  /** Its facts under that name. */
  get named(): DeviceFacts {
    return { ...this.facts, device: this.name };
  }

  /** Continues a stored reading as though its files were read again. */
  static from(facts: DeviceFacts): Collector {
    const made = new Collector(facts.device);
    for (const { name, ...entry } of facts.interfaces) made.interface(name, entry);
    for (const route of facts.routes) made.route(route);
    for (const list of lists) {
      for (const entry of facts[list]) made.add(list, entry);
    }
    Object.assign(made.facts.forwarding, facts.forwarding);
    return made;
  }

  fate(at: { file: string; line: number; text: string }, fate: Fate, detail: string) {
    const text = at.text.length > MAX_TEXT ? `${at.text.slice(0, MAX_TEXT)}…` : at.text;
    this.fates.push({ file: at.file, line: at.line, text, fate, detail });
    if (this.fresh.length > 0) this.added.push({ file: at.file, line: at.line, facts: this.fresh });
    this.fresh = [];
  }

  /** Adds facts about an interface; missing values do not overwrite earlier ones. */
  interface(name: string, more: Partial<Omit<InterfaceFact, "name">>): InterfaceFact {
    let entry = this.interfaces.get(name);
    const isNew = !entry;
    if (!entry) {
      entry = emptyInterface(name);
      this.interfaces.set(name, entry);
      this.facts.interfaces.push(entry);
    }
    const { addresses = [], members = [], virtual = [], ...told } = more;
    for (const [key, value] of Object.entries(told)) {
      if (value !== null && value !== undefined) Object.assign(entry, { [key]: value });
    }
    if (addresses.length > 0 || isNew) this.fresh.push({ kind: "interface", name, addresses });
    for (const address of addresses) if (!entry.addresses.includes(address)) entry.addresses.push(address);
    const key = ({ id, addresses: [first] }: VirtualFact) => `${id} ${first?.includes(":")}`;
    for (const router of virtual)
      if (!entry.virtual.some((known) => key(known) === key(router))) entry.virtual.push(router);
    for (const member of members) if (!entry.members.includes(member)) entry.members.push(member);
    return entry;
  }

  hasInterface(name: string): boolean {
    return this.interfaces.has(name);
  }

  /** Adds a route; false if it is a repetition. */
  route(route: RouteFact): boolean {
    const key = [route.to, route.via, route.out, route.vrf, route.table, route.metric, route.distance].join(
      " ",
    );
    if (this.routes.has(key)) return false;
    this.routes.add(key);
    this.facts.routes.push(route);
    this.fresh.push({ kind: "route", route });
    const hop = `${route.vrf} ${route.to} ${route.via}`;
    const same = this.routesByHop.get(hop);
    if (same) same.push(route);
    else this.routesByHop.set(hop, [route]);
    return true;
  }

  /** A route in both configuration and state is one route: missing values are filled in. False if there is no
   * counterpart. */
  routeOfOtherSide(route: RouteFact): boolean {
    const other = this.routesByHop
      .get(`${route.vrf} ${route.to} ${route.via}`)
      ?.find(
        (known) =>
          (known.active === null) !== (route.active === null) &&
          known.discard === route.discard &&
          (known.out === route.out || known.out === null || route.out === null) &&
          (known.source === route.source || known.source === null || route.source === null),
      );
    if (!other) return false;
    for (const [key, value] of Object.entries(route)) {
      if (other[key as keyof RouteFact] === null) Object.assign(other, { [key]: value });
    }
    return true;
  }

  /** For sources that list all routes of a table, including inactive ones: of several to one destination the lowest
   * metric is active, unless its interface is dead; the others are standby. */
  settleByMetric() {
    const best = new Map<string, number>();
    const key = ({ vrf, table, to }: RouteFact) => `${vrf} ${table} ${to}`;
    for (const route of this.facts.routes) {
      if (route.active !== true) continue;
      best.set(key(route), Math.min(best.get(key(route)) ?? Number.POSITIVE_INFINITY, route.metric ?? 0));
    }
    for (const route of this.facts.routes) {
      if (route.active === true && (route.metric ?? 0) > (best.get(key(route)) ?? 0)) route.active = false;
    }
  }

  /** Adds an entry to one of the other lists; false if it is a repetition. */
  add<K extends List>(list: K, entry: DeviceFacts[K][number]): boolean {
    if (this.knows(list, entry)) return false;
    this.seen.add(keyIn(list, entry));
    (this.facts[list] as unknown[]).push(entry);
    return true;
  }

  knows<K extends List>(list: K, entry: DeviceFacts[K][number]): boolean {
    return this.seen.has(keyIn(list, entry));
  }
}
