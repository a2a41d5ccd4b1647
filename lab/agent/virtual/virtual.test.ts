import { describe, expect, it } from "vitest";
import { FakeClock } from "../../../tests/support/fake-clock.ts";
import { type Advertisement, readAdvertisement, writeAdvertisement } from "./advertisement.ts";
import { Election, type VirtualSettings } from "./election.ts";

const GROUP = "224.0.0.18";

describe("an advertisement (RFC 9568, section 5.2)", () => {
  const message: Advertisement = { id: 16, priority: 110, maxIntervalCs: 100, addresses: ["172.20.16.1"] };
  // 31 10 6e 01 | 00 64 sum | ac 14 10 01, with the pseudo-header ac141002 e0000012 0070 000c.
  // ac14+1002+e000+0012+0070+000c+3110+6e01+0064+ac14+1001 = 2f82e; carried: f830; its complement: 07cf.
  const bytes = "31106e01" + "0064" + "07cf" + "ac141001";

  it("is these bytes, worked out by hand, both ways", () => {
    expect(writeAdvertisement(message, "172.20.16.2", GROUP).toString("hex")).toBe(bytes);
    expect(readAdvertisement(Buffer.from(bytes, "hex"), "172.20.16.2", GROUP)).toEqual(message);
  });

  it.each([
    ["another version", 0, 0x21],
    ["no id", 1, 0],
    ["no address", 3, 0],
    ["more addresses than it has", 3, 2],
    ["a wrong checksum", 6, 0],
  ])("is discarded with %s (RFC 9568, section 7.1)", (_, at, value) => {
    const wrong = Buffer.from(bytes, "hex");
    wrong[at] = value;
    expect(readAdvertisement(wrong, "172.20.16.2", GROUP)).toBeNull();
  });

  it("is discarded from another sender than its checksum says, and when it is cut", () => {
    expect(readAdvertisement(Buffer.from(bytes, "hex"), "172.20.16.9", GROUP)).toBeNull();
    expect(readAdvertisement(Buffer.alloc(4), "172.20.16.2", GROUP)).toBeNull();
  });
});

interface Member {
  readonly election: Election;
  readonly primary: string;
}

/** A segment on which everybody hears everybody who is not apart. */
class Segment {
  readonly clock = new FakeClock();
  readonly members: Member[] = [];
  readonly told: { atMs: number; who: number; active: boolean }[] = [];
  readonly apart = new Set<number>();

  add(priority: number, more: Partial<VirtualSettings> = {}): Election {
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
    election.start();
    return election;
  }

  get states() {
    return this.members.map(({ election }) => election.state);
  }
}

describe("an election (RFC 9568, section 6.4)", () => {
  it("is won by the highest priority, after three intervals and its skew", () => {
    const segment = new Segment();
    segment.add(200);
    segment.add(100);
    segment.clock.run(5000);
    // Skew: (256 − 200) × 1000 / 256 = 218.75 ms.
    expect(segment.told).toEqual([{ atMs: 3218.75, who: 0, active: true }]);
    expect(segment.states).toEqual(["active", "backup"]);
  });

  it("of equal priorities is won by the greater address, also where both began", () => {
    const segment = new Segment();
    segment.apart.add(0).add(1);
    segment.add(100);
    segment.add(100);
    segment.clock.run(5000);
    expect(segment.states).toEqual(["active", "active"]);
    segment.apart.clear();
    segment.clock.run(1100);
    expect(segment.states).toEqual(["backup", "active"]);
  });

  it("is held anew when nothing is heard for three intervals and the skew", () => {
    const segment = new Segment();
    segment.add(200);
    segment.add(100);
    segment.clock.run(5000);
    // The last advertisement was at 4218.75; the Backup's skew is 609.375 ms.
    segment.apart.add(0);
    segment.clock.run(10_000);
    expect(segment.told[1]).toEqual({ atMs: 4218.75 + 3000 + 609.375, who: 1, active: true });
  });

  it("after priority 0 takes the skew alone", () => {
    const segment = new Segment();
    const first = segment.add(200);
    segment.add(100);
    segment.clock.run(5000);
    first.stop(true);
    segment.clock.run(2000);
    expect(segment.told.slice(1)).toEqual([
      { atMs: 5000, who: 0, active: false },
      { atMs: 5609.375, who: 1, active: true },
    ]);
  });

  it("goes on when the priority falls below another's; the one that steps in leaves no silence", () => {
    const segment = new Segment();
    const first = segment.add(150);
    segment.add(100);
    segment.clock.run(5000);
    first.setPriority(50);
    segment.clock.run(10_000);
    expect(segment.states).toEqual(["backup", "active"]);
    const [, took, gave] = segment.told;
    expect([took.who, gave.who, took.atMs === gave.atMs]).toEqual([1, 0, true]);
  });

  it("leaves one that does not preempt as Backup", () => {
    const segment = new Segment();
    segment.add(100);
    segment.clock.run(5000);
    segment.add(200, { preempt: false });
    segment.clock.run(20_000);
    expect(segment.states).toEqual(["active", "backup"]);
  });

  it("waits for the preemption delay where a lower one is at work, and not where nobody is", () => {
    const segment = new Segment();
    segment.add(100);
    segment.clock.run(5000);
    segment.add(200, { preemptDelayMs: 8000 });
    segment.clock.run(20_000);
    expect(segment.told.at(-2)).toEqual({ atMs: 13_000, who: 1, active: true });
    const alone = new Segment();
    alone.add(200, { preemptDelayMs: 8000 });
    alone.clock.run(4000);
    expect(alone.states).toEqual(["active"]);
  });

  it("takes the interval of the one that is Active, not its own", () => {
    const segment = new Segment();
    segment.add(200, { advertMs: 300 });
    const second = segment.add(100, { advertMs: 1000 });
    segment.clock.run(3000);
    expect([second.skewMs, second.downMs]).toEqual([182.8125, 1082.8125]);
  });

  it("moves the time that is left when what it tracks comes back", () => {
    const segment = new Segment();
    segment.add(100);
    const second = segment.add(50);
    segment.clock.run(6000);
    segment.apart.add(0);
    second.setPriority(200);
    segment.clock.run(10_000);
    expect(segment.told.at(-1)).toMatchObject({ who: 1, active: true });
    const lastHeard = 3609.375 + 2000;
    expect(segment.told.at(-1)?.atMs).toBeCloseTo(lastHeard + 3000 + 218.75, 6);
  });
});
