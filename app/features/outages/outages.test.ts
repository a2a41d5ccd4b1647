import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { findElement } from "../../../core/network/index.ts";
import { applyEdit, type Watch } from "../../../core/plan/index.ts";
import type { SpanReport } from "../../../core/reports/index.ts";
import { NetworkModel } from "../../../core/scenario/index.ts";
import { outcomeIn, settle } from "../../../core/settle/index.ts";
import { askFrom } from "../../../core/walk/index.ts";
import { boundsText } from "../../../core/words/index.ts";
import { demoPlan, planOf } from "../../../tests/support/plans.ts";
import { twoGateways } from "../../../tests/support/shared-plans.ts";
import { sweptBoard } from "../../queries/board.ts";
import { boardLookOf } from "../../search/board-look.ts";
import { arranged, rowsShown } from "./arrange.ts";
import { type Line, linesOf, pairKey, talliesOf } from "./fold.ts";
import { lostText } from "./lost.ts";
import { chosenElements } from "./outage-address.ts";
import { lastDrawn, scaleOf, segmentsOf } from "./segments.ts";
import { signsOf } from "./signs.ts";
import { barsOf, drawnOf } from "./time-bars.ts";
import { changesOf, turnablesOf } from "./turnables.ts";

const plan = demoPlan("marrow-bay");
const scenario = NetworkModel.compile(plan);
const prepared = scenario;

describe("the board", () => {
  const board = sweptBoard(prepared, scenario, 2);

  it("says of every cell what a walk under that failure says, and of every other that nothing changes", () => {
    const { network } = scenario.engine;
    const cells = new Map(board.cells.map(([r, c, cell]) => [`${r} ${c}`, cell]));
    for (const [c, column] of board.columns.entries()) {
      if (column.failed.length > 1 && c % 5) continue;
      const failed = column.failed.map((ref) => findElement(network, ref) as number);
      const { world, flapping } = settle(scenario.engine, failed);
      if (flapping.length) continue;
      for (const [r, row] of board.rows.entries()) {
        const flow = plan.flows.find((entry) => entry.id === row.flow);
        const asked = flow && askFrom(network, flow);
        if (!asked?.ok) continue;
        const { verdict } = outcomeIn(world, asked.question, scenario.gateways);
        const cell = cells.get(`${r} ${c}`);
        // Sets of two are listed for the flows that they break, and for no others.
        if (cell) expect(verdict).toBe(cell.verdict);
        else if (column.failed.length === 1) expect(verdict).toBe(row.nominal.verdict);
      }
    }
  });

  it("puts first what breaks most, and lists the smallest sets alone", () => {
    const breaks = board.columns.map((column) => column.breaks);
    expect(breaks).toEqual([...breaks].sort((a, b) => b - a));
    for (const row of board.rows) {
      for (const set of row.breakers) {
        const smaller = row.breakers.filter(
          (other) => other !== set && other.every((ref) => set.includes(ref)),
        );
        expect(smaller).toEqual([]);
      }
    }
  });

  it("judges what was expected", () => {
    const r = board.rows.findIndex((row) => row.flow === "tickets");
    const c = board.columns.findIndex((column) => column.failed.join() === "link:north-ring");
    const cell = board.cells.find(([row, column]) => row === r && column === c)?.[2];
    expect(cell?.broken).toEqual(["it must survive any single failure"]);
  });

  it("is arranged by what breaks, and by words", () => {
    const look = boardLookOf(new URLSearchParams());
    const all = arranged(board, look);
    expect(all.some((c) => board.columns[c].plates.some((plate) => plate.kind === "interface"))).toBe(false);
    const breaking = arranged(board, { ...look, onlyBreaking: true });
    expect(breaking.every((c) => board.columns[c].breaks > 0)).toBe(true);
    expect(breaking.length).toBeLessThan(all.length);
    const ring = arranged(board, { ...look, text: "fibre ring" });
    expect(ring.length).toBeGreaterThan(0);
    expect(
      ring.every((c) => board.columns[c].plates.some((plate) => plate.label === "North fibre ring")),
    ).toBe(true);
    expect(rowsShown(board, "gull").map((r) => board.rows[r].flow)).toEqual([
      "gull-timetable",
      "gull-internet",
    ]);
    expect(rowsShown(board, "fibre ring")).toHaveLength(board.rows.length);
  });
});

