import { Election, type VirtualSettings } from "../../lab/agent/virtual/election.ts";
import { FakeClock } from "./fake-clock.ts";

interface Member {
  readonly election: Election;
  readonly primary: string;
}

/** A segment with virtual routers by RFC 9568 on which everybody hears everybody who is not apart. */
export class Segment {
  readonly members: Member[] = [];
  readonly told: { atMs: number; who: number; active: boolean }[] = [];
  readonly apart = new Set<number>();

  constructor(readonly clock = new FakeClock()) {}

  add(priority: number, more: Partial<VirtualSettings> = {}, starts = true): Election {
    const who = this.members.length;
    const settings: VirtualSettings = {
      ...{ id: 7, addresses: ["10.0.0.1"], advertMs: 1000, preempt: true, preemptDelayMs: 0 },
      primary: `10.0.0.${who + 2}`,
      ...more,
    };
    const election = new Election(
      settings,
      priority,
      this.clock,
      (message) => {
        for (const [n, member] of this.members.entries())
          if (n !== who && !this.apart.has(n) && !this.apart.has(who))
            this.clock.after(0, () => member.election.hear(message, settings.primary));
      },
      (active) => this.told.push({ atMs: this.clock.now(), who, active }),
    );
    this.members.push({ election, primary: settings.primary });
    if (starts) election.start();
    return election;
  }

  get states() {
    return this.members.map(({ election }) => election.state);
  }
}
