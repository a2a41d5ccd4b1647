import { randomUUID } from "node:crypto";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import routes from "../../app/routes.ts";
import { ownDatabase } from "../../tests/support/own-database.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import {
  accountOf,
  changeAccount,
  inviteAccount,
  listAccounts,
  setPlanRole,
  takeInvitation,
} from "../access/accounts.ts";
import { ACTOR_HEADER, actorOf } from "../access/actor.ts";
import { ownAdministration } from "../access/grants.ts";
import { needs } from "../access/needs.ts";
import type { Role } from "../access/roles.ts";
import { beginSignIn, COOKIE } from "../access/sign-ins.ts";
import { makeToken, revokeToken, tokensOf } from "../access/tokens.ts";
import { log } from "../log.ts";
import { migrate } from "../migrate.ts";
import { createPlan } from "../plans.ts";
import { database } from "../pool.ts";
import { makeApp } from "./app.ts";
import type { Dispatch } from "./dispatch.ts";
import type { Job } from "./lanes.ts";
import { readOptions } from "./options.ts";

/** Who may do what, by hand: the address, what GET needs, what POST needs. What the server holds is held against this. */
const TABLE = `
  /health | anyone | -
  /ready | anyone | -
  /metrics | administers | -
  /plan.schema.json | anyone | -
  /api/v1/openapi.json | anyone | -
  /sign-in | anyone | anyone
  /sign-in/passkey | - | anyone
  /sign-in/provider | anyone | -
  /sign-in/provider/back | anyone | -
  /invitation/:secret | anyone | anyone
  /sign-out | - | signed in
  /account | signed in | signed in
  /account/passkey | - | signed in
  /accounts | administers | administers
  /audit-log | administers | -
  /audit-log/rows | administers | -
  / | signed in | -
  /name | signed in | signed in
  /search | signed in | -
  /plans | signed in | signed in
  /record | administers | -
  /record/rows | administers | -
  /plans/:plan/exchange | reads | -
  /plans/:plan/exchange/devices | reads | -
  /plans/:plan/exchange/rebuild | reads | -
  /plans/:plan/exchange/drift | reads | -
  /plans/:plan/exchange/out | reads | -
  /plans/:plan/desk | reads | -
  /plans/:plan/outages | reads | -
  /plans/:plan/time | reads | -
  /plans/:plan/report | reads | -
  /plans/:plan/changes/words | reads | -
  /plans/:plan/book | reads | -
  /plans/:plan | reads | -
  /plans/:plan/import | reads | -
  /plans/:plan/topology | reads | -
  /plans/:plan/polling | reads | edits
  /plans/:plan/drift | reads | edits
  /plans/:plan/export | reads | -
  /plans/:plan/map | reads | -
  /plans/:plan/findings | reads | -
  /plans/:plan/routes | reads | -
  /plans/:plan/devices/:x | reads | -
  /plans/:plan/add-routes | reads | -
  /plans/:plan/summaries | reads | -
  /plans/:plan/paths | reads | -
  /plans/:plan/failures | reads | -
  /plans/:plan/timeline | reads | -
  /plans/:plan/failure-report | reads | -
  /plans/:plan/changes | reads | edits
  /plans/:plan/changes/templates | reads | edits
  /plans/:plan/changes/:x | reads | edits
  /plans/:plan/changes/:x/out | reads | -
  /plans/:plan/changes/:x/events | reads | -
  /plans/:plan/ask | reads | -
  /plans/:plan/edit | reads | edits
  /plans/:plan/readings | reads | edits
  /plans/:plan/archive | reads | edits
  /plans/:plan/layouts | reads | edits
  /plans/:plan/reading-notices | reads | -
  /plans/:plan/network-report | reads | -
  /plans/:plan/out | reads | -
  /plans/:plan/sheet | reads | -
  /plans/:plan/head | reads | -
  /plans/:plan/document | reads | -
  /plans/:plan/sweeps | reads | reads
  /plans/:plan/sweeps/:x | reads | reads
  /plans/:plan/sweeps/:x/events | reads | -
  /plans/:plan/rehearsals | reads | edits
  /plans/:plan/layout | reads | -
  /plans/:plan/map-data | reads | -
  /api/v1/plans | signed in | edits
  /api/v1/plans/:plan | reads | -
  /api/v1/plans/:plan/revisions | reads | -
  /api/v1/plans/:plan/revisions/:x | reads | -
  /api/v1/plans/:plan/edits | - | edits
  /api/v1/plans/:plan/ask/:x | reads | -
  /api/v1/plans/:plan/changes | reads | edits
  /api/v1/plans/:plan/changes/:x | reads | -
  /api/v1/plans/:plan/changes/:x/approval | - | approves
  /api/v1/plans/:plan/changes/:x/ticks | - | edits
  /api/v1/plans/:plan/runs | reads | edits
  /api/v1/plans/:plan/facts | reads | edits
  /api/v1/plans/:plan/webhooks | administers | administers
  /api/v1/plans/:plan/webhooks/:x/removal | - | administers
`
  .trim()
  .split("\n")
  .map((line) => line.split("|").map((cell) => cell.trim()));

