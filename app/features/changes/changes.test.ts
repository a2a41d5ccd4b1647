import { describe, expect, it } from "vitest";
import { NetworkModel } from "../../../core/scenario/index.ts";
import { runbookOf } from "../../../core/steps/index.ts";
import { withTexts } from "../../../exchange/texts/index.ts";
import { demoChanged, demoPlan } from "../../../tests/support/plans.ts";
import { agrees } from "./agrees.ts";
import { runbookMarkdown } from "./paper/markdown.ts";
import { runbookHtml } from "./paper/paper.server.tsx";
import { labelsOfPlans, toldRunbook } from "./paper/runbook-text.ts";
import { progressOf } from "./progress.ts";

const visit = (steps: number, ...anyOrder: number[][]) => ({
  steps: Array.from({ length: steps }),
  anyOrder,
});
const ticks = (...items: string[]) => ({ ticks: items.map((item) => ({ item })) });

describe("where a change stands", () => {
  const runbook = { anyOrder: [[1, 2]], visits: [visit(2), visit(3, [1, 2]), visit(1)] };

  it("counts what is done, what of it is in line, and which visit is next", () => {
    expect(progressOf(runbook, ticks())).toEqual({
      ...{ done: 0, of: 6, inLine: 0, visit: 0, proven: true },
      ...{ back: false, next: { visit: 0, step: 0 } },
    });
    expect(progressOf(runbook, ticks("v1.s1", "v1.before"))).toMatchObject({ done: 1, inLine: 1, visit: 0 });
    expect(progressOf(runbook, ticks("v1.s1", "v1.s2", "v2.s1"))).toMatchObject({
      done: 3,
      inLine: 3,
      visit: 1,
    });
    const all = ticks("v1.s1", "v1.s2", "v2.s1", "v2.s2", "v2.s3", "v3.s1");
    expect(progressOf(runbook, all)).toEqual({
      ...{ done: 6, of: 6, inLine: 6, visit: null, proven: true },
      ...{ back: false, next: null },
    });
  });

  it("goes back from the last step that was done, as long as nobody goes on", () => {
    const events = [{ kind: "turning back" as const }];
    const done = ticks("v1.s1", "v1.s2", "v2.s2");
    expect(progressOf(runbook, { ...done, events })).toMatchObject({
      back: true,
      next: { visit: 1, step: 1 },
    });
    expect(progressOf(runbook, { ...ticks(), events })).toMatchObject({ back: true, next: null });
    const resumed = [...events, { kind: "going on" as const }];
    expect(progressOf(runbook, { ...done, events: resumed })).toMatchObject({
      back: false,
      next: { visit: 1, step: 0 },
    });
  });

  it.each<[string[], boolean]>([
    [["v1.s2"], false],
    [["v2.s1"], true],
    [["v2.s2"], true],
    [["v2.s3"], false],
    [["v2.s1", "v2.s2", "v2.s3"], true],
    [["v2.s1", "v2.s2", "v2.s3", "v1.s1"], true],
    [["v1.s1", "v2.s1"], false],
    [["v3.s1"], false],
    [["v1.s1", "v1.s2", "v3.s1"], false],
    [["v1.s1", "v1.s2", "v2.s1", "v2.s2", "v2.s3", "v3.s1"], true],
  ])("with %j done, an order that was proven leads there: %s", (items, proven) => {
    expect(progressOf(runbook, ticks(...items)).proven).toBe(proven);
  });
});

describe("what was read of a device, held against a check", () => {
  const check = (...inUse: string[]) =>
    ({ kind: "table", device: "a", vrf: "main", to: "10.0.0.0/8", inUse }) as const;
  const line = (...inUse: string[]) => ({ vrf: "main", to: "10.0.0.0/8", inUse });

  it.each<[string[], string[], boolean]>([
    [[], [], true],
    [["via 192.0.2.1"], [], false],
    [[], ["via 192.0.2.1"], false],
    [["via 192.0.2.1 out wan1"], ["via 192.0.2.1"], true],
    [["via 192.0.2.2", "via 192.0.2.1"], ["via 192.0.2.1", "via 192.0.2.2"], true],
    [["via 192.0.2.2"], ["via 192.0.2.1"], false],
    [["discard drop"], ["discard drop"], true],
  ])("%j and %j: %s", (wanted, seen, same) => expect(agrees(check(...wanted), line(...seen))).toBe(same));
});

describe("a runbook to take along", () => {
  const [before, after] = [demoPlan("marrow-bay"), demoChanged()];
  const outcome = runbookOf(NetworkModel.compile(before), NetworkModel.compile(after));
  if (!outcome) throw new Error("no order");
  const change = {
    id: "1",
    number: 4,
    base: 1,
    draft: 2,
    title: "<b>One</b> *summary*",
    reason: "# not a heading\nnext line",
    reference: "MB-7",
    windowFrom: new Date("2027-03-05T22:00:00Z"),
    windowTo: null,
    notes: "",
    runbook: outcome.runbook,
    state: "approved",
    author: "Ann",
    session: "x",
    madeAt: new Date("2027-03-01T08:00:00Z"),
    events: [{ id: "1", kind: "approved", detail: {}, author: "Bob", at: new Date("2027-03-02T08:00:00Z") }],
    ticks: [{ item: "v1.s1", author: "Cy", at: new Date("2027-03-05T22:10:00Z") }],
  } as const;
  const own = {
    "v1.s1": { do: { ok: true, text: "put ``` in" }, undo: { ok: true, text: "take out" } },
  } as const;
  const told = toldRunbook(
    "Marrow Bay",
    change,
    withTexts(before, after, outcome.runbook),
    labelsOfPlans(before, after),
    after,
    own,
  );

  it("tells every step, how it is taken back, what to look at, and who did what", () => {
    expect(told.visits.flatMap(({ steps }) => steps)).toHaveLength(15);
    const text = runbookMarkdown(told);
    for (const { steps } of told.visits)
      for (const step of steps) {
        expect(step.text).toMatch(/^(Add|Change|Remove) /);
        expect(step.undo).toMatch(/^(Add|Change|Remove) /);
      }
    expect(text.match(/^- \[[ x]\] \d+\. /gm)).toHaveLength(15);
    expect(text).toMatch(/^- \[x\] 1\. .*Cy, 2027-03-05 22:10 UTC/m);
    expect(text).toContain("**Approved by:** Bob, 2027-03-02 08:00 UTC");
    expect(text).toMatch(/from Quay camera to 203\\?\.0\.113\.70, tcp 443/);
    // The distance of a floating route is shown with its next hop.
    expect(text).toMatch(/172\.20\.48\.0\/24 via 172\.20\.0\.3.*distance 20/);
  });

  it("holds whatever people wrote as text", () => {
    const text = runbookMarkdown(told);
    expect(text.split("\n")[0]).toBe("# \\<b\\>One\\</b\\> \\*summary\\*");
    expect(text).toContain("````\nput ``` in\n````");
    expect(text.match(/^#/gm)?.length).toBe(2 + told.visits.length);
    const html = runbookHtml(told, false);
    expect(html).toContain("&lt;b&gt;One&lt;/b&gt;");
    expect(html).not.toContain("<b>One");
  });
});
