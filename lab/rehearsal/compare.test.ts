import { describe, expect, it } from "vitest";
import type { TimelineReport } from "../../core/reports/index.ts";
import type { SentPackets } from "../agent/orders.ts";
import { disagreement } from "./compare.ts";
import { observedOf } from "./observed.ts";

/** A packet every 10 ms from −50 ms on; by which gateway each came back, "." for none. */
function packets(text: string): SentPackets {
  const stamps = [...text].map((sign) => (sign === "." ? null : sign === "-" ? [] : [Number(sign)]));
  return { flow: "f", sentMs: stamps.map((_, n) => 1000 - 50 + n * 10), stamps };
}

const seen = (text: string) => observedOf(packets(text), 1000);

describe("what packets tell", () => {
  it("of one gap lies between what was lost and what came", () => {
    // Lost at 0, 10 and 20 ms; the one before came at −10, the one after at 30.
    expect(seen("00000...0000")).toMatchObject({
      outageMs: { min: 20, max: 40 },
      lost: 3,
      sent: 7,
      works: true,
    });
  });

  it("of several gaps is their sum, and of a lone packet next to nothing", () => {
    expect(seen("000000..00.00").outageMs).toEqual({ min: 10 + 0, max: 30 + 20 });
    expect(seen("0000000").outageMs).toEqual({ min: 0, max: 0 });
  });

  it("of an end without answers is that it does not work", () => {
    expect(seen("00000.....").works).toBe(false);
    expect(seen("..........").before).toBeNull();
  });

  it("of carriers is each as long as it was seen", () => {
    const { carriers, before } = seen("00000..1110--");
    expect(before).toEqual([0]);
    expect(carriers.map(({ gateways }) => gateways.join())).toEqual(["0", "1", "0", ""]);
    expect(carriers.slice(1).map(({ ms }) => ms)).toEqual([20, 0, 10]);
  });
});

type Flow = TimelineReport["flows"][number];

const span = (fromMs: number, toMs: number | null, carriers: string[] | null) => ({
  ...{ fromMs, toMs, carriers: carriers ?? [] },
  verdict: carriers ? ("works" as const) : ("fails" as const),
});

const predicted = (min: number | null, max: number | null, spans: Flow["spans"]): Flow => ({
  ...{ id: "f", spans, leastSpans: spans, outageMs: { min, max }, lost: { min, max } },
});

const moved = predicted(20, 30, [span(0, 30, null), span(30, null, ["1"])]);
const allowed = { lateMs: 5, periodMs: 10 };

const told = (of: Flow, text: string, before = ["0"], cases: Flow["spans"][] = []) => {
  const observed = seen(text);
  const stretches = observed.carriers.map(({ gateways, ms }) => ({ carriers: gateways.map(String), ms }));
  return disagreement(of, cases, before, observed, stretches, allowed);
};

describe("whether it is as predicted", () => {
  it("is, where the gap and the carriers fit", () => {
    expect(told(moved, "00000...1111")).toBeNull();
  });

  it.each([
    ["too long", "00000......1111", "predicted at most 30 ms"],
    ["too short", "000001111111", "predicted at least 20 ms"],
    ["without end", "00000.......", "it did not recover"],
    ["carried by another one", "00000...2222222", "the predicted order differs"],
    ["carried by one in between", "00000...2221111", "the predicted order differs"],
    ["never taken over", "00000...0000", "the predicted order differs"],
  ])("is not, where it is %s", (_, text, why) => {
    expect(told(moved, text)).toContain(why);
  });

  it("is not, where it was predicted to stay silent and came back", () => {
    const never = predicted(null, null, [span(0, null, null)]);
    expect(told(never, "00000...0000")).toBe("it recovered, although predicted not to");
    expect(told(never, "00000.......")).toBeNull();
  });

  it("lets pass what is too short to be seen, and a packet that meets a device while it changes", () => {
    const quick = predicted(0, 30, [span(0, 8, ["1"]), span(8, null, ["2"])]);
    expect(told(quick, "00000.222222")).toBeNull();
    expect(told(moved, "00000...01111")).toBeNull();
  });

  it("takes the order of any case that was simulated", () => {
    const between = [span(0, 30, null), span(30, 50, ["2"]), span(50, null, ["1"])];
    expect(told(moved, "00000...22221111")).toContain("the predicted order differs");
    expect(told(moved, "00000...22221111", ["0"], [between])).toBeNull();
  });

  it("holds nothing against what is told as uncertain", () => {
    const spans = [{ ...span(0, null, ["1"]), uncertain: true as const }];
    expect(told(predicted(0, 0, spans), "00000...2222")).toBeNull();
  });
});