describe("a flow's row in time", () => {
  const spans = fc
    .array(fc.tuple(fc.integer({ min: 1, max: 3000 }), fc.constantFrom("works", "fails", "one-way")), {
      minLength: 1,
      maxLength: 6,
    })
    .map((parts): SpanReport[] => {
      let fromMs = 0;
      return parts.map(([length, verdict], i) => {
        const span = {
          fromMs,
          toMs: i === parts.length - 1 ? null : fromMs + length,
          verdict: verdict as SpanReport["verdict"],
          carriers: verdict === "works" ? ["a"] : [],
        };
        fromMs += length;
        return span;
      });
    });

  it("covers all of the time once, and is lost for certain only where both cases are silent", () => {
    fc.assert(
      fc.property(spans, spans, fc.integer({ min: 500, max: 9000 }), (longest, least, end) => {
        const flow = {
          id: "f",
          spans: longest,
          leastSpans: least,
          outageMs: { min: 0, max: 0 },
          lost: { min: 0, max: 0 },
        };
        const segments = segmentsOf(flow, end);
        expect(segments[0].fromMs).toBe(0);
        expect(segments[segments.length - 1].toMs).toBe(end);
        for (const [i, segment] of segments.slice(1).entries()) expect(segment.fromMs).toBe(segments[i].toMs);
        for (const { fromMs, toMs, state } of segments) {
          const middle = (fromMs + toMs) / 2;
          const at = (list: SpanReport[]) =>
            list.find((s) => s.fromMs <= middle && (s.toMs === null || middle < s.toMs));
          const wanted =
            at(longest)?.verdict === "works" ? "works" : at(least)?.verdict === "works" ? "perhaps" : "lost";
          expect(state).toBe(wanted);
        }
      }),
    );
  });

  it.each([
    [{ min: 0, max: 0 }, ""],
    [{ min: 100, max: 100 }, "0.1 s"],
    [{ min: 2000, max: 4040 }, "2–4.1 s"],
    [{ min: 12_345, max: 61_000 }, "12.3–61 s"],
    [{ min: 500, max: null }, "0.5 s – no end"],
    [{ min: null, max: null }, "no end"],
  ])("a gap of %o is written %s", (gap, text) => {
    expect(boundsText(gap)).toBe(text);
  });

  it("counts packets", () => {
    expect(lostText({ min: 1, max: 1 })).toBe("1 packet");
    expect(lostText({ min: 2, max: 9 })).toBe("2 to 9 packets");
    expect(lostText({ min: 2, max: null })).toContain("increase with the outage");
  });
});

