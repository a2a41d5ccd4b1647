import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { differencePlans, type Edit, type Plan, stageRevision } from "../../core/plan/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { runbookOf } from "../../core/steps/index.ts";
import { demoChanged, demoPlan } from "../../tests/support/plans.ts";
import { migrate } from "../migrate.ts";
import { type Author, createPlan, documentOf, headOf, historyOf, saveEdit, undo } from "../plans.ts";
import { database } from "../pool.ts";
import {
  approveChange,
  approveRevision,
  authorsOf,
  type ChangeWords,
  changeOf,
  closeChange,
  type Done,
  keepStage,
  listChanges,
  markOf,
  proposeChange,
  rewriteChange,
  setFourEyes,
  tickChange,
  withdrawChange,
} from "./changes.ts";
import { keepTemplate, templatesOf } from "./templates.ts";

const author = (name: string): Author => ({ session: randomUUID(), name });
const words: ChangeWords = {
  title: "One summary to the yard",
  reason: "",
  reference: "MB-7",
  windowFrom: new Date("2027-03-05T22:00:00Z"),
  windowTo: new Date("2027-03-06T02:00:00Z"),
  notes: "",
};

const before = demoPlan("marrow-bay");
const after = demoChanged();
const outcome = runbookOf(NetworkModel.compile(before), NetworkModel.compile(after));
const steps =
  outcome?.runbook.visits.flatMap((visit, v) => visit.steps.map((_, s) => `v${v + 1}.s${s + 1}`)) ?? [];
const proven = { base: 1, draft: 2, runbook: outcome?.runbook, steps: steps.length };

const why = (done: Done) => (done.ok ? "" : done.error);

