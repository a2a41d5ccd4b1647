import type { Commands } from "../commands.ts";
import type { Clock } from "./clock.ts";
import type { HostGatewaysOrder } from "./orders.ts";
import { Prober } from "./prober.ts";

/**
 * The default gateways of a host, in the order of their metrics (rule 7.1): it sends by one of them until that one has been silent
 * for its time, or its own port is down. The routes by the others stay out of the kernel meanwhile.
 */
export class HostGateways {
  private readonly probers: readonly Prober[];
  private current = 0;

  constructor(
    private readonly order: HostGatewaysOrder,
    clock: Clock,
    private readonly commands: Commands,
    private readonly isUp: (port: string) => boolean,
  ) {
    this.probers = order.gateways.map(({ probe }) => new Prober(probe, clock, () => this.look()));
  }

  start() {
    for (const prober of this.probers) prober.start();
    this.take(this.current);
  }

  get settled(): boolean {
    return this.probers.every(({ looked }) => looked);
  }

  /** A gateway has answered again or is taken for dead, or a port has changed. */
  look() {
    const { gateways, keepsTo } = this.order;
    const isAlive = (n: number) => this.probers[n].up && this.isUp(gateways[n].port);
    const best = gateways.findIndex((_, n) => isAlive(n));
    if (best < 0 || best === this.current || (keepsTo && isAlive(this.current))) return;
    this.take(best);
  }

  /** A route is removed with its port, and only its own return restores it. */
  portIsUp(port: string) {
    if (this.order.gateways[this.current].port === port) this.take(this.current);
    this.look();
  }

  private take(n: number) {
    this.current = n;
    const { gateways } = this.order;
    const others = gateways.filter((_, other) => other !== n);
    void this.commands.run([
      `route add ${gateways[n].words}`,
      ...others.map(({ words }) => `route del ${words}`),
    ]);
  }

  end() {
    for (const prober of this.probers) prober.stop();
  }
}
