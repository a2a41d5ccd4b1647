import { spawn, spawnSync } from "node:child_process";
import { profileOf } from "../core/network/index.ts";
import type { Device, Plan, PolicyTable, StaticRoute, VirtualRouter } from "../core/plan/index.ts";
import { rulesetOf } from "./firewall.ts";
import { kernelMetric, portName } from "./names.ts";
import { answeredOutside } from "./outside.ts";
import { batch, run } from "./shell.ts";
import { type LabTunnel, partsOfTunnel } from "./tunnels.ts";
import { type Rewired, rewired, wiringOf } from "./wiring.ts";

/** Where a kernel sends an address. */
export interface Sent {
  readonly out: string;
  readonly via: string | null;
  readonly source: string | null;
}

/** What `ip -j route get` says. */
interface Answer {
  readonly dst: string;
  readonly dev?: string;
  readonly gateway?: string;
  readonly type?: string;
  readonly prefsrc?: string;
}

/** A virtual router of a device, with the port through which it acts. */
export interface VirtualPort {
  readonly end: string;
  readonly virtual: VirtualRouter;
  /** What the port is called in the device. */
  readonly own: string;
  /** Identifies the port to the agent; unused otherwise. */
  readonly ownAddress: string;
  /** The other end of it, on the link's bridge. */
  readonly port: string;
}

/**
 * Numbers of the fabric's ports, beyond those that the devices' own get: where both ends of a pair had one number, the
 * kernel would take them for no pair, and hear of a carrier up to a second late.
 */
const FIRST_INDEX = 100_000;
/** Between two looks at what the kernel has done. */
const REST_MS = 20;

/**
 * A plan built out of Linux network namespaces: one for each device, and one, the fabric, that holds a
 * bridge for each link. Every interface is a pair of virtual ports, its own end in the device and the other
 * on the bridge, so that carrier can be taken from it from outside. Traffic stays inside the namespaces.
 */
export class Lab {
  private readonly ports = new Map<string, string>();
  private readonly bridges = new Map<string, string>();
  /** Virtual routers that the plan's links join, each with its port. */
  readonly virtualPorts: readonly VirtualPort[];
  /** Routes that the kernel did not take, as "device position". */
  readonly refused = new Set<string>();

  /** `prefix`: the start of its namespaces' names, unique among labs. `failed`: the initially failed elements.
   * `tunnels`: the plan's tunnels that are built. */
  constructor(
    private readonly plan: Plan,
    readonly prefix: string,
    private failed: readonly string[] = [],
    readonly tunnels: readonly LabTunnel[] = [],
  ) {
    for (const [l, link] of plan.links.entries()) {
      this.bridges.set(link.id, `br${l}`);
      for (const [e, end] of link.ends.entries()) this.ports.set(end, `p${l}x${e}`);
    }
    this.virtualPorts = plan.devices.flatMap((device) => {
      const all = device.interfaces.flatMap((port) =>
        (port.virtual ?? []).map((virtual) => ({ end: `${device.id}/${port.name}`, virtual })),
      );
      return all.flatMap(({ end, virtual }, n) => {
        const port = this.ports.get(end);
        const names = {
          own: `vr${n}`,
          ownAddress: `169.254.${n >> 8}.${(n & 255) + 1}`,
          port: `${port}v${n}`,
        };
        return port ? [{ end, virtual, ...names }] : [];
      });
    });
  }

  /** The bridge of a link, and the ports on bridges that an interface has. */
  bridgeOf(link: string): string {
    return this.bridges.get(link) as string;
  }

  private bridgeUnder(end: string): string {
    return this.bridgeOf(this.plan.links.find(({ ends }) => ends.includes(end))?.id ?? "");
  }

  portsOf(end: string): string[] {
    const port = this.ports.get(end);
    return port ? [port, ...this.virtualPorts.filter((one) => one.end === end).map((one) => one.port)] : [];
  }

