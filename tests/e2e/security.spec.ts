import { request as http } from "node:http";
import { expect, type Page, test } from "@playwright/test";
import { freshPlan } from "./plan.ts";

interface Told {
  status: number;
  headers: Record<string, string | string[] | undefined>;
  body: string;
}

/** A request as anybody could make it, with whatever headers. */
function send(
  base: string,
  path: string,
  { method = "GET", headers = {}, body = [] as (string | Buffer)[] } = {},
): Promise<Told> {
  const url = new URL(path, base);
  return new Promise((resolve, reject) => {
    const asked = http({ host: url.hostname, port: url.port, path, method, headers }, (response) => {
      const parts: Buffer[] = [];
      response.on("data", (part) => parts.push(part));
      response.on("end", () =>
        resolve({
          status: response.statusCode ?? 0,
          headers: response.headers,
          body: Buffer.concat(parts).toString(),
        }),
      );
    });
    asked.on("error", reject);
    for (const part of body) asked.write(part);
    asked.end();
  });
}

const FORM = { "Content-Type": "application/x-www-form-urlencoded" };
const JSON_TYPE = { "Content-Type": "application/json" };

test.describe("what a foreign page could try", () => {
  test("posts of other sites, or of nobody, change nothing", async ({ page, baseURL }) => {
    const base = baseURL as string;
    const plan = await freshPlan(page);
    for (const headers of [
      { ...FORM, "Sec-Fetch-Site": "cross-site", Origin: "http://evil.example" },
      { ...FORM, "Sec-Fetch-Site": "same-site" },
      { ...FORM, Origin: "http://evil.example" },
      { ...FORM, Origin: "null" },
      FORM,
    ]) {
      const body = [`do=delete&plan=${plan.split("/").at(-1)}`];
      expect((await send(base, "/plans", { method: "POST", headers, body })).status).toBe(403);
    }
    expect((await send(base, `${plan}/map`)).status).toBe(200);
    for (const path of [`${plan}/edit`, `${plan}/sweeps`, "/name", `${plan}/changes`, `${plan}/edit.data`]) {
      const told = await send(base, path, {
        method: "POST",
        headers: { ...JSON_TYPE, "Sec-Fetch-Site": "cross-site" },
        body: ["{}"],
      });
      expect([path, told.status]).toEqual([path, 403]);
      expect(told.body).toContain("another site");
    }
  });

  test("a name that was made to point here is not answered", async ({ baseURL }) => {
    const base = baseURL as string;
    const told = await send(base, "/plans", { headers: { Host: "evil.example" } });
    expect(told.status).toBe(421);
    expect(told.body).toContain("does not answer to the name");
  });

  test("going back stays on this server", async ({ baseURL }) => {
    const base = baseURL as string;
    for (const back of [
      "/\\evil.example",
      "//evil.example",
      "/\t/evil.example",
      "http://evil.example",
      "\\\\evil.example",
    ]) {
      const told = await send(base, "/name", {
        method: "POST",
        headers: { ...FORM, Origin: base },
        body: [`name=Ann&back=${encodeURIComponent(back)}`],
      });
      expect([back, told.status]).toEqual([back, 302]);
      expect(new URL(String(told.headers.location), base).origin).toBe(base);
    }
  });

  test("pages run no foreign script and stand in no frame", async ({ page, baseURL }) => {
    const complaints: string[] = [];
    page.on("console", (message) => {
      if (/Content Security Policy|Refused to/i.test(message.text())) complaints.push(message.text());
    });
    page.on("pageerror", (error) => complaints.push(String(error)));
    const plan = await freshPlan(page);
    const told = await send(baseURL as string, `${plan}/map`);
    const policy = String(told.headers["content-security-policy"]);
    expect(policy).toContain("frame-ancestors 'none'");
    expect(policy).not.toContain("unsafe-eval");
    const nonce = /'nonce-([^']+)'/.exec(policy)?.[1];
    const scripts = told.body.match(/<script[^>]*>/g) ?? [];
    expect(scripts.length).toBeGreaterThan(1);
    for (const script of scripts) expect(script).toContain(`nonce="${nonce}"`);
    expect(told.headers["x-content-type-options"]).toBe("nosniff");
    for (const name of [
      "map",
      "routes",
      "paths?flow=tickets",
      "outages",
      "findings",
      "changes",
      "time?fail=link:tern-north",
      "devices/tern-edge",
    ]) {
      await page.goto(`${plan}/${name}`);
      await page.waitForLoadState("networkidle");
    }
    expect(complaints).toEqual([]);
  });
});

