import { Alarm, type Clock } from "../clock.ts";
import { type BfdState, bfdStates, type ControlPacket, diagnostics } from "./packet.ts";

/** What a session is set to; times in milliseconds. */
export interface SessionSettings {
  readonly minTxMs: number;
  readonly minRxMs: number;
  readonly multiplier: number;
}

/** While a session is not up it sends no faster than this (RFC 5880, section 6.8.3). */
const SLOW_US = 1_000_000;

/** One end of a session in asynchronous mode (RFC 5880, section 6.8). It sends with `send`, and reports its state with
 * `told`. */
export class BfdEnd {
  state: BfdState = bfdStates.down;
  private diagnostic: number = diagnostics.none;
  private remote: Pick<ControlPacket, "state" | "minRxUs" | "minTxUs" | "multiplier" | "mine"> = {
    state: bfdStates.down,
    minRxUs: 1,
    minTxUs: SLOW_US,
    multiplier: 3,
    mine: 0,
  };
  private desiredUs: number;
  private polling = false;
  private readonly sending: Alarm;
  private readonly detection: Alarm;
  private stopped = true;

  constructor(
    /** Not 0, and no other session's of this device. */
    private readonly discriminator: number,
    private readonly settings: SessionSettings,
    clock: Clock,
    private readonly send: (packet: ControlPacket) => void,
    private readonly told: (up: boolean) => void,
    private readonly chance: () => number = Math.random,
  ) {
    this.desiredUs = Math.max(SLOW_US, settings.minTxMs * 1000);
    this.sending = new Alarm(clock, () => this.periodic());
    this.detection = new Alarm(clock, () => this.expire());
  }

  start() {
    this.stopped = false;
    // The first packet goes out at any moment of the interval, as with two devices that know nothing of each other.
    this.sending.set(this.chance() * this.transmitMs);
  }

  /** Says that it goes down on purpose, and no more (RFC 5880, section 6.8.16). */
  stop() {
    if (this.stopped) return;
    this.stopped = true;
    this.sending.stop();
    this.detection.stop();
    this.state = bfdStates.adminDown;
    this.diagnostic = diagnostics.adminDown;
    this.transmit(false);
  }

  /** Whether both ends are up and have agreed on their own times. */
  get settled(): boolean {
    return this.state === bfdStates.up && !this.polling && this.remote.state === bfdStates.up;
  }

  /** How long without a packet until it is down, in milliseconds (RFC 5880, section 6.8.4). */
  get detectionMs(): number {
    const { multiplier, minTxUs } = this.remote;
    return (multiplier * Math.max(this.settings.minRxMs * 1000, minTxUs)) / 1000;
  }

  /** The interval between two packets, before random jitter. */
  get transmitMs(): number {
    return Math.max(this.desiredUs, this.remote.minRxUs) / 1000;
  }

  /** The time to the next packet: of an interval at least three quarters, and `most` of it. */
  private jittered(most = 1): number {
    return this.transmitMs * (0.75 + this.chance() * (most - 0.75));
  }

  private periodic() {
    if (this.stopped) return;
    // RFC 5880, section 6.8.7: up to a quarter less; with a multiplier of 1 at least a tenth.
    const most = this.settings.multiplier === 1 ? 0.9 : 1;
    this.sending.set(this.jittered(most));
    if (this.remote.minRxUs > 0) this.transmit(false);
  }

  private transmit(final: boolean) {
    this.send({
      diagnostic: this.diagnostic,
      state: this.state,
      poll: this.polling && !final,
      final,
      multiplier: this.settings.multiplier,
      mine: this.discriminator,
      yours: this.remote.mine,
      minTxUs: this.desiredUs,
      minRxUs: this.settings.minRxMs * 1000,
    });
  }

  /** Whether a packet that names this end, or none, may be its own (RFC 5880, section 6.8.6). */
  owns(yours: number): boolean {
    return yours === 0 || yours === this.discriminator;
  }

  /** Takes a packet that was found to be this session's (RFC 5880, section 6.8.6). */
  receive(packet: ControlPacket) {
    if (this.stopped) return;
    const before = this.transmitMs;
    this.remote = packet;
    if (packet.final) this.polling = false;
    this.detection.set(this.detectionMs);
    this.follow(packet.state);
    if (packet.poll) this.transmit(true);
    // A faster rate applies at once, not after the rest of a slower interval.
    if (this.transmitMs < before) this.sending.set(this.jittered());
  }

  private follow(remote: BfdState) {
    const { adminDown, down, init, up } = bfdStates;
    if (remote === adminDown) {
      if (this.state !== down) this.become(down, diagnostics.neighbourSaidDown);
    } else if (this.state === down) {
      if (remote === down) this.become(init, diagnostics.none);
      else if (remote === init) this.become(up, diagnostics.none);
    } else if (this.state === init) {
      if (remote === init || remote === up) this.become(up, diagnostics.none);
    } else if (remote === down) this.become(down, diagnostics.neighbourSaidDown);
  }

  private expire() {
    const { init, up } = bfdStates;
    if (this.state === init || this.state === up) this.become(bfdStates.down, diagnostics.timeExpired);
    // Nothing is known of the other end any more: it may be another one that answers.
    this.remote = { ...this.remote, mine: 0, state: bfdStates.down, minRxUs: 1 };
  }

  private become(state: BfdState, diagnostic: number) {
    const wasUp = this.state === bfdStates.up;
    this.state = state;
    this.diagnostic = diagnostic;
    const isUp = state === bfdStates.up;
    const wanted = isUp ? this.settings.minTxMs * 1000 : Math.max(SLOW_US, this.settings.minTxMs * 1000);
    if (wanted !== this.desiredUs) {
      this.desiredUs = wanted;
      // A change of the times is asked of the other end until it says that it has it (RFC 5880, section 6.8.3).
      this.polling = isUp;
      if (isUp) this.sending.set(this.jittered());
    }
    if (!isUp) this.polling = false;
    if (wasUp !== isUp) this.told(isUp);
  }
}