  namespace(device: string): string {
    return `${this.prefix}-${device}`;
  }

  get fabric(): string {
    return `${this.prefix}-fabric`;
  }

  build() {
    const all = [...this.plan.devices.map((device) => this.namespace(device.id)), this.fabric];
    batch(
      null,
      all.map((name) => `netns add ${name}`),
    );
    const wiring: string[] = [];
    let index = FIRST_INDEX;
    for (const link of this.plan.links) {
      const bridge = this.bridges.get(link.id);
      // Announcements of neighbours (IEEE 802.1AB) pass as they would through a cable.
      const kind = "type bridge stp_state 0 mcast_snooping 0 group_fwd_mask 16384";
      wiring.push(`link add ${bridge} ${kind}`, `link set ${bridge} up`);
      for (const end of link.ends) {
        const [device, name] = [end.slice(0, end.indexOf("/")), end.slice(end.indexOf("/") + 1)];
        const port = this.ports.get(end);
        wiring.push(
          `link add ${port} index ${index++} type veth peer name ${portName(name)} netns ${this.namespace(device)}`,
          `link set ${port} master ${bridge}`,
          `link set ${port} up`,
        );
        // Ports that are isolated reach the others alone, here the hub.
        if (link.hub !== undefined && link.hub !== end)
          wiring.push(`link set ${port} type bridge_slave isolated on`);
        for (const one of this.virtualPorts.filter((virtual) => virtual.end === end))
          wiring.push(
            `link add ${one.port} index ${index++} type veth peer name ${one.own} netns ${this.namespace(device)}`,
            `link set ${one.port} master ${bridge}`,
            `link set ${one.port} up`,
          );
      }
    }
    for (const device of this.plan.devices) this.settings(device);
    batch(this.fabric, wiring);
    for (const [position, tunnel] of this.tunnels.entries()) this.lay(tunnel, position);
    for (const device of this.plan.devices) this.configure(device);
    // Ports come up in the kernel's own time; nothing is asked before all have carrier.
    const off = new Set(
      this.plan.devices.flatMap(({ id, interfaces }) =>
        interfaces.flatMap(({ name, enabled }) => (enabled === false ? [`${id}/${name}`] : [])),
      ),
    );
    this.waitForCarrier(
      [...this.ports.keys()].filter((end) => !off.has(end)),
      true,
    );
  }

  /** A tunnel's interface is an end of a pair whose other end stands on a bridge with the VXLAN: its carrier can be taken. */
  private lay({ end, name, under, from, to, number }: LabTunnel, position: number) {
    const { vxlan, bridge, port } = partsOfTunnel(position);
    const own = this.namespace(end.slice(0, end.indexOf("/")));
    batch(this.namespace(under), [
      `link add ${vxlan} type vxlan id ${number} ${from ? `local ${from} ` : ""}remote ${to} dstport 4789`,
      `link add ${bridge} type bridge stp_state 0 mcast_snooping 0`,
      `link add ${port} index ${FIRST_INDEX + position} type veth peer name ${name} netns ${own}`,
      ...[vxlan, port].map((one) => `link set ${one} master ${bridge}`),
      // The bridge has the device's own addresses behind it, and would answer for them.
      ...[bridge, vxlan, port].map((one) => `link set ${one} arp off addrgenmode none up`),
    ]);
  }

