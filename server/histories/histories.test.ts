import { randomUUID } from "node:crypto";
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { applyEdit, type Edit, type Plan } from "../../core/plan/index.ts";
import { readPlanText } from "../../exchange/plan-text.ts";
import { fullPlan } from "../../tests/support/full-plan.ts";
import { ownDatabase } from "../../tests/support/own-database.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import { ownPlan } from "../access/grants.ts";
import { migrate } from "../migrate.ts";
import { type Author, createPlan, deletePlan, redo, saveEdit, undo, undoState } from "../plans.ts";
import { database } from "../pool.ts";
import { searchRoutes } from "../route-index.ts";
import { writeHistories } from "./export.ts";
import { importHistories } from "./import.ts";

const author = (name: string): Author => ({ session: randomUUID(), name });

const routeTo = (to: string): Edit => ({
  label: `a route to ${to}`,
  changes: [
    {
      in: "device",
      device: "skerry-edge",
      collection: "routes",
      before: null,
      after: { to, via: "172.20.255.5" },
    },
  ],
});

const planRow = `
  select name, revision, approved, four_eyes, created_at, changed_at from plan where id = $1`;
const revisionRows = `
  select number, document, kind, edit, target, author, why, made_at from revision
  where plan = $1 and kind <> 'stage' order by number`;

/** All that is kept of a plan and its history. */
async function keptOf(id: string) {
  const [plan, revisions] = await Promise.all(
    [planRow, revisionRows].map((text) => database().query(text, [id])),
  );
  return { plan: plan.rows[0], revisions: revisions.rows };
}