describe.skipIf(!process.env.DATABASE_URL)("changes in the database", () => {
  beforeAll(async () => {
    await migrate();
  });
  afterAll(async () => {
    await database().end();
  });

  const ann = author("Ann");
  const bob = author("Bob");

  /** A plan with a draft of Ann's, and a change of it that she proposes. */
  async function proposed() {
    const plan = await createPlan(before, ann, "test");
    await saveEdit(plan, 1, { label: "the draft", changes: differencePlans(before, after) as never }, ann);
    const made = await proposeChange(plan, proven, words, ann);
    if (!made.ok) throw new Error(made.error);
    return { plan, number: String(made.number) };
  }

  it("keeps what a change says, and numbers them within their plan", async () => {
    const { plan, number } = await proposed();
    expect(number).toBe("1");
    const change = await changeOf<Plan>(plan, number);
    expect(change).toMatchObject({ ...words, base: 1, draft: 2, state: "proposed", author: "Ann" });
    expect(change?.events.map(({ kind }) => kind)).toEqual(["proposed"]);
    const second = await proposeChange(plan, proven, { ...words, title: "another" }, bob);
    expect(second).toEqual({ ok: true, number: 2 });
    expect((await listChanges(plan)).map((one) => one.title)).toEqual(["another", words.title]);
    for (const none of ["0", "3", "x", "1e1", "99999999"]) expect(await changeOf(plan, none)).toBe(null);
  });

  it("names everybody who made a part of it", async () => {
    const { plan } = await proposed();
    expect(await authorsOf(plan, { base: 1, draft: 2 })).toEqual(["Ann"]);
    const edited = { ...after, name: "another name" };
    await saveEdit(plan, 2, { label: "more", changes: differencePlans(after, edited) as never }, bob);
    expect(await authorsOf(plan, { base: 1, draft: 3 })).toEqual(["Ann", "Bob"]);
  });

  it("is carried out only once approved; ticks and what takes them back stay on record", async () => {
    const { plan, number } = await proposed();
    expect(why(await tickChange(plan, number, steps[0], true, bob))).toMatch(/not approved yet/);
    expect(await approveChange(plan, number, ann)).toEqual({ ok: true });
    expect(await headOf(plan)).toMatchObject({ approved: 2 });
    expect(why(await approveChange(plan, number, ann))).toMatch(/approved already/);
    const mark = await markOf(plan, number);
    expect(await tickChange(plan, number, steps[0], true, bob)).toEqual({ ok: true });
    expect(await markOf(plan, number)).not.toBe(mark);
    await tickChange(plan, number, steps[0], true, ann);
    let change = await changeOf(plan, number);
    expect(change?.ticks).toMatchObject([{ item: steps[0], author: "Bob" }]);
    await tickChange(plan, number, steps[0], false, ann);
    change = await changeOf(plan, number);
    expect(change?.ticks).toEqual([]);
    expect(change?.events.map((event) => [event.kind, event.author])).toEqual([
      ["proposed", "Ann"],
      ["approved", "Ann"],
      ["ticked", "Bob"],
      ["unticked", "Ann"],
    ]);
  });

  it("ends as carried out when all steps are done, and as turned back when none is: then the old revision counts again", async () => {
    const { plan, number } = await proposed();
    await approveChange(plan, number, bob);
    expect(why(await closeChange(plan, number, "done", steps, bob))).toMatch(/15 of its steps are not done/);
    for (const item of steps) await tickChange(plan, number, item, true, bob);
    expect(why(await closeChange(plan, number, "turned back", steps, bob))).toMatch(
      /15 of its steps are still done/,
    );
    expect(why(await withdrawChange(plan, number, bob))).toMatch(/go back first/);
    expect(await closeChange(plan, number, "done", steps, bob)).toEqual({ ok: true });
    expect(await headOf(plan)).toMatchObject({ approved: 2 });
    expect(why(await tickChange(plan, number, steps[0], false, bob))).toMatch(/is done/);

    const other = await proposed();
    await approveChange(other.plan, other.number, bob);
    await tickChange(other.plan, other.number, steps[0], true, bob);
    await tickChange(other.plan, other.number, steps[0], false, bob);
    expect(await closeChange(other.plan, other.number, "turned back", steps, bob)).toEqual({ ok: true });
    expect(await headOf(other.plan)).toMatchObject({ approved: 1, revision: 2 });
  });

  it("with four eyes is approved by nobody who made a part of it, whichever way they try", async () => {
    const { plan, number } = await proposed();
    await setFourEyes(plan, true);
    expect(why(await approveChange(plan, number, ann))).toMatch(/must not be one of its authors/);
    expect(why(await approveRevision(plan, 2, ann))).toMatch(/must not be one of its authors/);
    // Bob proposes what Ann drafted: then it is neither's to approve.
    const made = await proposeChange(plan, proven, words, bob, number);
    expect(made).toEqual({ ok: true, number: 2 });
    expect(why(await approveChange(plan, "2", ann))).toMatch(/must not be one of its authors/);
    expect(why(await approveChange(plan, "2", bob))).toMatch(/must not be one of its authors/);
    expect(await changeOf(plan, number)).toMatchObject({ state: "withdrawn" });
    expect(await approveChange(plan, "2", author("Cy"))).toEqual({ ok: true });
  });

  it("with four eyes is not approved by an author who goes back first, or has another bring their work back", async () => {
    const [bo, cy] = [author("Bo"), author("Cy")];
    const { plan } = await proposed();
    await setFourEyes(plan, true);
    // Revision 2 is Ann's. She undoes it, has that approved, and approves the older revision.
    expect(await undo(plan, ann)).toMatchObject({ ok: true, revision: 3 });
    expect(await approveRevision(plan, 3, bo)).toEqual({ ok: true });
    expect(why(await approveRevision(plan, 2, ann))).toMatch(/must not be one of its authors/);
    // Cy restores it: now it is Cy's and still Ann's.
    const [base, drafted] = [await documentOf(plan, 3), await documentOf(plan, 2)];
    const restored = { label: "restore", changes: differencePlans(base as Plan, drafted as Plan) };
    expect(await saveEdit(plan, 3, restored, cy)).toMatchObject({ ok: true, revision: 4 });
    for (const one of [ann, cy])
      expect(why(await approveRevision(plan, 4, one))).toMatch(/must not be one of its authors/);
    // With more beside it, it is no revision that was there before.
    const renamed = { name: "another name", description: after.description };
    const more: Edit = {
      label: "more",
      changes: [
        { in: "plan-settings", before: { name: after.name, description: after.description }, after: renamed },
      ],
    };
    expect(await saveEdit(plan, 4, more, cy)).toMatchObject({ ok: true, revision: 5 });
    expect(why(await approveRevision(plan, 5, ann))).toMatch(/must not be one of its authors/);
    expect(await approveRevision(plan, 5, bo)).toEqual({ ok: true });
    // What she made counts no more once it is approved by others.
    expect(await approveRevision(plan, 4, ann)).toEqual({ ok: true });
  });

  it("said otherwise asks for approval again; what it is of never changes", async () => {
    const { plan, number } = await proposed();
    await approveChange(plan, number, bob);
    expect(await rewriteChange(plan, number, { ...words, title: "Two summaries" }, ann)).toEqual({
      ok: true,
    });
    expect(await changeOf(plan, number)).toMatchObject({
      state: "proposed",
      title: "Two summaries",
      draft: 2,
    });
    expect(await headOf(plan)).toMatchObject({ approved: 1 });
    await approveChange(plan, number, bob);
    await tickChange(plan, number, steps[0], true, bob);
    expect(why(await rewriteChange(plan, number, words, ann))).toMatch(/go back first/);
    expect(why((await proposeChange(plan, proven, words, ann, number)) as Done)).toMatch(/go back first/);
  });

  it("whose start is approved no more is not approved", async () => {
    const { plan, number } = await proposed();
    await approveRevision(plan, 2, bob);
    expect(why(await approveChange(plan, number, bob))).toMatch(
      /starts from revision 1, and meanwhile revision 2/,
    );
  });

  it("approved by two at the same moment is approved once", async () => {
    const { plan, number } = await proposed();
    const both = await Promise.all([approveChange(plan, number, ann), approveChange(plan, number, bob)]);
    expect(both.filter(({ ok }) => ok)).toHaveLength(1);
    const change = await changeOf(plan, number);
    expect(change?.events.filter(({ kind }) => kind === "approved")).toHaveLength(1);
  });

  it("keeps plans in its middle beside the line of revisions: history, undo and the newest revision know nothing of them", async () => {
    const { plan } = await proposed();
    const number = stageRevision({ change: 1, steps: 3 }) as number;
    await keepStage(plan, number, outcome?.plans[0]);
    await keepStage(plan, number, outcome?.plans[0]);
    expect(await documentOf(plan, number)).toEqual(outcome?.plans[0]);
    expect((await historyOf(plan, 10)).map((entry) => entry.number)).toEqual([2, 1]);
    expect(await headOf(plan)).toMatchObject({ revision: 2 });
    const saved = await saveEdit(
      plan,
      2,
      {
        label: "more",
        changes: [
          {
            in: "plan-settings",
            before: { name: after.name, description: after.description },
            after: { name: "x" },
          },
        ],
      },
      ann,
    );
    expect(saved).toMatchObject({ ok: true, revision: 3 });
  });

  it("refuses more steps than can be followed, and windows that end before they begin", async () => {
    const { plan } = await proposed();
    expect(await proposeChange(plan, { ...proven, steps: 10_000 }, words, ann)).toMatchObject({ ok: false });
    await expect(
      proposeChange(plan, proven, { ...words, windowTo: new Date("2027-01-01T00:00:00Z") }, ann),
    ).rejects.toThrow();
  });

  it("keeps one template a profile, and takes an empty one away", async () => {
    const { plan } = await proposed();
    await keepTemplate(plan, "classic-router", "{{ sentence }}", "Ann");
    await keepTemplate(plan, "classic-router", "put {{ item.to }}", "Bob");
    expect(await templatesOf(plan)).toMatchObject([
      { profile: "classic-router", source: "put {{ item.to }}", author: "Bob" },
    ]);
    await keepTemplate(plan, "classic-router", " \n", "Bob");
    expect(await templatesOf(plan)).toEqual([]);
  });
});