  private settings(device: Device) {
    const four = device.forwarding?.ipv4 ?? device.role !== "host";
    const six = device.forwarding?.ipv6 ?? device.role !== "host";
    const withdraws = profileOf(this.plan, device).profile.carrierLoss === "withdraw";
    const values = [
      `net.ipv4.ip_forward=${Number(four)}`,
      `net.ipv6.conf.all.forwarding=${Number(six)}`,
      `net.ipv4.conf.all.rp_filter=${this.returnPathCheck(device)}`,
      "net.ipv4.conf.default.rp_filter=0",
      ...["ipv4.conf.all", "ipv4.conf.default", "ipv6.conf.all", "ipv6.conf.default"].map(
        (place) => `net.${place}.ignore_routes_with_linkdown=${Number(withdraws)}`,
      ),
      "net.ipv6.conf.default.accept_dad=0",
      "net.ipv6.conf.default.dad_transmits=0",
      "net.ipv6.conf.default.accept_ra=0",
      "net.ipv4.icmp_ratelimit=0",
      "net.ipv4.icmp_msgs_per_sec=100000",
      "net.ipv4.icmp_msgs_burst=100000",
      "net.ipv6.icmp.ratelimit=0",
    ];
    run("ip", ["netns", "exec", this.namespace(device.id), "sysctl", "-q", "-w", ...values], true);
  }

  private configure(device: Device) {
    const namespace = this.namespace(device.id);
    const lines = ["link set lo up"];
    for (const [n, port] of device.interfaces.entries()) {
      // Not every kernel has dummy interfaces; a pair that ends in itself is always up too.
      const own = portName(port.name);
      if (port.kind === "loopback")
        lines.push(`link add dev ${own} type veth peer name loop${n}`, `link set dev loop${n} up`);
      // An interface without a link is not built, and would be down.
      else if (!this.isBuilt(`${device.id}/${port.name}`)) continue;
      for (const address of port.addresses)
        lines.push(`address add ${address} dev ${own}${address.includes(":") ? " nodad" : ""}`);
      if (port.enabled !== false) lines.push(`link set dev ${own} up`);
    }
    if (device.role === "internet")
      for (const address of answeredOutside(this.plan))
        lines.push(`address add ${address}/${address.includes(":") ? 128 : 32} dev lo`);
    const virtuals = this.virtualPorts.filter(({ end }) => end.startsWith(`${device.id}/`));
    for (const one of virtuals) lines.push(...virtualLines(one));
    batch(namespace, lines);
    this.tune(device, virtuals);
    const ruleset = rulesetOf(this.plan, device);
    if (ruleset) filter(namespace, ruleset);
    // What needs no next hop goes first: the kernel looks next hops up as it takes each route.
    const order = [...device.routes.entries()].sort(
      ([, a], [, b]) => Number(Boolean(a.via)) - Number(Boolean(b.via)),
    );
    for (const [i, route] of order) {
      if (route.enabled !== false && !this.takes(namespace, route)) this.refused.add(`${device.id} ${i}`);
    }
    for (const [t, table] of device.policyTables.entries()) this.steer(namespace, table, t);
  }

  private isBuilt(end: string): boolean {
    return this.ports.has(end) || this.tunnels.some((tunnel) => tunnel.end === end);
  }

  /** Neighbours are asked for again soon, and a virtual router answers and forwards through its own port alone. */
  private tune(device: Device, virtuals: readonly VirtualPort[]) {
    const ports = device.interfaces.filter(({ name }) => this.isBuilt(`${device.id}/${name}`));
    const values = ports.flatMap(({ name }) =>
      ["ipv4", "ipv6"].map(
        (family) => `net/${family}/neigh/${portName(name)}/retrans_time_ms=${ASK_AGAIN_MS}`,
      ),
    );
    const hubs = new Set(this.plan.links.map(({ hub }) => hub));
    // The kernel would wait before it answers for another.
    for (const { name, proxyArp } of ports)
      if (proxyArp)
        values.push(
          `net/ipv4/conf/${portName(name)}/proxy_arp=1`,
          `net/ipv4/neigh/${portName(name)}/proxy_delay=0`,
          // A hub also answers for what leads out by the way that it was asked on.
          `net/ipv4/conf/${portName(name)}/proxy_arp_pvlan=${Number(hubs.has(`${device.id}/${name}`))}`,
        );
    if (virtuals.length > 0) values.push("net/ipv4/conf/all/arp_ignore=1");
    for (const { own } of virtuals)
      values.push(`net/ipv4/conf/${own}/forwarding=0`, `net/ipv6/conf/${own}/disable_ipv6=1`);
    if (values.length > 0)
      run("ip", ["netns", "exec", this.namespace(device.id), "sysctl", "-q", "-w", ...values], true);
  }

