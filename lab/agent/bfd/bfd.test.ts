import { describe, expect, it } from "vitest";
import { FakeClock } from "../../../tests/support/fake-clock.ts";
import { bfdStates, type ControlPacket, readControl, writeControl } from "./packet.ts";
import { BfdEnd, type SessionSettings } from "./session.ts";

const { adminDown, down, init, up } = bfdStates;

describe("a control packet (RFC 5880, section 4.1)", () => {
  const packet: ControlPacket = {
    ...{ diagnostic: 1, state: down, poll: false, final: false, multiplier: 3 },
    ...{ mine: 0x01020304, yours: 0, minTxUs: 1_000_000, minRxUs: 300_000 },
  };
  // Version 1 and diagnostic 1; state Down; multiplier 3; 24 bytes; 1,000,000 is 0x000f4240, 300,000 is 0x000493e0.
  const bytes = "2140031801020304" + "00000000" + "000f4240" + "000493e0" + "00000000";

  it("is these bytes, worked out by hand, both ways", () => {
    expect(writeControl(packet).toString("hex")).toBe(bytes);
    expect(readControl(Buffer.from(bytes, "hex"))).toEqual(packet);
  });

  it.each([
    [up, true, false, "20e00318"],
    [up, false, true, "20d00318"],
    [init, false, false, "20800318"],
    [adminDown, false, false, "20000318"],
  ] as const)("says the state %s, poll %s, final %s", (state, poll, final, head) => {
    const written = writeControl({ ...packet, diagnostic: 0, state, poll, final, yours: 7 });
    expect(written.subarray(0, 4).toString("hex")).toBe(head);
    expect(readControl(written)).toMatchObject({ state, poll, final, yours: 7 });
  });

  it.each([
    ["another version", 0, 0x41],
    ["a length below 24", 3, 23],
    ["a length beyond the datagram", 3, 25],
    ["authentication that nobody agreed on", 1, 0x44],
    ["the multipoint bit", 1, 0x41],
    ["the multiplier 0", 2, 0],
  ])("is discarded with %s (RFC 5880, section 6.8.6)", (_, at, value) => {
    const wrong = Buffer.from(bytes, "hex");
    wrong[at] = value;
    expect(readControl(wrong)).toBeNull();
  });

  it("is discarded without a sender's discriminator, and without ours once it is up", () => {
    expect(readControl(writeControl({ ...packet, mine: 0 }))).toBeNull();
    expect(readControl(writeControl({ ...packet, state: up, yours: 0 }))).toBeNull();
    expect(readControl(Buffer.alloc(10))).toBeNull();
  });
});

interface Pair {
  readonly clock: FakeClock;
  readonly ends: [BfdEnd, BfdEnd];
  readonly sent: [{ atMs: number; packet: ControlPacket }[], { atMs: number; packet: ControlPacket }[]];
  readonly told: { atMs: number; end: number; up: boolean }[];
  cut: boolean;
}

/** Two ends over a line that takes no time and can be cut. `chance`: which part of its play each interval takes. */
function pair(one: SessionSettings, other: SessionSettings, chance = 1): Pair {
  const clock = new FakeClock();
  const found = { clock, sent: [[], []], told: [], cut: false } as unknown as Pair & { ends: BfdEnd[] };
  found.ends = [one, other].map(
    (settings, n) =>
      new BfdEnd(
        n + 1,
        settings,
        clock,
        (packet) => {
          found.sent[n].push({ atMs: clock.now(), packet });
          const read = readControl(writeControl(packet));
          if (!found.cut && read) clock.after(0, () => found.ends[1 - n].receive(read));
        },
        (isUp) => found.told.push({ atMs: clock.now(), end: n, up: isUp }),
        () => chance,
      ),
  ) as [BfdEnd, BfdEnd];
  for (const end of found.ends) end.start();
  return found;
}

const fast = { minTxMs: 300, minRxMs: 200, multiplier: 3 };
const slow = { minTxMs: 500, minRxMs: 400, multiplier: 5 };

describe("a session of two ends (RFC 5880, section 6.8)", () => {
  it.each([0, 0.3, 1])(
    "comes up within twice its slow interval, and settles its times by a poll (play %s)",
    (chance) => {
      const { clock, ends, told, sent } = pair(fast, slow, chance);
      clock.run(3000);
      expect(told.map((one) => one.up)).toEqual([true, true]);
      expect(Math.max(...told.map(({ atMs }) => atMs))).toBeLessThanOrEqual(2000);
      expect(ends.map((end) => end.settled)).toEqual([true, true]);
      expect(sent[0].some(({ packet }) => packet.poll) && sent[1].some(({ packet }) => packet.final)).toBe(
        true,
      );
      // Each end: the other's multiplier times the greater of its own receive interval and the other's transmit
      // interval.
      expect(ends.map((end) => end.detectionMs)).toEqual([5 * 500, 3 * 400]);
      // Each sends no faster than the other wants to receive.
      expect(ends.map((end) => end.transmitMs)).toEqual([400, 500]);
    },
  );

  it("sends at three quarters of its interval to the whole of it", () => {
    const [least, most] = [0, 1].map((chance) => {
      const { clock, sent } = pair(fast, fast, chance);
      clock.run(10_000);
      const late = sent[0]
        .filter(({ packet }) => packet.state === up && !packet.poll && !packet.final)
        .slice(2);
      return late.slice(1).map(({ atMs }, n) => atMs - late[n].atMs);
    });
    expect(new Set(least)).toEqual(new Set([225]));
    expect(new Set(most)).toEqual(new Set([300]));
  });

  it("goes down when its detection time is over, and not before; then it sends slowly", () => {
    const found = pair(fast, fast);
    const { clock, ends, told, sent } = found;
    clock.run(5000);
    told.length = 0;
    const last = sent[1].at(-1)?.atMs ?? 0;
    found.cut = true;
    clock.run(5000);
    const detection = 900;
    expect(told[0]).toMatchObject({ end: 0, up: false, atMs: last + detection });
    expect(ends.map(({ state }) => state)).toEqual([down, down]);
    expect(sent[0].at(-1)?.packet).toMatchObject({ diagnostic: 1, yours: 0, minTxUs: 1_000_000 });
    const after = sent[0].filter(({ atMs }) => atMs > last + detection + 1000).map(({ atMs }) => atMs);
    expect(after.slice(1).every((atMs, n) => atMs - after[n] >= 750)).toBe(true);
    found.cut = false;
    clock.run(2000);
    expect(ends.map(({ state }) => state)).toEqual([up, up]);
  });

  it("goes down at once when the other end says that it does", () => {
    const { clock, ends, told } = pair(fast, slow);
    clock.run(5000);
    told.length = 0;
    ends[1].stop();
    clock.run(1);
    expect(told).toEqual([{ atMs: 5000, end: 0, up: false }]);
  });

  it("takes no packet that names another session", () => {
    const { ends } = pair(fast, fast);
    expect([ends[0].owns(0), ends[0].owns(1), ends[0].owns(9)]).toEqual([true, true, false]);
  });
});
