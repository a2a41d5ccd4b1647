import { randomUUID } from "node:crypto";
import { readdirSync, readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { type Edit, readPlan, type StaticRoute } from "../core/plan/index.ts";
import { demoPlan } from "../tests/support/plans.ts";
import { ownPlan, type ReadablePlan } from "./access/grants.ts";
import { migrate } from "./migrate.ts";
import {
  type Author,
  createPlan,
  documentOf,
  headOf,
  historyOf,
  redo,
  type SaveOutcome,
  saveEdit,
  undo,
  undoState,
} from "./plans.ts";
import { database } from "./pool.ts";
import { MAX_HITS, searchRoutes } from "./route-index.ts";

/** The keys of a plan document in the first version. Later ones need a migration. */
const FIRST_KEYS = ["ironFork", "name", "profiles", "devices", "links", "gateways", "flows", "outages"];

const author = (name: string): Author => ({ session: randomUUID(), name });
const route = (to: string, more: Partial<StaticRoute> = {}): StaticRoute => ({
  to,
  via: "172.20.255.5",
  ...more,
});

function routeEdit(before: StaticRoute | null, after: StaticRoute | null): Edit {
  return {
    label: `route ${after?.to ?? before?.to}`,
    changes: [{ in: "device", device: "skerry-edge", collection: "routes", before, after }],
  };
}

async function routesOf(plan: ReadablePlan): Promise<string[]> {
  const head = await headOf(plan);
  const document = await documentOf(plan, head?.revision ?? 0);
  return document?.devices.find((device) => device.id === "skerry-edge")?.routes.map((r) => r.to) ?? [];
}

const message = (outcome: SaveOutcome) =>
  outcome.ok ? "" : outcome.errors.map((error) => error.message).join();

describe.skipIf(!process.env.DATABASE_URL)("plans in the database", () => {
  beforeAll(async () => {
    await migrate();
  });
  afterAll(async () => {
    await database().end();
  });
  const fresh = () => createPlan(demoPlan("marrow-bay"), author("Ann"), "test");

  it("migrates once, and again without harm", async () => {
    expect(await migrate()).toEqual([]);
  });

  it("gives documents of earlier versions what came into plans since", async () => {
    const now = readPlan({ ironFork: 1, name: "Kept long ago" });
    if (!now.ok) throw new Error("not read");
    const then = Object.fromEntries(Object.entries(now.plan).filter(([key]) => FIRST_KEYS.includes(key)));
    const plan = await createPlan(
      { ...demoPlan("marrow-bay"), devices: [], links: [] },
      author("Ann"),
      "test",
    );
    await database().query("update revision set document = $2 where plan = $1", [plan, JSON.stringify(then)]);
    const folder = fileURLToPath(new URL("../db/migrations/", import.meta.url));
    for (const file of readdirSync(folder).sort())
      for (const [update] of readFileSync(folder + file, "utf8").matchAll(
        /^update revision set document[^;]*;/gm,
      ))
        await database().query(update);
    expect(await documentOf(plan, 1)).toEqual(now.plan);
  });

  it("keeps every revision with who made it and why", async () => {
    const ann = author("Ann");
    const plan = await fresh();
    const saved = await saveEdit(plan, 1, routeEdit(null, route("10.7.0.0/16")), ann);
    expect(saved).toMatchObject({ ok: true, revision: 2 });
    const [latest, first] = await historyOf(plan, 10);
    expect(latest).toMatchObject({ number: 2, kind: "edit", author: "Ann", why: "route 10.7.0.0/16" });
    expect(first).toMatchObject({ number: 1, kind: "load" });
    expect(await documentOf(plan, 1)).not.toEqual(await documentOf(plan, 2));
  });

  it("applies a later edit on top where it still fits, and refuses it with the reason where not", async () => {
    const plan = await fresh();
    const [ann, bob] = [author("Ann"), author("Bob")];
    expect((await saveEdit(plan, 1, routeEdit(null, route("10.7.0.0/16")), ann)).ok).toBe(true);
    // Bob's page still shows revision 1; his edit has nothing to do with Ann's.
    expect(await saveEdit(plan, 1, routeEdit(null, route("10.8.0.0/16")), bob)).toMatchObject({
      ok: true,
      revision: 3,
    });
    expect(await routesOf(plan)).toEqual(["0.0.0.0/0", "10.7.0.0/16", "10.8.0.0/16"]);
    // Both change the same route: the second is refused with the first author's name.
    const before = route("10.7.0.0/16");
    expect((await saveEdit(plan, 3, routeEdit(before, { ...before, distance: 20 }), ann)).ok).toBe(true);
    const late = await saveEdit(plan, 3, routeEdit(before, { ...before, distance: 30 }), bob);
    expect(message(late)).toMatch(/has been changed since.*Ann/);
    expect(await headOf(plan)).toMatchObject({ revision: 4 });
  });

  it("lets many save at once and loses none", async () => {
    const plan = await fresh();
    const edits = Array.from({ length: 12 }, (_, i) =>
      saveEdit(plan, 1, routeEdit(null, route(`10.${i}.0.0/16`)), author(`P${i}`)),
    );
    const outcomes = await Promise.all(edits);
    expect(outcomes.every((outcome) => outcome.ok)).toBe(true);
    expect((await routesOf(plan)).length).toBe(13);
    expect(await headOf(plan)).toMatchObject({ revision: 13 });
  });

  it("undoes and redoes a session's own edits, one after the other, whatever others do", async () => {
    const plan = await fresh();
    const [ann, bob] = [author("Ann"), author("Bob")];
    await saveEdit(plan, 1, routeEdit(null, route("10.1.0.0/16")), ann);
    await saveEdit(plan, 2, routeEdit(null, route("10.2.0.0/16")), bob);
    await saveEdit(plan, 3, routeEdit(null, route("10.3.0.0/16")), ann);
    await undo(plan, ann);
    expect(await routesOf(plan)).toEqual(["0.0.0.0/0", "10.1.0.0/16", "10.2.0.0/16"]);
    await undo(plan, ann);
    expect(await routesOf(plan)).toEqual(["0.0.0.0/0", "10.2.0.0/16"]);
    expect(message(await undo(plan, ann))).toMatch(/nothing to undo/);
    expect(await undoState(plan, ann.session)).toEqual({ undo: null, redo: "route 10.1.0.0/16" });
    await redo(plan, ann);
    await redo(plan, ann);
    expect((await routesOf(plan)).sort()).toEqual(["0.0.0.0/0", "10.1.0.0/16", "10.2.0.0/16", "10.3.0.0/16"]);
    expect(message(await redo(plan, ann))).toMatch(/nothing to redo/);
  });

  it("passes over what no longer fits, says so, and undoes what was done before it", async () => {
    const plan = await fresh();
    const [ann, bob] = [author("Ann"), author("Bob")];
    await saveEdit(plan, 1, routeEdit(null, route("10.1.0.0/16")), ann);
    await saveEdit(plan, 2, routeEdit(null, route("10.2.0.0/16")), ann);
    const before = route("10.2.0.0/16");
    await saveEdit(plan, 3, routeEdit(before, { ...before, distance: 20 }), bob);
    const outcome = await undo(plan, ann);
    expect(outcome).toMatchObject({ ok: true, why: "route 10.1.0.0/16" });
    expect(outcome.ok && outcome.passedOver?.[0]).toContain('"route 10.2.0.0/16" cannot be undone any more');
    expect(await routesOf(plan)).toEqual(["0.0.0.0/0", "10.2.0.0/16"]);
    expect(message(await undo(plan, ann))).toContain("cannot be undone any more");
  });

  it("says that a search has more than it lists", async () => {
    const plan = await fresh();
    const changes = Array.from({ length: 210 }, (_, i) => ({
      ...routeEdit(null, { to: `10.66.${i}.0/24`, discard: "drop" }).changes[0],
    }));
    await saveEdit(plan, 1, { label: "many", changes }, author("Ann"));
    const { hits, more } = await searchRoutes("10.66.0.0/16");
    expect([hits.length, more]).toEqual([MAX_HITS, true]);
  });

  it("puts a removed route back in its place", async () => {
    const plan = await fresh();
    const ann = author("Ann");
    const head = await documentOf(plan, 1);
    const routes = head?.devices.find((device) => device.id === "hall-router")?.routes ?? [];
    const edit: Edit = {
      label: "remove",
      changes: [
        { in: "device", device: "hall-router", collection: "routes", before: routes[2], after: null },
      ],
    };
    await saveEdit(plan, 1, edit, ann);
    await undo(plan, ann);
    const after = await documentOf(plan, 3);
    expect(after?.devices.find((device) => device.id === "hall-router")?.routes).toEqual(routes);
  });

  it("refuses an edit that would leave the plan unsound, or names a revision or plan that is not there", async () => {
    const plan = await fresh();
    const ann = author("Ann");
    expect(message(await saveEdit(plan, 1, routeEdit(null, route("10.0.0.1/16")), ann))).toMatch(/host bits/);
    expect(message(await saveEdit(plan, 9, routeEdit(null, route("10.0.0.0/16")), ann))).toMatch(
      /revision 9 does not exist/,
    );
    expect(message(await saveEdit(ownPlan("999999"), 1, routeEdit(null, route("10.0.0.0/16")), ann))).toMatch(
      /no such plan/,
    );
    expect(await headOf(plan)).toMatchObject({ revision: 1 });
  });

  it("finds routes of all plans by address", async () => {
    const plan = await fresh();
    const hits = (await searchRoutes("172.20.33.7")).hits.filter((hit) => hit.plan === plan);
    expect(hits[0]).toMatchObject({ relation: "holds", destination: "172.20.32.0/20" });
    const through = (await searchRoutes("172.20.255.6/32")).hits.filter(
      (hit) => hit.plan === plan && hit.relation === "next-hop",
    );
    expect(through.map((hit) => hit.device)).toContain("office-core-1");
  });
});