  /** RFC 3704's check as the kernel numbers it: 0 none, 1 strict, 2 loose. */
  private returnPathCheck(device: Device): number {
    const own = this.plan.profiles.find((profile) => profile.id === device.profile);
    return { off: 0, strict: 1, loose: 2 }[own?.returnPath ?? "off"];
  }

  /** Takes a route out of a device's main table. */
  withdraw(device: string, route: StaticRoute) {
    this.change("del", this.namespace(device), route, "main");
  }

  private takes(namespace: string, route: StaticRoute, table = "main"): boolean {
    return this.change("add", namespace, route, table);
  }

  private change(doing: "add" | "del", namespace: string, route: StaticRoute, table: string): boolean {
    const family = route.to.includes(":") ? "-6" : "-4";
    const words = [
      ...(route.discard ? [route.discard === "drop" ? "blackhole" : "unreachable"] : []),
      route.to,
      ...(route.via ? ["via", route.via] : []),
      ...(route.out ? ["dev", portName(route.out)] : []),
      ...(route.onLink ? ["onlink"] : []),
    ];
    const place = ["metric", String(kernelMetric(route.metric, family)), "table", table];
    return run("ip", ["-n", namespace, family, "route", doing, ...words, ...place], true).status === 0;
  }

  /** A policy table is a table of the kernel's, and a rule for each pair of an interface and a source that lead to it. */
  private steer(namespace: string, table: PolicyTable, position: number) {
    const number = String(100 + position);
    for (const route of table.routes) {
      if (!this.takes(namespace, route, number)) throw new Error(`the kernel did not take ${route.to}`);
    }
    const { in: ports, from, to, protocol, port: dport, mark } = table.match;
    for (const family of ["-4", "-6"]) {
      const own = (list: readonly string[] | undefined) =>
        list?.length ? list.filter((prefix) => prefix.includes(":") === (family === "-6")) : [null];
      const carried = protocol === "icmp" && family === "-6" ? "ipv6-icmp" : protocol;
      const always = [
        ...(carried ? ["ipproto", carried] : []),
        ...(dport ? ["dport", dport] : []),
        ...(mark ? ["fwmark", String(mark)] : []),
      ];
      for (const source of own(from)) {
        for (const destination of own(to)) {
          for (const port of ports?.length ? ports : [null]) {
            const match = [
              ...(source ? ["from", source] : []),
              ...(destination ? ["to", destination] : []),
              ...(port ? ["iif", portName(port)] : []),
              ...always,
            ];
            const rule = ["rule", "add", ...match, "lookup", number, "priority", String(1000 + position)];
            run("ip", ["-n", namespace, family, ...rule]);
          }
        }
      }
    }
  }

