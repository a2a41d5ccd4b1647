import { type ChildProcess, spawn } from "node:child_process";
import { Alarm, type Clock } from "./clock.ts";
import type { ProbeOrder } from "./orders.ts";

/** Sends a probe every interval, and counts answers and silences in a row. */
export class Prober {
  up = true;
  /** Whether any was answered or given up yet. */
  looked = false;
  private same = 0;
  private readonly next: Alarm;
  private readonly sent = new Set<ChildProcess>();
  private sentCount = 0;
  /** Which of those that were sent was answered last. */
  private answeredLast = 0;

  constructor(
    private readonly order: Omit<ProbeOrder, "kind" | "id">,
    clock: Clock,
    private readonly told: (up: boolean) => void,
  ) {
    this.next = new Alarm(clock, () => this.probe());
  }

  start() {
    this.next.set(Math.random() * this.order.intervalMs);
  }

  private probe() {
    const { intervalMs, timeoutMs, arguments: words } = this.order;
    this.next.set(intervalMs);
    const number = ++this.sentCount;
    const ping = spawn("ping", ["-n", "-q", "-c", "1", "-W", String(timeoutMs / 1000), ...words], {
      stdio: "ignore",
    });
    this.sent.add(ping);
    let open = true;
    const settle = (answered: boolean) => {
      if (!open) return;
      open = false;
      clearTimeout(timeout);
      this.sent.delete(ping);
      // A silence says nothing once a later probe was answered.
      if (answered) this.answeredLast = Math.max(this.answeredLast, number);
      else if (number < this.answeredLast) return;
      this.count(answered);
    };
    const timeout = setTimeout(() => {
      settle(false);
      ping.kill("SIGKILL");
    }, timeoutMs);
    // A probe that cannot be sent is reported at once, and counts as lost after its timeout.
    ping.on("exit", (code) => code === 0 && settle(true));
    ping.on("error", () => {});
  }

  private count(answered: boolean) {
    this.looked = true;
    this.same = answered === this.up ? 0 : this.same + 1;
    if (this.same < (this.up ? this.order.failAfter : this.order.recoverAfter)) return;
    this.same = 0;
    this.up = !this.up;
    this.told(this.up);
  }

  stop() {
    this.next.stop();
    for (const ping of this.sent) ping.kill("SIGKILL");
  }
}