/** Answered before anybody is asked who they are. */
const ALIVE = ["/health", "/ready"];

const ranks = ["none", "reads", "edits", "approves", "administers"];

interface RouteLike {
  path?: string;
  index?: boolean;
  children?: RouteLike[];
}

/** Every address of the application's own routes, as the table writes them. */
function addressesOf(list: readonly RouteLike[], above = ""): string[] {
  return list.flatMap((route) => {
    const path = route.path ? `${above}/${route.path}` : above;
    const own = path === "" ? "/" : path.replaceAll(/:(?!plan\b|secret\b)\w+/g, ":x");
    return [own, ...addressesOf(route.children ?? [], path)];
  });
}

describe("the table of what is needed", () => {
  it("is the one written by hand", () => {
    expect(needs.map(({ path, get, post }) => [path, get ?? "-", post ?? "-"])).toEqual(TABLE);
  });

  it("has every address that the application answers", () => {
    const known = new Set(TABLE.map(([path]) => path));
    for (const address of addressesOf(routes)) {
      const api = address === "/api/v1/*";
      expect(known.has(address) || api, address).toBe(true);
    }
  });
});

describe.skipIf(!process.env.DATABASE_URL)("role by role, every address", () => {
  let server: Server;
  let leave: () => Promise<void>;
  let origin = "";
  let plan = "";
  let other = "";
  const asked: Job[] = [];
  const headersOf: Record<string, Record<string, string>> = {};
  /** What each may do: everywhere, and in the one plan. */
  const people: Record<string, { role: Role; inPlan?: Role }> = {};

  async function account(name: string, role: Role): Promise<string> {
    const made = await inviteAccount(ownAdministration, `${name} ${randomUUID().slice(0, 6)}`, role, "test");
    if (!made.ok) throw new Error(made.error);
    const taken = await takeInvitation(made.secret, "correct horse battery staple");
    if (!taken.ok) throw new Error(taken.error);
    return taken.account;
  }

  async function signedIn(id: string): Promise<Record<string, string>> {
    const [[, cookie]] = await beginSignIn(id, "password", { agent: "test", address: "127.0.0.1" });
    return { Cookie: cookie.split(";")[0] };
  }

  beforeAll(async () => {
    log.level = "silent";
    leave = await ownDatabase();
    await migrate();
    plan = await createPlan(demoPlan("three-routers"), { session: randomUUID(), name: "test" }, "test");
    other = await createPlan(demoPlan("three-routers"), { session: randomUUID(), name: "test" }, "test");
    const dispatch = {
      answer: async (job: Job) => {
        asked.push(job);
        return { status: 200, headers: [] as [string, string][], body: new TextEncoder().encode("answered") };
      },
      load: { quick: { waiting: 0, atWork: 0 }, slow: { waiting: 0, atWork: 0 } },
    } as unknown as Dispatch;
    const ids: Record<string, string> = {};
    for (const role of ranks as Role[]) {
      ids[role] = await account(role, role);
      headersOf[role] = await signedIn(ids[role]);
      people[role] = { role };
    }
    const bearer = async (
      id: string,
      role: "reads" | "edits" | "approves" | "administers",
      of: string | null,
      days = 1,
    ) => ({
      Authorization: `Bearer ${await makeToken(id, { name: "test", role, plan: of, days })}`,
    });
    const guest = await account("guest", "none");
    await setPlanRole(ownAdministration, plan, guest, "edits");
    headersOf.guest = await signedIn(guest);
    people.guest = { role: "none", inPlan: "edits" };
    const barred = await account("barred", "edits");
    await setPlanRole(ownAdministration, plan, barred, "none");
    headersOf.barred = await signedIn(barred);
    people.barred = { role: "edits", inPlan: "none" };
    // A token is limited to its scope, its account and its plan.
    headersOf["token that reads"] = await bearer(ids.approves, "reads", null);
    people["token that reads"] = { role: "reads" };
    headersOf["token beyond its account"] = await bearer(ids.reads, "administers", null);
    people["token beyond its account"] = { role: "reads" };
    headersOf["token of the plan"] = await bearer(ids.approves, "edits", plan);
    people["token of the plan"] = { role: "none", inPlan: "edits" };
    headersOf["token of another plan"] = await bearer(ids.administers, "administers", other);
    people["token of another plan"] = { role: "none" };

    headersOf.nobody = {};
    headersOf["revoked token"] = await bearer(ids.administers, "administers", null);
    const [newest] = await tokensOf(ids.administers);
    await revokeToken(ids.administers, newest.id);
    headersOf["expired token"] = await bearer(ids.administers, "administers", null, -1);
    headersOf["unknown token"] = { Authorization: `Bearer ironfork_${"x".repeat(43)}` };
    headersOf["no token at all"] = { Authorization: "Basic YWRtaW46YWRtaW4=" };
    headersOf["unknown sign-in"] = { Cookie: `${COOKIE}=${"x".repeat(43)}` };
    const left = await account("left", "administers");
    headersOf["account let in no more"] = await signedIn(left);
    const later = await signedIn(left);
    await changeAccount(ownAdministration, left, { disabled: true });
    headersOf["token of an account let in no more"] = await bearer(left, "administers", null);
    headersOf["signed out by that"] = later;
    const idle = await account("idle", "administers");
    headersOf["idle too long"] = await signedIn(idle);
    await database().query("update sign_in set seen_at = now() - interval '13 hours' where account = $1", [
      idle,
    ]);
    const old = await account("old", "administers");
    headersOf["signed in too long"] = await signedIn(old);
    await database().query("update sign_in set made_at = now() - interval '15 days' where account = $1", [
      old,
    ]);

    server = createServer();
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    const { port } = server.address() as AddressInfo;
    origin = `http://127.0.0.1:${port}`;
    server.on(
      "request",
      makeApp(readOptions({ PORT: String(port) }), dispatch, new AbortController().signal),
    );
  });

  afterAll(async () => {
    server?.close();
    await leave();
  });

  const pathFor = (path: string) => path.replace(":plan", plan).replace(/:(?:x|secret)/g, "7");

  function ask(method: "GET" | "POST", path: string, headers: Record<string, string>) {
    const post =
      method === "POST"
        ? { Origin: headers.Authorization ? "" : origin, "Content-Type": "application/json" }
        : {};
    const all = Object.fromEntries(
      Object.entries({ ...headers, ...post }).filter(([, value]) => value !== ""),
    );
    return fetch(`${origin}${path}`, {
      method,
      headers: all,
      redirect: "manual",
      body: method === "POST" ? (path === "/plans" ? undefined : "{}") : undefined,
    });
  }

  /** Whether an answer is a refusal for want of right. */
  const denied = (status: number) => status === 401 || status === 403;

  const cases = TABLE.flatMap(([path, get, post]) => [
    ["GET", path, get] as const,
    ["POST", path, post] as const,
  ]);

  it.each(cases)("%s %s needs: %s", async (method, path, need) => {
    const answers = await Promise.all(
      Object.entries(headersOf).map(async ([who, headers]) => {
        const response = await ask(method, pathFor(path), headers);
        await response.arrayBuffer();
        return { who, headers, response };
      }),
    );
    for (const { who, headers, response } of answers) {
      const person = people[who];
      const told = `${who}: ${response.status}`;
      if (headers.Authorization && !person && !ALIVE.includes(path)) {
        // An invalid token is never treated as anonymous.
        expect(denied(response.status), told).toBe(true);
        continue;
      }
      if (need === "-") {
        expect([401, 403, 404, 405, 415].includes(response.status), told).toBe(true);
        continue;
      }
      const role = person ? (path.includes(":plan") ? (person.inPlan ?? person.role) : person.role) : null;
      const may =
        need === "anyone" ||
        (role !== null && (need === "signed in" || ranks.indexOf(role) >= ranks.indexOf(need)));
      expect(denied(response.status), told).toBe(!may);
    }
  });

  it("answers nothing at an address that is not in the table", async () => {
    for (const path of [
      "/nowhere",
      "/plans/1/nowhere",
      "/api/v1/nowhere",
      "/plans/1/map/more",
      "/accounts/x",
      `/plans/0${plan}/map`,
    ])
      expect((await ask("GET", path, headersOf.administers)).status, path).toBe(404);
  });

  it("takes addresses as the pages' own fetching writes them for what they are", async () => {
    expect((await ask("GET", `/plans/${plan}/map.data`, headersOf.none)).status).toBe(403);
    expect((await ask("GET", "/accounts.data?_routes=root", headersOf.approves)).status).toBe(403);
    expect((await ask("GET", "/accounts/", headersOf.approves)).status).toBe(403);
    expect((await ask("GET", `/plans/${plan}/map.data`, headersOf.reads)).status).toBe(200);
  });

  it("leads a page to signing in and back, and tells programs", async () => {
    const page = await fetch(`${origin}/plans/${plan}/map?down=link:x`, {
      headers: { Accept: "text/html" },
      redirect: "manual",
    });
    expect(page.status).toBe(303);
    expect(page.headers.get("location")).toBe(
      `/sign-in?to=${encodeURIComponent(`/plans/${plan}/map?down=link:x`)}`,
    );
    const program = await fetch(`${origin}/api/v1/plans`);
    expect([program.status, program.headers.get("www-authenticate")]).toEqual([401, "Bearer"]);
  });

  it("tells its threads who asks, and lets nobody else tell them", async () => {
    const forged = encodeURIComponent(
      JSON.stringify({ account: null, name: "root", role: "administers", plans: {}, via: "sign-in" }),
    );
    await ask("GET", "/plans", { ...headersOf.reads, [ACTOR_HEADER]: forged });
    const job = asked.at(-1) as Job;
    const actor = actorOf(
      new Request("http://here/", { headers: new Headers(job.headers as [string, string][]) }),
    );
    expect(actor).toMatchObject({ role: "reads", via: "sign-in" });
    expect(job.headers.filter(([name]) => name.toLowerCase() === ACTOR_HEADER)).toHaveLength(1);
    expect((await ask("GET", "/plans", { [ACTOR_HEADER]: forged })).status).toBe(401);
  });

  it("refuses a token from another site's page, and a cookie without an origin", async () => {
    const path = `${origin}/plans/${plan}/edit`;
    const body = "{}";
    const json = { "Content-Type": "application/json" };
    const token = await fetch(path, {
      method: "POST",
      body,
      headers: { ...json, ...headersOf["token of the plan"] },
    });
    expect(token.status).toBe(200);
    const foreign = { Origin: "https://elsewhere.example" };
    const both = await fetch(path, {
      method: "POST",
      body,
      headers: { ...json, ...foreign, ...headersOf["token of the plan"] },
    });
    expect(both.status).toBe(403);
    const cookie = await fetch(path, { method: "POST", body, headers: { ...json, ...headersOf.edits } });
    expect(cookie.status).toBe(403);
  });

  it("lets the last administrator be neither demoted nor shut out", async () => {
    const all = (await listAccounts(ownAdministration)).filter(
      ({ role, disabledAt }) => role === "administers" && !disabledAt,
    );
    const [last, ...rest] = all;
    for (const one of rest)
      expect(await changeAccount(ownAdministration, one.id, { role: "reads" })).toEqual({ ok: true });
    expect(await changeAccount(ownAdministration, last.id, { role: "approves" })).toMatchObject({
      ok: false,
    });
    expect(await changeAccount(ownAdministration, last.id, { disabled: true })).toMatchObject({ ok: false });
    expect((await accountOf(last.id))?.role).toBe("administers");
  });
});
