import { createHmac, randomUUID } from "node:crypto";
import { createServer, type Server } from "node:http";
import { type AddressInfo, createServer as createTcp, type Socket } from "node:net";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import type { z } from "zod";
import { differencePlans } from "../../core/plan/index.ts";
import { ACTOR_HEADER, actorText } from "../../server/access/actor.ts";
import { neededFor } from "../../server/access/needs.ts";
import { migrate } from "../../server/migrate.ts";
import { createPlan } from "../../server/plans.ts";
import { database } from "../../server/pool.ts";
import { deliverDue, deliverWhenDue } from "../../server/webhooks/deliver.ts";
import { sql as webhookSql } from "../../server/webhooks/sql.ts";
import { ownDatabase } from "../../tests/support/own-database.ts";
import { demoChanged, demoPlan } from "../../tests/support/plans.ts";
import { until } from "../../tests/support/until.ts";
import { answerApi, endpoints } from "./api.ts";
import { openApi } from "./openapi.ts";

describe("the description of /api/v1", () => {
  const described = openApi(endpoints, "http://here") as {
    openapi: string;
    paths: Record<string, Record<string, { operationId: string; description: string; responses: object }>>;
  };

  it("has every endpoint once, with what it needs, and each is in the table of what is needed", () => {
    const operations = Object.values(described.paths).flatMap((path) => Object.values(path));
    expect(operations).toHaveLength(endpoints.length);
    expect(new Set(operations.map(({ operationId }) => operationId)).size).toBe(operations.length);
    for (const { method, path, role } of endpoints) {
      const needed = neededFor(method, `/api/v1${path.replace(/\{\w+\}/g, "1")}`);
      // The role is checked twice, and both times the same one.
      expect(role, path).toBe(path.includes("{plan}") ? needed?.need : undefined);
      expect(needed, `${method} ${path}`).not.toBe(null);
      expect(described.paths[path][method.toLowerCase()].description).toContain(`Needs: ${needed?.need}.`);
    }
  });

  it("is JSON, and refers to nothing that is not in it", () => {
    const text = JSON.stringify(described);
    for (const [, name] of text.matchAll(/"\$ref":"#\/components\/([^"]+)"/g))
      expect(name).toBe("responses/Problem");
  });
});

