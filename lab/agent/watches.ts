import { spawnSync } from "node:child_process";
import { Alarm, type Clock } from "./clock.ts";
import type { GroupOrder, WatchOrder } from "./orders.ts";

/** The observation of a watch: by a prober, a session end or a port. */
export interface Source {
  readonly up: () => boolean;
  /** Whether it has been looked at, and will say the same until something happens. */
  readonly settled: () => boolean;
}

/** All watches of a device: what each says now, groups and watched routes included. */
export class Watches {
  private readonly said = new Map<string, boolean>();
  private readonly delays = new Map<string, { alarm: Alarm; value: boolean }>();
  private readonly forced = new Set<string>();

  constructor(
    private readonly orders: readonly WatchOrder[],
    private readonly sources: ReadonlyMap<string, Source>,
    private readonly clock: Clock,
    private readonly told: (watch: string, up: boolean) => void,
  ) {
    for (const { id } of orders) this.said.set(id, true);
  }

  up(id: string): boolean {
    return this.said.get(id) ?? false;
  }

  get settled(): boolean {
    return (
      this.delays.size === 0 &&
      this.orders.every(({ id }) => this.forced.has(id) || (this.sources.get(id)?.settled() ?? true))
    );
  }

  get states(): Record<string, boolean> {
    return Object.fromEntries(this.said);
  }

  force(id: string, down: boolean) {
    if (down) this.forced.add(id);
    else this.forced.delete(id);
    this.look();
  }

  /** Reads all anew: something has happened. */
  look() {
    for (let round = 0; round <= this.orders.length; round++) {
      let changed = false;
      for (const order of this.orders) {
        const now = this.read(order);
        if (now === this.said.get(order.id)) this.drop(order.id);
        else if (this.mayChange(order, now)) changed = this.set(order.id, now) || changed;
      }
      if (!changed) return;
    }
  }

  private read(order: WatchOrder): boolean {
    if (this.forced.has(order.id)) return false;
    if (order.kind === "group") return this.readGroup(order);
    if (order.kind === "route") return routeInUse(order.to);
    return this.sources.get(order.id)?.up() ?? false;
  }

  private readGroup({ need, of }: GroupOrder): boolean {
    const count = of.filter((id) => this.up(id)).length;
    return count >= (need === "any" ? 1 : need === "all" ? of.length : need);
  }

  /** A group with a delay waits, and changes only where it would still. */
  private mayChange(order: WatchOrder, value: boolean): boolean {
    const ms =
      order.kind === "group" && !this.forced.has(order.id)
        ? value
          ? order.upDelayMs
          : order.downDelayMs
        : 0;
    if (ms === 0) return true;
    const open = this.delays.get(order.id);
    if (open?.value === value) return false;
    this.drop(order.id);
    const alarm = new Alarm(this.clock, () => {
      this.delays.delete(order.id);
      this.set(order.id, value);
      this.look();
    });
    this.delays.set(order.id, { alarm, value });
    alarm.set(ms);
    return false;
  }

  private drop(id: string) {
    this.delays.get(id)?.alarm.stop();
    this.delays.delete(id);
  }

  private set(id: string, up: boolean): true {
    this.drop(id);
    this.said.set(id, up);
    this.told(id, up);
    return true;
  }
}

/** Whether the kernel has a route to this very prefix that it would use. */
function routeInUse(to: string): boolean {
  const family = to.includes(":") ? "-6" : "-4";
  const { stdout } = spawnSync("ip", [family, "-j", "route", "show", "to", "exact", to], {
    encoding: "utf8",
  });
  try {
    const routes = JSON.parse(stdout || "[]") as { flags?: string[] }[];
    return routes.some(({ flags }) => !flags?.includes("linkdown") && !flags?.includes("dead"));
  } catch {
    return false;
  }
}