describe("the single probes of a watch", () => {
  const probe = (more: object) =>
    ({
      id: "w",
      kind: "probe",
      target: "192.0.2.1",
      intervalMs: 1000,
      timeoutMs: 400,
      failAfter: 3,
      recoverAfter: 2,
      ...more,
    }) as Watch;

  it("end in the last missed one as the watch goes down, and in the last answered one as it comes up", () => {
    // Down at 3.4 s: sent at 1, 2 and 3 s and missed. Up at 11 s: sent at 10 and 11 s and answered.
    const changes = [
      { fromMs: 0, up: true },
      { fromMs: 3400, up: false },
      { fromMs: 11_000, up: true },
    ];
    const signs = signsOf(probe({}), changes, [0], 13_000);
    expect(signs.filter((sign) => sign.kind === "missed").map((sign) => sign.fromMs)).toEqual([
      1000, 2000, 3000, 4000, 5000, 6000, 7000, 8000, 9000,
    ]);
    expect(signs.filter((sign) => sign.kind === "answered").map((sign) => sign.fromMs)).toEqual([
      0, 10_000, 11_000, 12_000,
    ]);
  });

  it("are as many as rule 9.3 says, whatever the timers", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 6 }),
        fc.integer({ min: 100, max: 5000 }),
        (failAfter, intervalMs) => {
          const timeoutMs = Math.floor(intervalMs / 2);
          const downMs = failAfter * intervalMs + timeoutMs;
          const changes = [
            { fromMs: 0, up: true },
            { fromMs: downMs, up: false },
          ];
          const signs = signsOf(probe({ failAfter, intervalMs, timeoutMs }), changes, [0], downMs);
          expect(signs.filter((sign) => sign.kind === "missed")).toHaveLength(failAfter);
          for (const sign of signs) expect(sign.toMs).toBeLessThanOrEqual(downMs);
        },
      ),
    );
  });

  it("are left out where they could not be told apart, and a session shows its silence", () => {
    const changes = [
      { fromMs: 0, up: true },
      { fromMs: 5900, up: false },
    ];
    expect(signsOf(probe({}), changes, [5000], 400_000)).toEqual([]);
    const session = { id: "s", kind: "bfd" } as Watch;
    expect(signsOf(session, changes, [1000, 5000], 9000)).toEqual([
      { fromMs: 5000, toMs: 5900, kind: "silent" },
    ]);
    expect(signsOf(undefined, changes, [5000], 9000)).toEqual([]);
  });
});

describe("folding by site", () => {
  const board = sweptBoard(prepared, scenario, 1);
  const all = (list: readonly unknown[]) => list.map((_, i) => i);

  it("shows every item once under its site's head, or the head alone", () => {
    const site = (c: number) => board.columns[c].site;
    const open = linesOf(all(board.columns), site, true, []);
    expect(open.flatMap((line) => (line.kind === "item" ? [line.index] : [])).sort((a, b) => a - b)).toEqual(
      all(board.columns),
    );
    const closed = linesOf(
      all(board.columns),
      site,
      true,
      board.columns.map((column) => column.site),
    );
    expect(closed.every((line) => line.kind === "site")).toBe(true);
    expect(closed.flatMap((line) => (line.kind === "site" ? line.items : []))).toHaveLength(
      board.columns.length,
    );
    expect(linesOf(all(board.columns), site, false, [])).toHaveLength(board.columns.length);
  });

  it("counts under a head what stands in the cells that it folds", () => {
    const rows = linesOf(all(board.rows), (r) => board.rows[r].site, true, ["longhaven"]);
    const columns = linesOf(all(board.columns), (c) => board.columns[c].site, true, ["office"]);
    const tallies = talliesOf(board, rows, columns);
    const items = (line: Line) => (line.kind === "item" ? [line.index] : line.items);
    for (const row of rows) {
      for (const column of columns) {
        if (row.kind === "item" && column.kind === "item") continue;
        const under = board.cells.filter(([r, c]) => items(row).includes(r) && items(column).includes(c));
        const breaks = under.filter(([, , cell]) => cell.verdict !== "works").length;
        expect(tallies.get(pairKey(row.key, column.key)) ?? { breaks: 0, changes: 0 }).toEqual({
          breaks,
          changes: under.length,
        });
      }
    }
  });
});

describe("times that are turned", () => {
  const two = () => {
    const plan = twoGateways();
    const devices = plan.devices.map((device) => ({
      ...device,
      interfaces: device.interfaces.map((port) => ({
        ...port,
        ...(port.virtual
          ? { virtual: [...port.virtual, { ...port.virtual[0], id: 17, addresses: ["172.20.16.7"] }] }
          : {}),
      })),
    }));
    return planOf({ ...plan, devices });
  };

  it("of two virtual routers of one interface are one change, whichever is turned first", () => {
    const plan = two();
    const moved = [16, 17].map((id) => ({ device: "ra", port: "lan", id }));
    for (const order of [moved, moved.toReversed()]) {
      const turnables = turnablesOf(plan, [], order);
      const { names, changes } = changesOf(turnables, (name, key) =>
        key === "advertMs" ? (name.endsWith("16") ? 200 : 300) : null,
      );
      expect(names).toHaveLength(2);
      const outcome = applyEdit(plan, { label: "turn", changes });
      if (!outcome.ok) throw new Error(outcome.errors[0].message);
      const port = outcome.plan.devices.find(({ id }) => id === "ra")?.interfaces[0];
      expect(port?.virtual?.map(({ id, advertMs }) => [id, advertMs])).toEqual([
        [16, 200],
        [17, 300],
      ]);
    }
    expect(changesOf(turnablesOf(plan, [], moved), () => null).changes).toEqual([]);
  });
});