describe.skipIf(!process.env.DATABASE_URL)("/api/v1", () => {
  let leave: () => Promise<void>;
  let plan = "";
  beforeAll(async () => {
    vi.stubEnv("IRON_FORK_KEY", "ab".repeat(32));
    leave = await ownDatabase();
    await migrate();
    plan = await createPlan(demoPlan("marrow-bay"), { session: randomUUID(), name: "test" }, "test");
  });
  afterAll(async () => leave());

  const ann = actorText({ account: randomUUID(), name: "Ann", role: "administers", plans: {}, via: "token" });

  async function call(
    method: "GET" | "POST",
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ) {
    const request = new Request(`http://here/api/v1${path}`, {
      method,
      headers: { [ACTOR_HEADER]: ann, ...headers },
      body: body === undefined ? undefined : typeof body === "string" ? body : JSON.stringify(body),
    });
    const response = await answerApi(
      request,
      new URL(request.url).pathname.slice("/api/v1".length),
      randomUUID(),
    );
    const json = await response.json();
    // The answer matches its documented schema.
    const of = endpoints.find(
      (one) =>
        one.method === method &&
        new RegExp(`^${one.path.replace(/\{\w+\}/g, "[^/]+")}$`).test(path.split("?")[0]),
    );
    if (response.ok && of) {
      const read = (of.reply as z.ZodType).safeParse(json);
      expect(read.error?.issues, `${method} ${path}`).toBeUndefined();
      expect(response.status).toBe(of.status ?? 200);
    } else if (!response.ok) {
      expect(response.headers.get("content-type")).toBe("application/problem+json");
      expect(json).toMatchObject({ type: "about:blank", status: response.status, title: expect.any(String) });
    }
    return { status: response.status, json, headers: response.headers };
  }

  it("tells plans, revisions and documents", async () => {
    expect((await call("GET", "/plans")).json.plans).toHaveLength(1);
    const head = await call("GET", `/plans/${plan}`);
    expect([head.headers.get("etag"), head.json.approved]).toEqual(['"1"', 1]);
    expect((await call("GET", `/plans/${plan}/revisions`)).json.revisions).toMatchObject([
      { number: 1, kind: "load" },
    ]);
    expect((await call("GET", `/plans/${plan}/revisions/1`)).json.name).toBe(demoPlan("marrow-bay").name);
    for (const path of [
      "/plans/999",
      "/plans/x",
      `/plans/${plan}/revisions/2`,
      `/plans/${plan}/revisions/x`,
      "/nowhere",
    ])
      expect((await call("GET", path)).status, path).toBe(404);
  });

  it("takes plans, or says where they are wrong", async () => {
    const made = await call("POST", "/plans", { document: { ironFork: 1, name: "sent" } });
    expect([made.status, made.headers.get("location")]).toEqual([201, `/api/v1/plans/${made.json.id}`]);
    const wrong = await call("POST", "/plans", {
      document: { ironFork: 1, name: "x", devices: [{ id: "a" }] },
    });
    expect([wrong.status, wrong.json.errors[0].path]).toEqual([422, "devices[0].role"]);
    expect((await call("POST", "/plans", "no json")).status).toBe(400);
    expect((await call("POST", "/plans", `{"document":${"[".repeat(90)}${"]".repeat(90)}}`)).status).toBe(
      400,
    );
    expect((await call("POST", "/plans", { document: 1, more: 2 })).status).toBe(422);
  });

  it("makes edits on the revision that they were made on, and on no other", async () => {
    const { id } = (await call("POST", "/plans", { document: demoPlan("three-routers") })).json;
    const edit = {
      label: "one more",
      changes: [
        {
          in: "device",
          device: "west",
          collection: "routes",
          before: null,
          after: { to: "10.9.0.0/16", discard: "drop" },
        },
      ],
    };
    const path = `/plans/${id}/edits`;
    expect((await call("POST", path, edit)).status).toBe(428);
    expect((await call("POST", path, edit, { "If-Match": '"7"' })).status).toBe(412);
    expect((await call("POST", path, edit, { "If-Match": "7" })).status).toBe(400);
    const saved = await call("POST", path, edit, { "If-Match": '"1"' });
    expect([saved.status, saved.json.revision, saved.headers.get("etag")]).toEqual([201, 2, '"2"']);
    expect((await call("POST", path, edit, { "If-Match": '"1"' })).status).toBe(412);
    const again = await call("POST", path, edit, { "If-Match": "*" });
    expect([again.status, again.json.errors[0].message]).toEqual([
      409,
      expect.stringMatching(/already on west/),
    ]);
  });

  it("does what is sent with a key once, however often and at whatever moment it comes", async () => {
    const body = { document: { ironFork: 1, name: "once" } };
    const key = { "Idempotency-Key": randomUUID() };
    // While one is answered, the others are asked to come again.
    const untilAnswered = async () => {
      for (;;) {
        const answer = await call("POST", "/plans", body, key);
        if (answer.status !== 409) return answer;
        expect(answer.headers.get("retry-after")).toBe("2");
        await new Promise((resolve) => setTimeout(resolve, 20));
      }
    };
    const all = await Promise.all([untilAnswered(), untilAnswered(), untilAnswered()]);
    expect(new Set(all.map(({ json }) => json.id)).size).toBe(1);
    expect(all.filter(({ headers }) => headers.get("idempotency-replayed") === "true")).toHaveLength(2);
    expect((await call("POST", "/plans", { document: { ironFork: 1, name: "two" } }, key)).status).toBe(422);
    const other = actorText({ account: randomUUID(), name: "Bob", role: "edits", plans: {}, via: "token" });
    const theirs = await call("POST", "/plans", body, { ...key, [ACTOR_HEADER]: other });
    expect(theirs.json.id).not.toBe(all[0].json.id);
  });

  it("answers what pages ask, of any revision and under failures", async () => {
    const path = await call("GET", `/plans/${plan}/ask/paths?flow=tickets&down=link:tern-north`);
    expect(path.json.answer.flow.answer.headline).toBe("Carried by Bay radio");
    expect((await call("GET", `/plans/${plan}/ask/device?device=tern-edge`)).json.revision).toBe(1);
    expect((await call("GET", `/plans/${plan}/ask/findings?revision=1`)).json.answer).toBeDefined();
    const board = await call("GET", `/plans/${plan}/ask/board?args=${encodeURIComponent('{"depth":1}')}`);
    expect(board.json.answer.rows.length).toBeGreaterThan(5);
    for (const [question, status] of [
      ["nothing", 404],
      ["device?device=nobody", 404],
      ["paths?revision=9", 404],
      ["effect", 422],
      ["effect?args=1", 400],
      ["effect?args=%7B", 400],
      ["gridRow?args=%7B%22to%22:1%7D", 422],
      [`findingsAfter?args=${encodeURIComponent('{"edit":{"label":"x","changes":[null]}}')}`, 422],
      [`timeline?args=${encodeURIComponent('{"fail":["link:tern-north"],"healMs":"soon"}')}`, 422],
      [`timeline?args=${encodeURIComponent('{"fail":["link:tern-north"]}')}`, 200],
    ] as const)
      expect((await call("GET", `/plans/${plan}/ask/${question}`)).status, question).toBe(status);
  });

  it("proposes, approves and ticks a change", async () => {
    const { id } = (await call("POST", "/plans", { document: demoPlan("marrow-bay") })).json;
    expect((await call("POST", `/plans/${id}/changes`, { title: "x" })).status).toBe(409);
    const changes = differencePlans(demoPlan("marrow-bay"), demoChanged());
    await call("POST", `/plans/${id}/edits`, { label: "draft", changes }, { "If-Match": "*" });
    expect((await call("POST", `/plans/${id}/changes`, { title: "" })).status).toBe(422);
    const made = await call("POST", `/plans/${id}/changes`, {
      title: "One summary",
      windowFrom: "2027-03-05T22:00:00Z",
    });
    expect(made.json).toEqual({ number: 1 });
    const change = await call("GET", `/plans/${id}/changes/1`);
    expect(change.json).toMatchObject({ state: "proposed", runbook: { safe: true } });
    expect(change.json.runbook.visits[0].steps[0].texts.iproute2.text).toMatch(/^route add/);
    expect((await call("POST", `/plans/${id}/changes/1/ticks`, { item: "v1.s1" })).status).toBe(409);
    expect((await call("POST", `/plans/${id}/changes/1/approval`, {})).json).toEqual({ state: "approved" });
    expect((await call("POST", `/plans/${id}/changes/1/ticks`, { item: "v9.s1" })).status).toBe(422);
    expect((await call("POST", `/plans/${id}/changes/1/ticks`, { item: "v1.s1" })).json).toEqual({
      ticked: ["v1.s1"],
    });
    expect((await call("GET", `/plans/${id}/changes`)).json.changes).toMatchObject([
      { number: 1, state: "approved" },
    ]);
    expect((await call("GET", `/plans/${id}/ask/frame?after=1.1`)).json.revision).toBeGreaterThan(
      900_000_000,
    );
    expect((await call("GET", `/plans/${id}/changes/2`)).status).toBe(404);
  });

  it("keeps what devices said, and tells it", async () => {
    const facts = [
      {
        device: "west",
        interfaces: [],
        routes: [],
        rules: [],
        neighbours: [],
        adjacent: [],
        translations: [],
        forwarding: { ipv4: true, ipv6: null },
      },
    ];
    expect((await call("POST", `/plans/${plan}/facts`, { facts })).json).toEqual({ kept: 1 });
    expect((await call("GET", `/plans/${plan}/facts`)).json.facts).toMatchObject([
      { device: "west", author: "Ann" },
    ]);
    expect((await call("POST", `/plans/${plan}/facts`, { facts: [{ device: "x" }] })).status).toBe(422);
    expect((await call("GET", `/plans/${plan}/runs`)).json).toEqual({ targets: [] });
  });

  it("tells others what is done, signed, at allowed addresses alone, and again where they do not answer well", async () => {
    const got: { headers: Record<string, unknown>; body: string }[] = [];
    let status = 500;
    const other: Server = createServer((req, res) => {
      let body = "";
      req.on("data", (chunk) => {
        body += chunk;
      });
      req.on("end", () => {
        got.push({ headers: req.headers, body });
        res.writeHead(status).end();
      });
    });
    await new Promise<void>((done) => other.listen(0, "127.0.0.1", done));
    try {
      const url = `http://localhost:${(other.address() as AddressInfo).port}/hook`;
      for (const wrong of ["ftp://x/", "file:///etc/passwd", "nonsense"])
        expect((await call("POST", `/plans/${plan}/webhooks`, { url: wrong })).status).toBe(422);
      // An address that events may not be sent to is refused when it is entered.
      vi.stubEnv("IRON_FORK_HOOKS", "");
      expect((await call("POST", `/plans/${plan}/webhooks`, { url })).json.detail).toContain(
        "Webhooks are off",
      );
      vi.stubEnv("IRON_FORK_HOOKS", "192.0.2.0/24");
      expect((await call("POST", `/plans/${plan}/webhooks`, { url })).status).toBe(422);
      vi.stubEnv("IRON_FORK_HOOKS", "127.0.0.0/8,::1/128");
      const { secret, id } = (await call("POST", `/plans/${plan}/webhooks`, { url })).json;
      const told = {
        type: "plan.edited",
        plan,
        subject: `/plans/${plan}/edit`,
        who: "Ann",
        at: "2027-03-05T22:00:00Z",
        request: "r",
      };
      const tell = () => database().query(webhookSql.tell, [plan, JSON.stringify(told)]);
      await tell();
      const due = () => database().query("update webhook_delivery set next_at = now() where done_at is null");
      const allowed = ["127.0.0.0/8", "::1/128"];
      expect(await deliverDue([])).toBe(1);
      expect(got).toEqual([]);
      expect((await call("GET", `/plans/${plan}/webhooks`)).json.webhooks[0].lastTold).toMatch(
        /is outside the prefixes/,
      );
      expect(await deliverDue(allowed)).toBe(0);
      await due();
      expect(await deliverDue(allowed)).toBe(1);
      status = 204;
      await due();
      expect(await deliverDue(allowed)).toBe(1);
      await due();
      expect(await deliverDue(allowed)).toBe(0);
      expect(got).toHaveLength(2);
      const [{ headers, body }] = got;
      expect(JSON.parse(body)).toEqual(told);
      const key = Buffer.from(secret.slice("whsec_".length), "base64");
      const signed = `${headers["webhook-id"]}.${headers["webhook-timestamp"]}.${body}`;
      expect(headers["webhook-signature"]).toBe(
        `v1,${createHmac("sha256", key).update(signed).digest("base64")}`,
      );
      expect(headers["webhook-id"]).toBe(got[1].headers["webhook-id"]);
      // The stored secret is encrypted, and a repeated response no longer contains it.
      const { rows } = await database().query("select secret from webhook where id = $1", [id]);
      expect(rows[0].secret.includes(key)).toBe(false);
      const once = { "Idempotency-Key": randomUUID() };
      const first = await call("POST", `/plans/${plan}/webhooks`, { url }, once);
      const second = await call("POST", `/plans/${plan}/webhooks`, { url }, once);
      expect([first.json.secret, second.json.secret]).toEqual([expect.stringMatching(/^whsec_/), null]);
      await call("POST", `/plans/${plan}/webhooks/${first.json.id}/removal`, {});
      expect((await call("POST", `/plans/${plan}/webhooks/${id}/removal`, {})).json).toEqual({ removed: id });
      expect((await call("POST", `/plans/${plan}/webhooks/${id}/removal`, {})).status).toBe(404);
    } finally {
      other.close();
    }
  });

  it("delivers to others while one receiver answers without end", async () => {
    const sockets = new Set<Socket>();
    const dripping = createTcp((socket) => {
      sockets.add(socket);
      socket.on("error", () => {});
      socket.write("HTTP/1.1 200 OK\r\nX-Drip: ");
      const drip = setInterval(() => socket.write("a"), 200);
      socket.on("close", () => clearInterval(drip));
    });
    let got = 0;
    const good: Server = createServer((_req, res) => {
      got++;
      res.writeHead(204).end();
    });
    for (const server of [dripping, good])
      await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
    const urlOf = (server: { address(): unknown }) =>
      `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
    const ending = new AbortController();
    vi.stubEnv("IRON_FORK_HOOKS", "127.0.0.0/8");
    const delivering = deliverWhenDue(ending.signal, 6000);
    try {
      const ids = [];
      for (const server of [dripping, good])
        ids.push((await call("POST", `/plans/${plan}/webhooks`, { url: urlOf(server) })).json.id);
      for (let n = 0; n < 5; n++) await database().query(webhookSql.tell, [plan, "{}"]);
      // One after the other behind that receiver they would take 30 s.
      await until(async () => got === 5, 20_000);
      // The other is given up by the deadline of a delivery, and tried again later.
      const told = () => call("GET", `/plans/${plan}/webhooks`).then(({ json }) => json.webhooks[0].lastTold);
      await until(async () => (await told()) === "no response within 6 s", 40_000);
      for (const id of ids) await call("POST", `/plans/${plan}/webhooks/${id}/removal`, {});
    } finally {
      ending.abort();
      for (const socket of sockets) socket.destroy();
      dripping.close();
      good.close();
      await delivering;
    }
  }, 90_000);
});
