import { Alarm, type Clock } from "../clock.ts";
import type { Advertisement } from "./advertisement.ts";

/** What a virtual router of a device is set to; times in milliseconds. */
export interface VirtualSettings {
  readonly id: number;
  readonly addresses: readonly string[];
  readonly advertMs: number;
  readonly preempt: boolean;
  readonly preemptDelayMs: number;
  /** Its interface's own address, which decides between equal priorities. */
  readonly primary: string;
}

export type VirtualState = "initialize" | "backup" | "active";

/** An IPv4 address as the number that it is. */
export const asNumber = (address: string) =>
  address.split(".").reduce((sum, part) => sum * 256 + Number(part), 0);

/** One virtual router by RFC 9568, section 6.4. It reports its state with `told`, and sends with `send`. */
export class Election {
  state: VirtualState = "initialize";
  /** Of the one that is Active (RFC 9568, section 6.1); its own where it heard none. */
  private activeIntervalMs: number;
  private readonly down: Alarm;
  private readonly advertise: Alarm;
  private readonly delay: Alarm;
  private startedMs = 0;
  /** Since when a lower one is heard to be Active, and when it was last. */
  private lowerSinceMs = Number.NEGATIVE_INFINITY;
  private lowerHeardMs = Number.NEGATIVE_INFINITY;
  /** Its own time to become Active has come; it waits for those that are Active together with it. */
  private isReady = false;
  private mates: readonly Election[] = [this];

  constructor(
    private readonly settings: VirtualSettings,
    private priority: number,
    private readonly clock: Clock,
    private readonly send: (message: Advertisement) => void,
    private readonly told: (active: boolean) => void,
  ) {
    this.activeIntervalMs = settings.advertMs;
    this.down = new Alarm(clock, () => this.downTimeOver());
    this.advertise = new Alarm(clock, () => this.say(this.priority));
    this.delay = new Alarm(clock, () => this.claim());
  }

  /** Members are Active together, or none is; each is notified once. */
  static join(mates: readonly Election[]) {
    for (const one of mates) one.mates = mates;
  }

  /** Skew_Time, in milliseconds (RFC 9568, section 6.1). */
  get skewMs(): number {
    return ((256 - this.priority) * this.activeIntervalMs) / 256;
  }

  /** Active_Down_Interval, in milliseconds (RFC 9568, section 6.1). */
  get downMs(): number {
    return 3 * this.activeIntervalMs + this.skewMs;
  }

  /** Its interface is up: it comes as Backup (RFC 9568, section 6.4.1). */
  start() {
    if (this.state !== "initialize") return;
    this.state = "backup";
    this.startedMs = this.clock.now();
    this.activeIntervalMs = this.settings.advertMs;
    this.down.set(this.downMs);
  }

  /** Its interface is down or shut down: `announced` if it can still announce priority 0. */
  stop(announced: boolean) {
    if (this.state === "active" && announced) this.say(0);
    this.fallSilent();
    this.leaveTogether();
  }

  /** Its device is dead: it sends nothing more, and neither do the others of its sync group on the device. */
  fallSilent() {
    const wasActive = this.state === "active";
    for (const alarm of [this.down, this.advertise, this.delay]) alarm.stop();
    this.state = "initialize";
    this.isReady = false;
    if (wasActive) this.told(false);
  }

  /** Another one of those that are Active together is so no more: it says that it steps back, and waits as Backup. */
  private stepBack() {
    if (this.state !== "active") return;
    this.say(0);
    this.advertise.stop();
    this.state = "backup";
    this.activeIntervalMs = this.settings.advertMs;
    this.down.set(this.downMs);
    this.told(false);
  }

  private leaveTogether() {
    for (const mate of this.mates) if (mate !== this) mate.stepBack();
  }

  /** Tracked items changed: a higher priority waits less, a lower one more. */
  setPriority(priority: number) {
    const before = this.skewMs;
    this.priority = priority;
    this.down.move(this.skewMs - before);
  }

  private say(priority: number) {
    const { id, addresses, advertMs } = this.settings;
    this.send({ id, priority, maxIntervalCs: Math.round(advertMs / 10), addresses });
    if (priority > 0) this.advertise.set(advertMs);
  }

  private downTimeOver() {
    // One that comes back and finds a lower one at work waits for its preemption delay besides.
    const lowerAtWork = this.clock.now() - this.lowerHeardMs < 3 * this.activeIntervalMs;
    const over = Math.max(this.startedMs, this.lowerSinceMs) + this.settings.preemptDelayMs;
    if (lowerAtWork && this.clock.now() < over) this.delay.set(over - this.clock.now());
    else this.claim();
  }

  private claim() {
    this.isReady = true;
    if (this.mates.every((mate) => mate.isReady)) for (const mate of this.mates) mate.becomeActive();
  }

  private becomeActive() {
    for (const alarm of [this.down, this.delay]) alarm.stop();
    this.isReady = false;
    this.state = "active";
    this.told(true);
    this.say(this.priority);
  }

  private becomeBackup(heard: Advertisement) {
    this.advertise.stop();
    this.state = "backup";
    this.activeIntervalMs = heard.maxIntervalCs * 10;
    this.down.set(this.downMs);
    this.told(false);
    this.leaveTogether();
  }

  /** An advertisement of its group, sent by another one with this primary address (RFC 9568, sections 6.4.2 and 6.4.3). */
  hear(heard: Advertisement, from: string) {
    if (this.state === "backup") this.hearAsBackup(heard);
    else if (this.state === "active") this.hearAsActive(heard, from);
  }

  private hearAsBackup(heard: Advertisement) {
    const now = this.clock.now();
    if (heard.priority === 0) {
      this.delay.stop();
      if (!this.isReady) this.down.set(this.skewMs);
    } else if (!this.settings.preempt || heard.priority >= this.priority) {
      this.delay.stop();
      this.isReady = false;
      this.lowerHeardMs = Number.NEGATIVE_INFINITY;
      this.activeIntervalMs = heard.maxIntervalCs * 10;
      this.down.set(this.downMs);
    } else {
      if (now - this.lowerHeardMs > this.downMs) this.lowerSinceMs = now;
      this.lowerHeardMs = now;
      // If it only waits for its delay, silence ends the delay as well.
      if (this.delay.isSet) this.down.set(this.downMs);
    }
  }

  private hearAsActive(heard: Advertisement, from: string) {
    if (heard.priority === 0) {
      this.say(this.priority);
      return;
    }
    const stronger =
      heard.priority > this.priority ||
      (heard.priority === this.priority && asNumber(from) > asNumber(this.settings.primary));
    if (stronger) this.becomeBackup(heard);
    // Says at once who is Active, to the other one and to whatever learns where the virtual address is.
    else this.say(this.priority);
  }
}
