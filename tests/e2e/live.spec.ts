import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import type { AddressInfo, Server } from "node:net";
import { expect, type Page, test } from "@playwright/test";
import { wayNames } from "../../app/features/exchange/live/way-names.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { datastoreOf } from "../../stand-ins/datastore.ts";
import { netconfServer } from "../../stand-ins/netconf.ts";
import { restconfServer } from "../../stand-ins/restconf.ts";
import { demoChanged, demoPlan } from "../support/plans.ts";
import { choose } from "./forms.ts";
import { freshPlan, goTo, ready, unopenedPlan } from "./plan.ts";

const PASSWORD = "swordfish-that-nobody-sees";
const login = { user: "reader", password: PASSWORD };

const demo = NetworkModel.compile(demoPlan("marrow-bay"));
type Store = ReturnType<typeof datastoreOf>;

async function listening(server: Server): Promise<number> {
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return (server.address() as AddressInfo).port;
}

async function keepCredential(page: Page, name: string, how: keyof typeof wayNames) {
  await page.getByRole("tab", { name: /^Credentials/ }).click();
  const form = page.getByRole("form", { name: "Add credentials" });
  await form.getByLabel("Name").fill(name);
  await choose(form.getByLabel("Protocol"), wayNames[how]);
  await form.getByLabel("User").fill(login.user);
  await form.getByLabel("Password", { exact: true }).fill(PASSWORD);
  await form.getByRole("button", { name: "Save credentials" }).click();
  await expect(page.getByRole("list", { name: "Credentials" })).toContainText(name);
}

async function addDevice(page: Page, device: string, port: number, asked: RegExp) {
  await page.getByRole("tab", { name: "Add device" }).click();
  const form = page.getByRole("form", { name: "Add polled device" });
  await form.getByLabel("Device", { exact: true }).fill(device);
  await form.getByLabel("Address").fill("127.0.0.1");
  await choose(form.getByLabel("Credentials"), asked);
  await form.getByLabel("Port (optional)").fill(String(port));
  await form.getByRole("button", { name: "Save device" }).click();
  await expect(page.locator(`[data-target="${device}"]`)).toBeVisible();
}

/** Reads all devices, and confirms the keys that they show. */
async function confirmKeys(page: Page, read: string, devices: readonly string[]) {
  await page.getByRole("button", { name: read, exact: true }).click();
  for (const device of devices) {
    await expect(page.locator(`[data-target="${device}"]`)).toContainText("The device key is not confirmed.");
    await page.getByRole("button", { name: `Confirm the key of ${device}` }).click();
    await expect(page.getByRole("button", { name: `Confirm the key of ${device}` })).toHaveCount(0);
  }
}

/** A static route as RFC 8349 writes it in the configuration. */
function addRoute(store: Store, to: string, via: string) {
  const routing = store["ietf-routing:routing"] as { ribs: { rib: { routes: { route: unknown[] } }[] } };
  routing.ribs.rib[0].routes.route.push({
    "ietf-ipv4-unicast-routing:destination-prefix": to,
    "next-hop": { "ietf-ipv4-unicast-routing:next-hop-address": via },
    "source-protocol": "ietf-routing:static",
    "route-preference": 1,
    active: [null],
  });
}