  /** Waits until carrier is at each of these ends, or at none of them. One question a device, and a rest in between. */
  private waitForCarrier(ends: readonly string[], wanted: boolean) {
    const end = Date.now() + 20_000;
    let open = [...ends];
    while (open.length > 0) {
      const devices = new Set(open.map((one) => one.slice(0, one.indexOf("/"))));
      const up = new Set([...devices].flatMap((device) => this.portsWithCarrier(device)));
      open = open.filter((one) => up.has(one) !== wanted);
      if (open.length === 0) return;
      if (Date.now() > end) throw new Error(`the kernel's ports did not follow: ${open.join(", ")}`);
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, REST_MS);
    }
  }

  private portsWithCarrier(device: string): string[] {
    const shown = run("ip", ["-n", this.namespace(device), "-br", "link"]).stdout;
    const up = new Set(
      shown.split("\n").flatMap((line) => (/^\S+\s+UP\s/.test(line) ? [line.split(/[\s@]/)[0]] : [])),
    );
    return [...this.ports.keys()].filter(
      (end) => end.startsWith(`${device}/`) && up.has(portName(end.slice(end.indexOf("/") + 1))),
    );
  }

  /** Fails an element, or heals it, as rule 2 says that it shows: by carrier, or in silence. */
  set(ref: string, up: boolean) {
    const before = wiringOf(this.plan, this.failed);
    this.failed = up ? this.failed.filter((one) => one !== ref) : [...this.failed, ref];
    const { dark, lit, ...rest } = rewired(before, wiringOf(this.plan, this.failed));
    batch(this.fabric, [...this.passing(rest), ...this.carrying(lit, true), ...this.carrying(dark, false)]);
    for (const [position, { end, under }] of this.tunnels.entries()) {
      const now = lit.includes(end) ? "up" : dark.includes(end) ? "down" : null;
      if (now) batch(this.namespace(under), [`link set ${partsOfTunnel(position).port} ${now}`]);
    }
    for (const [ends, wanted] of [
      [dark, false],
      [lit, true],
    ] as const)
      this.waitForCarrier(
        ends.filter((end) => this.ports.has(end)),
        wanted,
      );
  }

  /** Lets a device forget whom it has resolved. */
  forget(device: string) {
    run("ip", ["-n", this.namespace(device), "neigh", "flush", "all"], true);
  }

  /** The commands that take carrier from ends, or restore it. */
  carrying(ends: readonly string[], up: boolean): string[] {
    return ends.flatMap((end) => this.portsOf(end).map((port) => `link set ${port} ${up ? "up" : "down"}`));
  }

  /** The commands that block traffic, or allow it again, without changing carrier. */
  passing({ killed, revived, muted, heard, deafened, reached }: Omit<Rewired, "dark" | "lit">): string[] {
    const bridge = (state: string) => (link: string) => `link set ${this.bridgeOf(link)} ${state}`;
    const taken = (end: string) => this.portsOf(end).map((port) => `link set ${port} nomaster`);
    const given = (end: string) =>
      this.portsOf(end).map((port) => `link set ${port} master ${this.bridgeUnder(end)}`);
    // A bridge passes nothing to a port whose addresses it neither knows, learns nor looks for there.
    const reachable = (state: "on" | "off") => (end: string) =>
      this.portsOf(end).map(
        (port) =>
          `link set ${port} type bridge_slave learning ${state} flood ${state} mcast_flood ${state} bcast_flood ${state} fdb_flush`,
      );
    return [
      ...killed.map(bridge("down")),
      ...revived.map(bridge("up")),
      ...muted.flatMap(taken),
      ...heard.flatMap(given),
      ...deafened.flatMap(reachable("off")),
      ...reached.flatMap(reachable("on")),
    ];
  }

  /** What a device's own tools say of it: files as they would be collected, by the device's name. */
  collected(device: string): { name: string; text: string }[] {
    const ip = (...args: string[]) => run("ip", ["-n", this.namespace(device), "-j", ...args]).stdout;
    return Object.entries({
      address: ip("-d", "address"),
      route4: ip("-4", "route", "show", "table", "all"),
      route6: ip("-6", "route", "show", "table", "all"),
      rule: ip("rule"),
      neighbour: ip("neighbour"),
      netconf: ip("netconf"),
    }).map(([name, text]) => ({ name: `${device}/${name}.json`, text }));
  }

  /** Where the kernel of a device sends addresses: the interface, the next hop, the source; null where nowhere. */
  lookups(device: string, addresses: readonly string[]): Map<string, Sent | null> {
    const lines = addresses.map((address) => `route get ${address}`).join("\n");
    const args = ["-n", this.namespace(device), "-j", "-force", "-batch", "-"];
    // Addresses without a route are errors, reported elsewhere; each answer names its address.
    const { stdout } = spawnSync("ip", args, { input: `${lines}\n`, encoding: "utf8" });
    const answers = new Map<string, Sent | null>(addresses.map((address) => [address, null]));
    for (const list of stdout.split("\n").filter((line) => line.startsWith("["))) {
      for (const { dst, dev, gateway, type, prefsrc } of JSON.parse(list) as Answer[]) {
        if (!dev || type === "unreachable" || type === "blackhole" || dev === "lo") continue;
        answers.set(dst, { out: dev, via: gateway ?? null, source: prefsrc ?? null });
      }
    }
    return answers;
  }

  /** What one packet of each is answered by: the answer's source, and the message that it is. */
  async answers(
    asked: readonly { from: string; source: string; to: string; limit: number }[],
  ): Promise<({ from: string; message: string } | null)[]> {
    return Promise.all(
      asked.map(async ({ from, source, to, limit }) => {
        const { text } = await this.ping(from, ["-c", "1", "-W", "2", "-t", String(limit), "-I", source, to]);
        const reply = /bytes from (\S+?):? icmp_seq/.exec(text);
        if (reply) return { from: reply[1], message: "reply" };
        const error = /From (\S+?):? icmp_seq=1 (.*)/.exec(text);
        return error && { from: error[1], message: error[2].trim() };
      }),
    );
  }

  /** One run of ping in a device: whether it was answered, and its output. */
  private ping(from: string, words: readonly string[]): Promise<{ answered: boolean; text: string }> {
    return new Promise((resolve) => {
      const line = ["netns", "exec", this.namespace(from), "ping", "-n", ...words];
      const child = spawn("ip", line, { stdio: ["ignore", "pipe", "ignore"] });
      const parts: Buffer[] = [];
      child.stdout.on("data", (part) => parts.push(part));
      child.on("close", (code) => resolve({ answered: code === 0, text: Buffer.concat(parts).toString() }));
    });
  }

  /** Whether pings of one host to another are answered; all pairs at once. */
  async pings(pairs: readonly { from: string; source: string; to: string }[]): Promise<boolean[]> {
    const how = ["-c", "2", "-i", "0.2", "-W", "0.5"];
    const runs = await Promise.all(
      pairs.map(({ from, source, to }) => this.ping(from, [...how, "-I", source, to])),
    );
    return runs.map(({ answered }) => answered);
  }

  remove() {
    const all = [...this.plan.devices.map((device) => this.namespace(device.id)), this.fabric];
    for (const name of all) run("ip", ["netns", "del", name], true);
  }
}

