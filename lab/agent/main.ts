import { readFileSync } from "node:fs";
import { createInterface } from "node:readline";
import { Commands } from "../commands.ts";
import { bfdStates } from "./bfd/packet.ts";
import { Lateness, machineClock, nowMs } from "./clock.ts";
import { HostGateways } from "./host-gateways.ts";
import type { AgentMessage, Orders, WatchedRoute, Word } from "./orders.ts";
import { Ports } from "./ports.ts";
import { Prober } from "./prober.ts";
import { Sessions } from "./sessions.ts";
import { answer, Sender } from "./traffic.ts";
import { Tunnels } from "./tunnels.ts";
import { Virtuals } from "./virtuals.ts";
import { type Source, Watches } from "./watches.ts";

/** How often it reports whether everything has settled, until started. */
const SETTLE_MS = 50;

const report = (told: AgentMessage) => process.stdout.write(`${JSON.stringify(told)}\n`);

/** A device's own activity during a rehearsal: watches and their routes, virtual routers, traffic. */
class Agent {
  private readonly commands = new Commands(null);
  private readonly probers: Prober[] = [];
  private readonly sessions = new Sessions(machineClock, () => this.look());
  private readonly senders: Sender[];
  private readonly sources = new Map<string, Source>();
  private readonly watches: Watches;
  private readonly virtuals: Virtuals;
  private readonly ports: Ports;
  private readonly tunnels: Tunnels;
  private readonly hostGateways: readonly HostGateways[];
  private readonly lateness = new Lateness();

  constructor(private readonly orders: Orders) {
    this.watches = new Watches(orders.watches, this.sources, machineClock, (id, up) =>
      this.watchSays(id, up),
    );
    this.virtuals = new Virtuals(
      machineClock,
      this.commands,
      ({ watch, port }) => (watch !== undefined ? this.watches.up(watch) : this.ports.up(port ?? "")),
      ({ port, id }, active) => report({ tell: "virtual", port, id, active, atMs: nowMs() }),
    );
    this.ports = new Ports(
      orders.ports,
      (port, up) => this.portChanged(port, up),
      () => orders.watches.some(({ kind }) => kind === "route") && this.look(),
    );
    this.tunnels = new Tunnels(orders.tunnels, machineClock, this.commands);
    this.hostGateways = orders.hostGateways.map(
      (order) => new HostGateways(order, machineClock, this.commands, (port) => this.ports.up(port)),
    );
    this.senders = orders.flows.map((flow) => new Sender(flow));
  }

  async start() {
    for (const order of this.orders.watches) {
      if (order.kind === "interface")
        this.sources.set(order.id, { up: () => this.ports.up(order.port), settled: () => true });
      else if (order.kind === "probe") {
        const prober = new Prober(order, machineClock, () => this.look());
        this.probers.push(prober);
        this.sources.set(order.id, { up: () => prober.up, settled: () => prober.looked });
      } else if (order.kind === "bfd") {
        const end = await this.sessions.add(order);
        this.sources.set(order.id, { up: () => end.state === bfdStates.up, settled: () => end.settled });
      }
    }
    for (const virtual of this.orders.virtuals) await this.virtuals.add(virtual);
    for (const echo of this.orders.echoes) await answer(echo);
    this.sessions.start();
    for (const prober of this.probers) prober.start();
    this.tunnels.start();
    for (const gateways of this.hostGateways) gateways.start();
    this.look();
    this.virtuals.start((port) => this.ports.up(port));
    report({ tell: "ready" });
    const settling = setInterval(
      () =>
        report({
          tell: "settled",
          settled:
            this.watches.settled &&
            this.tunnels.settled &&
            this.hostGateways.every((gateways) => gateways.settled),
          up: this.watches.states,
        }),
      SETTLE_MS,
    );
    for await (const line of createInterface({ input: process.stdin })) {
      const word = JSON.parse(line) as Word;
      if (word.say === "begin") {
        clearInterval(settling);
        this.lateness.begin();
        await Promise.all(this.senders.map((sender) => sender.start()));
      } else if (word.say === "shut") {
        this.virtuals.shut(word.ports);
        report({ tell: "silent" });
      } else if (word.say === "die") {
        this.virtuals.die();
        report({ tell: "silent" });
      } else if (word.say === "force") this.watches.force(word.watch, word.down);
      else if (word.say === "cut") this.tunnels.cut(word.port, word.cut);
      else if (word.say === "halt") this.halt();
      else break;
    }
    clearInterval(settling);
    this.end();
  }

  private halt() {
    for (const sender of this.senders) sender.stop();
  }

  private look() {
    this.watches.look();
    this.virtuals.look();
  }

  private portChanged(port: string, up: boolean) {
    this.virtuals.portChanged(port, up);
    this.look();
    for (const gateways of this.hostGateways) {
      if (up) gateways.portIsUp(port);
      else gateways.look();
    }
    // Routes that the kernel would not take without the port are offered again.
    if (up) void this.commands.run(this.routesOf((route) => this.watches.up(route.watch)).map(adding));
  }

  private routesOf(wanted: (route: WatchedRoute) => boolean): WatchedRoute[] {
    return this.orders.routes.filter(wanted);
  }

  private watchSays(id: string, up: boolean) {
    const routes = this.routesOf(({ watch }) => watch === id);
    void this.commands.run(routes.map(up ? adding : deleting));
    report({ tell: "watch", watch: id, up, atMs: nowMs() });
  }

  private end() {
    this.halt();
    for (const prober of this.probers) prober.stop();
    this.tunnels.end();
    for (const gateways of this.hostGateways) gateways.end();
    this.sessions.end();
    this.virtuals.end();
    this.ports.end();
    this.commands.end();
    const flows = this.senders.map((sender) => sender.result());
    const last: AgentMessage = { tell: "end", latestMs: this.lateness.end(), flows };
    process.stdout.write(`${JSON.stringify(last)}\n`, () => process.exit(0));
  }
}

const adding = ({ words }: WatchedRoute) => `route add ${words}`;
const deleting = ({ words }: WatchedRoute) => `route del ${words}`;

await new Agent(JSON.parse(readFileSync(process.argv[2], "utf8")) as Orders).start();