describe("the drawing of an outage in time", () => {
  const span = (fromMs: number, toMs: number | null, verdict: "works" | "fails"): SpanReport =>
    ({ fromMs, toMs, verdict, carriers: [] }) as SpanReport;
  const flowOf = (n: number, max: number | null) => ({
    id: `flow-${n}`,
    spans: [span(0, null, "fails")],
    leastSpans: [span(0, null, "fails")],
    outageMs: { min: 0, max },
    lost: { min: 0, max },
  });
  const report = (more: object) =>
    ({ events: [], watches: [], flows: [], flapping: false, failsAtMs: [0], ...more }) as never;

  it("ends after few of the turns of what never comes to rest, and clips all that goes on", () => {
    const changes = Array.from({ length: 400 }, (_, n) => ({ fromMs: n * 500, up: n % 2 > 0 }));
    const events = changes.map(({ fromMs }) => ({ atMs: fromMs, what: "" }));
    const flapping = report({ events, watches: [{ watch: "a/w", changes }], flapping: true });
    expect(lastDrawn(flapping)).toBe(39 * 500);
    expect(lastDrawn(report({ events }))).toBe(399 * 500);
    const { endMs } = scaleOf(flapping, null);
    const frame = { flows: [], gateways: [] } as never;
    const bars = barsOf({ report: flapping, frame, endMs, colour: () => "", watchName: (w) => w });
    expect(bars.length).toBeLessThan(60);
    for (const { y } of bars) expect(y[1]).toBeLessThanOrEqual(endMs);
    expect(bars.at(-1)?.y[1]).toBe(endMs);
  });

  it("has the flows that are down for longest, in their order, and says how many it leaves to be read", () => {
    const few = report({ flows: [flowOf(1, 5), flowOf(2, 7)] });
    expect(drawnOf(few)).toEqual({ report: few, left: 0 });
    const many = Array.from({ length: 50 }, (_, n) => flowOf(n, n % 10 === 0 ? null : n));
    const { report: drawn, left } = drawnOf(report({ flows: many }));
    expect(left).toBe(20);
    const ids = drawn.flows.map(({ id }) => Number(id.slice(5)));
    expect(ids).toEqual([...ids].sort((a, b) => a - b));
    expect(ids).toEqual(expect.arrayContaining([0, 10, 20, 30, 40, 49, 48]));
    expect(ids).not.toContain(1);
    const withAsked = drawnOf(report({ flows: many }), "flow-1").report.flows.map(({ id }) => id);
    expect(withAsked).toHaveLength(30);
    expect(withAsked[1]).toBe("flow-1");
  });
});

describe("elements that are typed", () => {
  const choices = [
    { value: "link:north", label: "North fibre" },
    { value: "device:r1", label: "Core router" },
    { value: "site:quay", label: "quay" },
  ];
  it.each([
    ["link:north", ["link:north"]],
    ["North fibre, core router", ["link:north", "device:r1"]],
    ["link:north device:r1, link:north", ["link:north", "device:r1"]],
  ])("are known by label or reference: %s", (typed, refs) => {
    expect(chosenElements(typed, choices)).toEqual({ ok: true, refs });
  });
  it.each([
    ["south fibre", '"south fibre" is not a link'],
    ["link:north, nowhere", '"nowhere" is not a link'],
    ["link:north nowhere", '"nowhere" is not a link'],
    [" , ", "at least one element"],
  ])("are refused where the plan has none such: %s", (typed, error) => {
    expect(chosenElements(typed, choices)).toMatchObject({
      ok: false,
      error: expect.stringContaining(error),
    });
  });
});