/** Between two questions for a neighbour that does not answer. */
const ASK_AGAIN_MS = 10;

/** The port of a virtual router has its hardware address (RFC 9568, section 7.3), and its addresses only while it is Active. */
function virtualLines({ own, ownAddress, virtual }: VirtualPort): string[] {
  const id = virtual.id.toString(16).padStart(2, "0");
  return [
    `link set dev ${own} address 00:00:5e:00:01:${id}`,
    `address add ${ownAddress}/32 dev ${own}`,
    `link set dev ${own} up`,
  ];
}

/** Gives rules to nftables in a namespace. */
export function filter(namespace: string, ruleset: string) {
  const done = spawnSync("ip", ["netns", "exec", namespace, "nft", "-f", "-"], {
    input: ruleset,
    encoding: "utf8",
  });
  if (done.status !== 0) throw new Error(`nft in ${namespace}: ${done.stderr || done.error}\n${ruleset}`);
}

/** Whether namespaces can be made here: as root, with iproute2, nftables and ping. */
export function canBuild(): boolean {
  const name = `if${process.pid}-try`;
  if (run("ip", ["netns", "add", name], true).status !== 0) return false;
  const has = (program: string, option: string) => run(program, [option], true).status === 0;
  const all = has("ping", "-V") && has("nft", "--version");
  run("ip", ["netns", "del", name], true);
  return all;
}
