import { setTimeout as rest } from "node:timers/promises";
import { profileOf } from "../../core/network/index.ts";
import { type Outage, type Plan, parseElement } from "../../core/plan/index.ts";
import { Alarm, type Clock, machineClock } from "../agent/clock.ts";
import { Commands } from "../commands.ts";
import type { Lab } from "../lab.ts";
import { portName } from "../names.ts";
import { expandRef, rewired, wiringOf } from "../wiring.ts";

/** What an agent must do at a step: watches that fail by themselves, virtual routers that step back. */
export interface AgentControl {
  force(device: string, watch: string, down: boolean): void;
  shut(device: string, ports: readonly string[] | null): Promise<void>;
  /** A device fails: its virtual routers say nothing any more. */
  die(device: string): Promise<void>;
  /** Fails or restores a tunnel's interface. */
  cut(end: string, cut: boolean): void;
}

/** An announcement is sent before its sender is cut off. */
const ANNOUNCE_MS = 3;

/** Performs an outage in a lab: dead devices go silent at once; carrier changes with the device's carrier delay (the
 * kernel has none), and a returning device boots first (rule 10.5). */
export class Strikes {
  private failed: string[];
  private readonly booting = new Map<string, Alarm>();
  private readonly carriers = new Map<string, Alarm>();
  private opened: Commands | null = null;
  /** The longest that the kernel took for a change, in milliseconds. */
  tookMs = 0;

  constructor(
    private readonly plan: Plan,
    private readonly lab: Lab,
    private readonly asked: AgentControl,
    down: readonly string[],
    private readonly clock: Clock = machineClock,
  ) {
    this.failed = down.flatMap((ref) => expandRef(plan, ref));
  }

  /** In the fabric, which is there once the lab is built. */
  private get commands(): Commands {
    this.opened ??= new Commands(this.lab.fabric);
    return this.opened;
  }

  /** Runs the steps by their own times, from `startMs` on; resolves when the last has been taken. */
  async run(steps: Outage["steps"], startMs: number): Promise<void> {
    for (const step of [...steps].sort((a, b) => a.atMs - b.atMs)) {
      await rest(Math.max(0, startMs + step.atMs - this.clock.now()));
      await this.announce(step.shut ?? []);
      await this.silence(step.fail ?? []);
      this.watches([...(step.fail ?? []), ...(step.shut ?? [])], true);
      this.watches(step.restore ?? [], false);
      const back = new Set((step.restore ?? []).flatMap((ref) => expandRef(this.plan, ref)));
      const after = [...this.failed, ...(step.fail ?? []), ...(step.shut ?? [])]
        .flatMap((ref) => expandRef(this.plan, ref))
        .filter((ref) => !back.has(ref));
      for (const ref of back) this.boot(ref);
      await this.change([...new Set(after)]);
    }
  }

  private async announce(refs: readonly string[]) {
    const all = refs.flatMap((ref) => expandRef(this.plan, ref));
    for (const ref of all) {
      const element = parseElement(ref);
      if (element?.kind === "device") await this.asked.shut(element.id, null);
      else if (element?.kind === "interface") await this.asked.shut(element.device, [portName(element.name)]);
    }
    if (all.length > 0) await rest(ANNOUNCE_MS);
  }

  private async silence(refs: readonly string[]) {
    const dying = refs.flatMap((ref) => expandRef(this.plan, ref)).map(parseElement);
    await Promise.all(dying.map((element) => element?.kind === "device" && this.asked.die(element.id)));
  }

  private watches(refs: readonly string[], down: boolean) {
    for (const ref of refs) this.forceWatch(ref, down);
  }

  /** Fails a watch or releases it; ignores other references. */
  forceWatch(ref: string, down: boolean) {
    const element = parseElement(ref);
    if (element?.kind === "watch") this.asked.force(element.device, element.id, down);
  }

  /** Tunnels that have failed before anything happens. */
  cutFrom(refs: readonly string[]) {
    for (const end of wiringOf(this.plan, refs).down) this.asked.cut(end, true);
  }

  private boot(ref: string) {
    const device = this.plan.devices.find(({ id }) => ref === `device:${id}`);
    if (!device?.bootMs || !this.failed.includes(ref)) return;
    const alarm = new Alarm(this.clock, () => {
      const before = this.down();
      this.booting.delete(ref);
      void this.rewire(before);
    });
    this.booting.set(ref, alarm);
    alarm.set(device.bootMs);
  }

  private down(): string[] {
    return [...new Set([...this.failed, ...this.booting.keys()])];
  }

  private async change(after: string[]) {
    const before = this.down();
    this.failed = after;
    for (const [ref, alarm] of this.booting) {
      if (!after.includes(ref)) continue;
      alarm.stop();
      this.booting.delete(ref);
    }
    await this.rewire(before);
  }

  private async rewire(before: readonly string[]) {
    const after = wiringOf(this.plan, this.down());
    const { dark, lit, ...rest } = rewired(wiringOf(this.plan, before), after);
    const own = dark.filter((end) => after.down.has(end));
    for (const end of own) this.carriers.get(end)?.stop();
    await this.order([...this.lab.passing(rest), ...this.lab.carrying(own, false)]);
    for (const end of own) this.asked.cut(end, true);
    for (const end of dark) if (!after.down.has(end)) this.carry(end, false);
    for (const end of lit) {
      this.asked.cut(end, false);
      this.carry(end, true);
    }
  }

  /** Sends lines to the kernel, and measures the duration: other processes may hold its locks. */
  private async order(lines: readonly string[]) {
    if (lines.length === 0) return;
    const began = this.clock.now();
    await this.commands.run(lines);
    this.tookMs = Math.max(this.tookMs, this.clock.now() - began);
  }

  private carry(end: string, up: boolean) {
    this.carriers.get(end)?.stop();
    const alarm = new Alarm(this.clock, () => {
      this.carriers.delete(end);
      void this.order(this.lab.carrying([end], up));
    });
    this.carriers.set(end, alarm);
    const device = this.plan.devices.find(({ id }) => id === end.slice(0, end.indexOf("/")));
    alarm.set(device ? profileOf(this.plan, device).profile.carrierDelayMs : 0);
  }

  end() {
    for (const alarm of [...this.booting.values(), ...this.carriers.values()]) alarm.stop();
    this.opened?.end();
  }
}
