import { describe, expect, it } from "vitest";
import { FakeClock } from "../../../tests/support/fake-clock.ts";
import { Segment } from "../../../tests/support/segment.ts";
import { type Advertisement, readAdvertisement, writeAdvertisement } from "./advertisement.ts";
import { Election } from "./election.ts";

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
    expect(segment.told.at(-2)).toEqual({ atMs: 13_609.375, who: 1, active: true });
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

  it("waits for the preemption delay where the Active one becomes weaker", () => {
    const segment = new Segment();
    const first = segment.add(200);
    segment.add(150, { preemptDelayMs: 8000 });
    segment.clock.run(10_000);
    first.setPriority(100);
    segment.clock.run(20_000);
    // Lowered at 10,000; the first lower advertisement was heard at 3218.75 + 7000.
    expect(segment.told.at(-2)).toEqual({ atMs: 3218.75 + 7000 + 8000, who: 1, active: true });
  });

  it("does not wait on where the weaker one dies meanwhile", () => {
    const segment = new Segment();
    segment.add(100);
    segment.clock.run(5000);
    segment.add(200, { preemptDelayMs: 60_000 });
    segment.clock.run(10_000);
    segment.apart.add(0);
    segment.clock.run(10_000);
    expect(segment.states[1]).toBe("active");
  });
});

describe("a sync group", () => {
  /** Two devices with a virtual router on each of two segments. */
  function two(more: { a?: [number, number]; b?: [number, number] } = {}) {
    const clock = new FakeClock();
    const sides = [new Segment(clock), new Segment(clock)];
    const [a, b] = [more.a ?? [200, 200], more.b ?? [100, 100]].map((priorities) => {
      const list = sides.map((side, n) => side.add(priorities[n]));
      Election.join(list);
      return list;
    });
    return { clock, sides, a, b };
  }

  it("becomes Active on all segments at the latest of its times", () => {
    const { clock, sides, a } = two();
    clock.run(5000);
    expect(sides.map(({ states }) => states.join())).toEqual(["active,backup", "active,backup"]);
    // One dies silently on one side: the other side receives the announcement, and waits for the silent one.
    a[0].stop(false);
    clock.run(10_000);
    const took = sides.map(({ told }) => told.at(-1));
    expect(took.map((one) => [one?.who, one?.active])).toEqual([
      [1, true],
      [1, true],
    ]);
    expect(took[0]?.atMs).toBe(took[1]?.atMs);
    expect(took[0]?.atMs).toBe(4218.75 + 3000 + 609.375);
  });

  it("says nothing on any segment where its device dies, and priority 0 where one of it is stopped", () => {
    const said = (end: (group: readonly Election[]) => void) => {
      const clock = new FakeClock();
      const sent: number[] = [];
      const settings = {
        id: 1,
        addresses: ["172.20.16.1"],
        advertMs: 1000,
        preempt: true,
        preemptDelayMs: 0,
      };
      const group = ["172.20.16.2", "172.20.17.2"].map(
        (primary) =>
          new Election(
            { ...settings, primary },
            200,
            clock,
            ({ priority }) => sent.push(priority),
            () => {},
          ),
      );
      Election.join(group);
      for (const one of group) one.start();
      clock.run(5000);
      sent.length = 0;
      end(group);
      clock.run(200);
      return sent;
    };
    expect(said(([first]) => first.stop(false))).toEqual([0]);
    expect(said((group) => group.forEach((one) => void one.fallSilent()))).toEqual([]);
  });

  it("stays Backup as a whole where one of it hears a better one", () => {
    const { clock, sides } = two({ a: [200, 50], b: [100, 100] });
    clock.run(20_000);
    expect(sides.map(({ states }) => states.join())).toEqual(["backup,active", "backup,active"]);
  });
});