async function planWithLabel(page: Page, label: string): Promise<string> {
  const document = {
    ironFork: 1,
    name: label,
    devices: [
      { id: "a", label, role: "router", interfaces: [{ name: "e", addresses: ["10.0.0.1/30"] }] },
      { id: "b", role: "router", interfaces: [{ name: "e", addresses: ["10.0.0.2/30"] }] },
    ],
    links: [{ id: "l", label, ends: ["a/e", "b/e"] }],
    flows: [{ id: "f", label, from: "a", to: "10.0.0.2" }],
    outages: [
      {
        id: "o",
        label,
        steps: [
          { atMs: 0, fail: ["link:l"] },
          { atMs: 5000, restore: ["link:l"] },
        ],
      },
    ],
  };
  await page.goto("/plans");
  await page.getByRole("button", { name: "Paste text" }).click();
  await page.getByLabel("Plan document, YAML or JSON").fill(JSON.stringify(document));
  await page.getByRole("button", { name: "Import" }).click();
  await page.waitForURL(/\/plans\/\d+\/map/);
  return new URL(page.url()).pathname.replace("/map", "");
}

test("labels are text everywhere, in the chart too", async ({ page }) => {
  const label = '<img src=x onerror="document.title=1"><b>bold</b>';
  const plan = await planWithLabel(page, label);
  for (const name of ["map", "paths?flow=f", "outages", "time?outage=o", "findings", "report", "changes"]) {
    await page.goto(`${plan}/${name}`);
    await page.waitForLoadState("networkidle");
    for (const bar of await page.locator(".apexcharts-rangebar-area").all()) await bar.hover({ force: true });
    expect(await page.locator('img[src="x"], b').count()).toBe(0);
    expect(await page.title()).not.toBe("1");
  }
  await page.goto("/plans");
  await expect(page.getByRole("heading", { name: label }).first()).toBeVisible();
});

test.describe("bodies and answers", () => {
  test("too much is refused with 413, told by its length or not, and the server lives", async ({
    page,
    baseURL,
  }) => {
    const base = baseURL as string;
    const plan = await freshPlan(page);
    const headers = { ...JSON_TYPE, Origin: base };
    const large = Buffer.alloc(5 * 1024 * 1024, " ");
    const told = await send(base, `${plan}/edit`, {
      method: "POST",
      headers: { ...headers, "Content-Length": String(large.length) },
      body: [large],
    }).catch(() => null);
    // Where the server ends the line before all is sent, the sender may not see the answer.
    expect([413, undefined]).toContain(told?.status);
    const chunked = await send(base, "/name", {
      method: "POST",
      headers: { ...FORM, Origin: base, "Transfer-Encoding": "chunked" },
      body: Array.from({ length: 20 }, () => Buffer.alloc(8192, "x")),
    }).catch(() => null);
    expect([413, undefined]).toContain(chunked?.status);
    expect((await send(base, "/health")).status).toBe(200);
  });

  for (const [what, path, init, status] of [
    ["a zero byte in a name", "/name", { headers: FORM, body: "name=%00" }, 400],
    ["a zero byte in a plan's name", "/plans", { headers: FORM, body: "do=new&name=a%00b" }, 400],
    ["JSON where a form is expected", "/plans", { headers: JSON_TYPE, body: "{}" }, 415],
    [
      "a multipart form that breaks off",
      "/plans",
      { headers: { "Content-Type": "multipart/form-data; boundary=x" }, body: "--x\r\nContent-Disp" },
      400,
    ],
    [
      "truncated JSON",
      "PLAN/edit",
      { headers: JSON_TYPE, body: `{"do":"edit","edit":${"[".repeat(5000)}` },
      400,
    ],
    [
      "half a character in an edit",
      "PLAN/edit",
      { headers: JSON_TYPE, body: '{"do":"edit","base":1,"edit":{"label":"\\ud800","changes":[]}}' },
      400,
    ],
    ["a revision beyond all numbers", "PLAN/document?revision=99999999999", null, 404],
    ["a layout beyond all numbers", "PLAN/layout?revision=99999999999", null, 404],
    ["looking at where edits are made", "PLAN/edit", null, 405],
    ["looking at where sweeps are asked for", "PLAN/sweeps", null, 405],
    ["another method", "PLAN/map", { method: "PUT" }, 405],
  ] as const) {
    test(`${what} is answered with ${status}`, async ({ page, baseURL }) => {
      const base = baseURL as string;
      const plan = path.startsWith("PLAN") ? await freshPlan(page) : "";
      const headers = { Origin: base, ...(init && "headers" in init ? init.headers : {}) };
      const told = await send(base, path.replace("PLAN", plan), {
        method: init ? ("method" in init ? init.method : "POST") : "GET",
        headers,
        body: init && "body" in init ? [init.body] : [],
      });
      expect(told.status).toBe(status);
      expect(told.body.length).toBeGreaterThan(20);
    });
  }
});