test("devices are read by the server; what was changed on one shows as drift, is taken, or kept as work", async ({
  page,
}) => {
  const store = datastoreOf(demo, "skerry-edge");
  const restconf = await restconfServer(() => store, login);
  const netconf = netconfServer(() => datastoreOf(demo, "gull-edge"), login);
  try {
    const plan = await unopenedPlan(page);
    await goTo(page, `${plan}/polling`);
    await ready(page);
    await keepCredential(page, "web", "restconf");
    await keepCredential(page, "shell", "netconf");
    await addDevice(page, "skerry-edge", await listening(restconf), /^web/);
    await addDevice(page, "gull-edge", await listening(netconf as unknown as Server), /^shell/);
    await confirmKeys(page, "Poll all 2", ["skerry-edge", "gull-edge"]);
    const skerry = page.locator('[data-target="skerry-edge"]');
    await expect(skerry).toContainText("matches the plan");
    await expect(page.locator('[data-target="gull-edge"]')).toContainText("matches the plan");

    // Somebody writes a route on the device.
    const via = demo.plan.devices.find(({ id }) => id === "skerry-edge")?.routes[0].via ?? "";
    addRoute(store, "10.99.0.0/16", via);
    await page.getByRole("button", { name: "Poll skerry-edge", exact: true }).click();
    await skerry.getByRole("link", { name: "1 difference from the plan" }).click();
    const difference = page.locator('[data-difference="route-extra"]');
    await expect(difference).toContainText(`the route 10.99.0.0/16 via ${via} is not in the plan`);
    await difference.getByRole("checkbox").focus();
    await page.keyboard.press("Space");
    await page.getByRole("button", { name: "Add to work list" }).click();
    await expect(page.getByRole("region", { name: "Work list for devices" })).toContainText("open");
    await page.getByRole("link", { name: "Findings" }).click();
    await expect(page.locator('[data-notice="differs"]')).toContainText("has 1 difference from the plan");
    await goTo(page, `${plan}/drift`);
    await ready(page);
    await page.locator('[data-difference="route-extra"]').getByRole("checkbox").check();
    await page.getByRole("button", { name: "Update plan" }).click();
    await expect(page.getByText("Saved as revision 2.")).toBeVisible();
    await expect(page.getByTestId("drift-summary")).toContainText("all 2 devices match the plan");
    await expect(page.getByRole("region", { name: "Work list for devices" })).toContainText(
      "no longer present",
    );
    await goTo(page, `${plan}/devices/skerry-edge`);
    await expect(page.locator('[data-destination="10.99.0.0/16"]')).toBeVisible();
  } finally {
    restconf.close();
    netconf.close();
  }
});

test("the checks of a change that is carried out say what its devices were read to say", async ({ page }) => {
  let now = demo;
  const restconf = await restconfServer(() => datastoreOf(now, "office-fw"), login);
  try {
    const plan = await freshPlan(page);
    const text = readFileSync(new URL("../../demo/marrow-bay.change.json", import.meta.url), "utf8");
    const headers = { Origin: new URL(test.info().project.use.baseURL as string).origin };
    await page.request.post(`${plan}/edit.data`, {
      data: { do: "edit", base: 1, edit: JSON.parse(text) },
      headers,
    });
    await goTo(page, `${plan}/polling`);
    await ready(page);
    await keepCredential(page, "web", "restconf");
    await addDevice(page, "office-fw", await listening(restconf), /^web/);
    await confirmKeys(page, "Poll office-fw", ["office-fw"]);
    await goTo(page, `${plan}/changes`);
    await ready(page);
    await page.getByRole("button", { name: "Propose change" }).click();
    await page.getByRole("button", { name: "Propose change" }).click();
    await page.waitForURL(/\/changes\/1$/);
    await ready(page);
    await page.getByRole("button", { name: "Approve change" }).click();
    const visit = page.getByRole("listitem", { name: "Visit 1" });
    await visit.getByRole("button", { name: "Poll now" }).first().click();
    await expect(visit.getByText("✓ as read")).toHaveCount(1);
    await expect(visit.getByText("✗ read not in the table")).toBeVisible();
    // The route is written on the device; ticking the step has it read again.
    now = NetworkModel.compile(demoChanged());
    await visit.getByRole("checkbox", { name: /^1\. / }).check();
    await expect(visit.getByText("✗ read via 172.20.0.2")).toBeVisible();
    await expect(visit.getByText("✓ as read")).toHaveCount(1);
  } finally {
    restconf.close();
  }
});