describe.skipIf(!process.env.DATABASE_URL)("plans with their histories as files", () => {
  const work = mkdtempSync(join(tmpdir(), "iron-fork-histories-"));
  let id = ownPlan("");
  let exported = "";

  /** The folder of a plan in the export. */
  const folderOf = (plan: string) =>
    join(exported, readdirSync(exported).find((name) => name.startsWith(`${plan}-`)) ?? "none");

  /** A copy of the plan's export with one file changed. */
  function spoiled(file: string, change: (text: string) => string): string {
    const copy = mkdtempSync(join(work, "spoiled-"));
    cpSync(folderOf(id), copy, { recursive: true });
    writeFileSync(join(copy, file), change(readFileSync(join(copy, file), "utf8")));
    return copy;
  }

  const planCount = async () => (await database().query("select count(*)::int as n from plan")).rows[0].n;

  let leave: () => Promise<void>;
  beforeAll(async () => {
    // Every plan is exported: those of other tests should not be.
    leave = await ownDatabase();
    await migrate();
    const ann = author("Ann O'Hara");
    id = await createPlan({ ...demoPlan("marrow-bay"), name: "../Bay: «north» " }, ann, "as it was\nfound");
    await saveEdit(id, 1, routeTo("203.0.113.64/27"), ann);
    await saveEdit(id, 2, routeTo("203.0.113.96/27"), author("Bo"));
    await undo(id, ann);
    await redo(id, ann);
    const [first] = demoPlan("marrow-bay").devices.find((one) => one.id === "skerry-edge")?.routes ?? [];
    const [change] = routeTo("").changes;
    await saveEdit(
      id,
      5,
      { label: "one route less", changes: [{ ...change, before: first, after: null }] },
      ann,
    );
    await database().query("update plan set approved = 2, four_eyes = true where id = $1", [id]);
    exported = join(work, "all");
    await writeHistories(exported);
  });
  afterAll(async () => {
    await leave();
    rmSync(work, { recursive: true, force: true });
  });

  it("come back as they were: documents, edits, authors, times, and what counts as approved", async () => {
    const [taken] = await importHistories(folderOf(id));
    expect(taken).toMatchObject({ name: "../Bay: «north» ", revisions: 6 });
    expect(taken.id).not.toBe(id);
    const [before, now] = await Promise.all([keptOf(id), keptOf(taken.id)]);
    expect(now.revisions).toEqual(before.revisions);
    expect(now.plan).toEqual({ ...before.plan, changed_at: before.revisions[5].made_at });
    expect(now.plan).toMatchObject({ approved: 2, four_eyes: true });
  });

  it("can be worked on: searched, and edited on top, and what others did is not undone by whoever comes", async () => {
    const [taken] = await importHistories(folderOf(id));
    const hits = await searchRoutes("203.0.113.65", null);
    expect(hits.hits.map(({ plan }) => plan)).toContain(taken.id);
    const me = author("Cy");
    expect(await undoState(taken.id, me.session)).toEqual({ undo: null, redo: null });
    expect(await saveEdit(taken.id, 6, routeTo("203.0.113.128/27"), me)).toMatchObject({
      ok: true,
      revision: 7,
    });
  });

  it("are read by the command line: each revision is a plan, and what its edit makes of the one before", () => {
    const folder = join(folderOf(id), "revisions");
    const plans = readdirSync(folder).map((name): Plan => {
      const reading = readPlanText(readFileSync(join(folder, name), "utf8"));
      if (!reading.ok) throw new Error(name);
      return reading.plan;
    });
    const lines = readFileSync(join(folderOf(id), "history.jsonl"), "utf8")
      .trim()
      .split("\n");
    expect(plans).toHaveLength(6);
    for (const [n, line] of lines.entries()) {
      const { edit } = JSON.parse(line);
      if (edit) expect(applyEdit(plans[n - 1], edit)).toMatchObject({ ok: true, plan: plans[n] });
    }
  });

  it("hold all that a plan can: every kind of thing in one", async () => {
    const full = await createPlan(fullPlan(), author("Di"), "everything");
    const folder = join(work, "full");
    await writeHistories(folder);
    const taken = await importHistories(folder);
    const [before, now] = await Promise.all([keptOf(full), keptOf(taken[taken.length - 1].id)]);
    expect(now.revisions).toEqual(before.revisions);
  });

  it("leave deleted plans out, and write over nothing", async () => {
    const gone = await createPlan(demoPlan("three-routers"), author("Ed"), "to be deleted");
    await deletePlan(gone, "Ed");
    const folder = join(work, "without");
    await writeHistories(folder);
    expect(readdirSync(folder).some((name) => name.startsWith(`${gone}-`))).toBe(false);
    await expect(writeHistories(folder)).rejects.toThrow();
    expect(readdirSync(work).filter((name) => name.endsWith(".part"))).toEqual([]);
  });

  it.each([
    ["plan.json", () => "{", /plan\.json: this is not valid JSON/],
    ["plan.json", (text: string) => text.replace('"version": 1', '"version": 2'), /plan\.json: version: /],
    [
      "plan.json",
      (text: string) => text.replace('"approved": 2', '"approved": 9'),
      /approved: there is no revision 9; the last is 6/,
    ],
    [
      "plan.json",
      (text: string) => text.replace('"revisions": 6', '"revisions": 7'),
      /there are 6 revisions, and plan\.json lists 7/,
    ],
    [
      "history.jsonl",
      (text: string) => text.replace('"number":3', '"number":4'),
      /history\.jsonl, line 3: number: this is revision 3, not 4/,
    ],
    [
      "history.jsonl",
      (text: string) => text.replace('"target":2', '"target":5'),
      /line 4: target: is an earlier revision/,
    ],
    [
      "history.jsonl",
      (text: string) => text.replace('"kind":"load"', '"kind":"edit"'),
      /line 1: edit: is there for all revisions but a loaded one/,
    ],
    ["history.jsonl", (text: string) => text.replace('"kind":"redo"', '"kind":"stage"'), /line 5: kind: /],
    [
      "history.jsonl",
      (text: string) => text.replace("Ann O'Hara", "\\u0000"),
      /line 1: author: holds a zero byte/,
    ],
    [
      "history.jsonl",
      (text: string) => text.replace("a route to 203.0.113.96/27", "\\ud800"),
      /line 3: (why|edit)/,
    ],
    [
      "revisions/00003.yaml",
      (text: string) => text.replace("203.0.113.96/27", "203.0.113.128/27"),
      /history\.jsonl, line 3: edit: revisions\/00003\.yaml does not follow from it/,
    ],
    [
      "revisions/00004.yaml",
      (text: string) => text.replace("ironFork: 1", "ironFork: 7"),
      /00004\.yaml: ironFork/,
    ],
  ])("a spoiled %s is refused by name and reason, and nothing is taken", async (file, change, why) => {
    const before = await planCount();
    const copy = spoiled(file, change);
    await expect(importHistories(copy)).rejects.toThrow(why);
    expect(await planCount()).toBe(before);
  });

  it("are taken all or not at all: a plan that lacks a revision takes the ones before it along", async () => {
    const before = await planCount();
    const copy = mkdtempSync(join(work, "two-"));
    cpSync(folderOf(id), join(copy, "1-sound"), { recursive: true });
    cpSync(folderOf(id), join(copy, "2-short"), { recursive: true });
    rmSync(join(copy, "2-short", "revisions", "00002.yaml"));
    await expect(importHistories(copy)).rejects.toThrow(/2-short\/revisions\/00002\.yaml is missing/);
    expect(await planCount()).toBe(before);
    await expect(importHistories(mkdtempSync(join(work, "empty-")))).rejects.toThrow(/holds no plan/);
  });
});
