import type { Commands } from "../commands.ts";
import type { Clock } from "./clock.ts";
import { KEEPALIVE_MS, type TunnelOrder } from "./orders.ts";
import { Prober } from "./prober.ts";

interface Tunnel {
  readonly keepalives: Prober | null;
  cut: boolean;
}

/** The tunnels whose underlay a device is: each interface has carrier while its keepalives are answered. */
export class Tunnels {
  private readonly all = new Map<string, Tunnel>();

  constructor(
    orders: readonly TunnelOrder[],
    clock: Clock,
    private readonly commands: Commands,
  ) {
    for (const order of orders) {
      const { keepaliveMs: intervalMs, failAfter, arguments: words } = order;
      const timeoutMs = Math.min(intervalMs, KEEPALIVE_MS);
      const probe = { kind: "probe" as const, id: order.port, intervalMs, timeoutMs, failAfter };
      const keepalives =
        intervalMs > 0
          ? new Prober({ ...probe, recoverAfter: 1, arguments: words }, clock, () => this.set(order.port))
          : null;
      this.all.set(order.port, { keepalives, cut: false });
    }
  }

  /** Whether all keepalives have been answered or given up once. */
  get settled(): boolean {
    return [...this.all.values()].every(({ keepalives }) => keepalives?.looked ?? true);
  }

  start() {
    for (const { keepalives } of this.all.values()) keepalives?.start();
  }

  /** Fails or restores the interface. */
  cut(port: string, cut: boolean) {
    const tunnel = this.all.get(port);
    if (!tunnel) return;
    tunnel.cut = cut;
    this.set(port);
  }

  private set(port: string) {
    const tunnel = this.all.get(port);
    const up = tunnel && !tunnel.cut && (tunnel.keepalives?.up ?? true);
    void this.commands.run([`link set ${port} ${up ? "up" : "down"}`]);
  }

  end() {
    for (const { keepalives } of this.all.values()) keepalives?.stop();
  }
}