test("a device that does not answer is told and stops nothing; a wrong field says what is wrong", async ({
  page,
}) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/polling`);
  await ready(page);
  await keepCredential(page, "web", "restconf");
  await page.getByRole("tab", { name: "Add device" }).click();
  const form = page.getByRole("form", { name: "Add polled device" });
  await form.getByLabel("Device", { exact: true }).fill("north");
  await form.getByLabel("Address").fill("10.0.0.1");
  await form.getByRole("button", { name: "Save device" }).click();
  await expect(form.getByRole("alert")).toHaveText(
    "This server may not poll 10.0.0.1. Start it with --read PREFIX to allow it.",
  );
  await addDevice(page, "north", 9, /^web/);
  await page.getByRole("button", { name: "Poll north", exact: true }).click();
  await expect(page.locator('[data-target="north"]')).toContainText("connection refused");
  await page.getByRole("button", { name: "Cancel polling north" }).click();
  await expect(page.locator('[data-target="north"]')).toContainText("cancelled");
});

test("a device is tested before it is saved, and a list of addresses is added at once", async ({ page }) => {
  const restconf = await restconfServer(() => datastoreOf(demo, "skerry-edge"), login);
  try {
    const plan = await unopenedPlan(page);
    await goTo(page, `${plan}/polling`);
    await ready(page);
    await keepCredential(page, "web", "restconf");
    await page.getByRole("tab", { name: "Add device" }).click();
    const form = page.getByRole("form", { name: "Add polled device" });
    await form.getByLabel("Device", { exact: true }).fill("skerry-edge");
    await form.getByLabel("Address").fill("127.0.0.1");
    await choose(form.getByLabel("Credentials"), /^web/);
    await form.getByLabel("Port (optional)").fill(String(await listening(restconf)));
    await form.getByRole("button", { name: "Test", exact: true }).click();
    const tests = page.getByRole("list", { name: "Tests" });
    await page.getByRole("button", { name: "Confirm the key of skerry-edge" }).click();
    await expect(tests).toContainText("matches the plan");
    // A test leaves no readings, and is no polled device.
    await expect(page.locator('[data-target="skerry-edge"]')).toHaveCount(0);
    await expect(page.getByRole("region", { name: "Latest readings" })).toHaveCount(0);
    await tests.getByRole("button", { name: "Save device" }).click();
    await expect(page.locator('[data-target="skerry-edge"]')).toBeVisible();
    await expect(tests).toHaveCount(0);

    await page.getByRole("tab", { name: "Add list" }).click();
    const list = page.getByRole("form", { name: "Add list of devices" });
    const text = list.getByLabel(/^One device per line/);
    await text.fill("127.0.0.1\nnot an address\n");
    await list.getByRole("button", { name: "Add devices" }).click();
    await expect(list.getByRole("alert")).toContainText("Line 2: Enter an IPv4 or IPv6 address.");
    await text.fill("west, 127.0.0.2\n127.0.0.3\n");
    await list.getByRole("button", { name: "Add devices" }).click();
    await expect(page.getByText("2 devices added.")).toBeVisible();
    await expect(page.locator('[data-target="west"]')).toContainText("127.0.0.2");
    await expect(page.locator('[data-target="127.0.0.3"]')).toBeVisible();
  } finally {
    restconf.close();
  }
});

test("what devices are asked with appears in no page and not in the database", async ({ page }) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/polling`);
  await ready(page);
  await keepCredential(page, "web", "restconf");
  await addDevice(page, "north", 9, /^web/);
  for (const path of ["polling", "drift", "findings", "changes"]) {
    const answer = await page.request.get(`${plan}/${path}`);
    expect(await answer.text()).not.toContain("swordfish");
  }
  test.skip(!process.env.DATABASE_URL, "the database is another's");
  const dumped = execFileSync(
    "pg_dump",
    ["--data-only", "--schema=iron_fork", process.env.DATABASE_URL ?? ""],
    {
      maxBuffer: 1 << 30,
      encoding: "latin1",
    },
  );
  expect(dumped).toContain("COPY iron_fork.credential");
  for (const form of [
    PASSWORD,
    Buffer.from(PASSWORD).toString("hex"),
    Buffer.from(PASSWORD).toString("base64"),
  ])
    expect(dumped).not.toContain(form);
});
