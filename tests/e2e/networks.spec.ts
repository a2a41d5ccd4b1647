import { readFileSync } from "node:fs";
import { expect, type Page, test } from "@playwright/test";
import { fill } from "./forms.ts";
import { expectAnswer, freshPlan, goTo, ready } from "./plan.ts";

// Whole networks drawn up in the interface alone, without a line of a document.

/** An empty plan; its address. */
async function emptyPlan(page: Page, name: string): Promise<string> {
  await goTo(page, "/plans");
  await ready(page);
  await page.getByLabel("New plan").fill(name);
  await page.getByRole("button", { name: "Create plan" }).click();
  await page.waitForURL(/\/plans\/\d+\/map/);
  return /\/plans\/\d+/.exec(page.url())?.[0] ?? "";
}

async function addDevice(
  page: Page,
  plan: string,
  name: string,
  role: string,
  more: Record<string, string> = {},
) {
  await goTo(page, `${plan}/map?edit=new:device`);
  await ready(page);
  const form = await fill(page, "Add device", { Role: role, ...more, Name: name });
  await form.getByRole("button", { name: "Add device" }).click();
  await expect(page.getByRole("link", { name: `Edit ${name}` }).first()).toBeVisible();
}

async function addLink(page: Page, plan: string, values: Record<string, string>) {
  await goTo(page, `${plan}/map?edit=new:link`);
  await ready(page);
  const form = await fill(page, "Add link", values);
  await form.getByRole("button", { name: "Add link" }).click();
  await expect(form.getByLabel("Address at this end")).toHaveValue("");
}

/** Edits a part of a device on its own page. */
async function part(
  page: Page,
  plan: string,
  device: string,
  edit: string,
  title: string | RegExp,
  values: Record<string, string>,
) {
  await goTo(page, `${plan}/devices/${device}?edit=${edit}`);
  await ready(page);
  const form = await fill(page, page.getByRole("form", { name: title }), values);
  await saved(page, () => form.getByRole("button", { name: /^(Save|Add)/ }).click());
}

/** Does what saves an edit, and waits for the revision that comes of it. */
async function saved(page: Page, act: () => Promise<void>) {
  const revision = page.getByText(/^Revision \d+$/);
  const before = Number(/\d+/.exec((await revision.textContent()) ?? "")?.[0]);
  await act();
  await expect(revision).toHaveText(`Revision ${before + 1}`);
}

async function done(page: Page, text: string | RegExp) {
  await expect(page.getByRole("main")).toContainText(text);
}

async function addRoute(page: Page, plan: string, device: string, line: string) {
  await goTo(page, `${plan}/devices/${device}`);
  await ready(page);
  const form = page.getByRole("form", { name: "Add route" });
  await form.getByLabel("Route as one line").fill(line);
  await saved(page, () => form.getByRole("button", { name: "Add route" }).click());
}

test("a firewall with zones, translation, a tunnel and two providers", async ({ page }) => {
  test.setTimeout(240_000);
  const plan = await emptyPlan(page, "Harbour office");
  await addDevice(page, plan, "Desk", "host");
  await addDevice(page, plan, "Wall", "firewall");
  await addDevice(page, plan, "North", "provider");
  await goTo(page, `${plan}/map?edit=device:north`);
  await ready(page);
  const north = await fill(page, "Edit North", { "Announced prefixes": "192.0.2.0/30" });
  await saved(page, () => north.getByRole("button", { name: "Save" }).click());
  await addDevice(page, plan, "South", "provider", { "Announced prefixes": "198.51.100.0/30" });
  await addDevice(page, plan, "Internet", "internet");
  const join = (From: string, To: string, here: string, there: string, more: Record<string, string>) =>
    addLink(page, plan, { From, To, "Address at this end": here, "Address at the far end": there, ...more });
  await join("Desk", "Wall", "10.1.0.10/24", "10.1.0.1/24", { "Interface at the far end": "inside" });
  await join("Wall", "North", "192.0.2.2/30", "192.0.2.1/30", { "Interface at this end": "wan1" });
  await join("Wall", "South", "198.51.100.2/30", "198.51.100.1/30", { "Interface at this end": "wan2" });
  await join("North", "Internet", "203.0.113.2/30", "203.0.113.1/30", {});
  await join("South", "Internet", "203.0.113.6/30", "203.0.113.5/30", {});

  await part(page, plan, "wall", "port:inside", /^Edit inside/, { Zone: "inside" });
  await done(page, "inside");
  for (const port of ["wan1", "wan2"])
    await part(page, plan, "wall", `port:${port}`, `Edit ${port} of Wall`, { Zone: "outside" });
  await part(page, plan, "wall", "port:", /^Add interface/, {
    Name: "tun1",
    Kind: "tunnel",
    Addresses: "10.9.0.1/30",
    Zone: "inside",
    "Tunnel to": "203.0.113.2",
    "Tunnel from": "192.0.2.2",
    "Keepalive interval": "5 s",
  });
  await expect(page.getByRole("link", { name: "Edit tun1" })).toBeVisible();
  for (const out of ["wan1", "wan2"]) {
    await part(page, plan, "wall", "nat:", /^Add source translation/, {
      "Outgoing interface": out,
      From: "10.1.0.0/24",
    });
    await expect(page.getByRole("link", { name: `Edit the translation on ${out}` })).toBeVisible();
  }
  await addRoute(page, plan, "desk", "default via 10.1.0.1");
  await addRoute(page, plan, "wall", "default via 192.0.2.1 out wan1");
  await addRoute(page, plan, "wall", "default via 198.51.100.1 out wan2 distance 200");

  // Zones keep the desk in until the order of trust lets it out.
  const asked = `${plan}/paths?from=desk&to=203.0.113.200&protocol=tcp&port=443`;
  await part(page, plan, "wall", "policy", "Policy of Wall", { "Between zones": "deny" });
  await goTo(page, asked);
  await expectAnswer(page, "It does not arrive", /Wall/);
  await part(page, plan, "wall", "policy", "Policy of Wall", {
    "Zones by trust, most trusted first": "inside, outside",
  });
  await done(page, "from more to less trusted: inside, outside");
  await part(page, plan, "wall", "rule:", /^Add rule/, {
    Action: "deny",
    Protocol: "tcp",
    "To zones": "outside",
    Port: "25",
  });
  await done(page, "deny to outside tcp port 25");
  await goTo(page, asked);
  await ready(page);
  await expectAnswer(page, /Carried by|It works/);
  await expect(page.getByRole("main")).toContainText("source translated to 192.0.2.2");
  await goTo(page, `${asked}&down=interface:wall/wan1`);
  await expect(page.getByRole("main")).toContainText("source translated to 198.51.100.2");

  // The question is saved as a flow, with its expectation.
  await goTo(page, asked);
  await ready(page);
  await page.getByRole("button", { name: "Save as flow" }).click();
  const window = page.getByRole("dialog");
  const form = await fill(page, window.getByRole("form"), {
    Name: "Desk to the internet",
    "Must survive, failures": "1",
  });
  await form.getByRole("button", { name: "Add flow" }).click();
  await expect(window).toHaveCount(0);
  await goTo(page, `${plan}/paths`);
  const row = page.getByRole("row", { name: /Desk to the internet/ });
  await expect(row).toContainText("survives any single failure");
});

test("a cloud network whose table leads through an appliance", async ({ page }) => {
  test.setTimeout(120_000);
  const plan = await emptyPlan(page, "Cloud");
  await addDevice(page, plan, "Cloud", "cloud", { "Reserved addresses of each subnet": "3" });
  await addDevice(page, plan, "Guard", "router");
  await addDevice(page, plan, "App", "host");
  await addDevice(page, plan, "Store", "host");
  await addLink(page, plan, {
    From: "App",
    To: "Cloud",
    "Interface at the far end": "apps",
    "Address at this end": "10.5.1.10/24",
    "Address at the far end": "10.5.1.1/24",
  });
  await addLink(page, plan, {
    From: "Guard",
    To: "Cloud",
    "Interface at the far end": "guards",
    "Address at this end": "10.5.9.10/24",
    "Address at the far end": "10.5.9.1/24",
  });
  await addLink(page, plan, {
    From: "Store",
    To: "Cloud",
    "Interface at the far end": "stores",
    "Address at this end": "10.5.2.10/24",
    "Address at the far end": "10.5.2.1/24",
  });
  await addRoute(page, plan, "app", "default via 10.5.1.1");
  await addRoute(page, plan, "store", "default via 10.5.2.1");
  await addRoute(page, plan, "guard", "default via 10.5.9.1");
  await goTo(page, `${plan}/paths?from=app&to=10.5.2.10`);
  await expectAnswer(page, /It works|Carried by/);
  await expect(page.getByRole("region", { name: "Forward path" }).first()).not.toContainText("Guard");

  await part(page, plan, "cloud", "table:", /^Add policy table/, {
    Name: "through-guard",
    Lookup: "first, then the main table",
    "Incoming interfaces": "apps",
  });
  await expect(page.getByRole("link", { name: "Edit policy table through-guard" })).toBeVisible();
  await part(page, plan, "cloud", "table-route:through-guard/", /^Add route to table through-guard/, {
    Destination: "10.5.2.0/24",
    "Next hop": "10.5.9.10",
  });
  await done(page, "10.5.2.0/24 via 10.5.9.10");
  await goTo(page, `${plan}/paths?from=app&to=10.5.2.10`);
  await expectAnswer(page, /It works|Carried by/);
  await expect(page.getByRole("region", { name: "Forward path" }).first()).toContainText("Guard");
});

test("a host with two interfaces prefers the one of the lower metric", async ({ page }) => {
  const plan = await emptyPlan(page, "Kiosk");
  await addDevice(page, plan, "Kiosk", "host");
  await addDevice(page, plan, "Wired", "router");
  await addDevice(page, plan, "Radio", "router");
  await addLink(page, plan, {
    From: "Kiosk",
    To: "Wired",
    "Interface at this end": "eth0",
    "Address at this end": "10.1.0.10/24",
    "Address at the far end": "10.1.0.1/24",
  });
  await addLink(page, plan, {
    From: "Kiosk",
    To: "Radio",
    "Interface at this end": "wlan0",
    "Address at this end": "10.2.0.10/24",
    "Address at the far end": "10.2.0.1/24",
  });
  await addRoute(page, plan, "kiosk", "default via 10.1.0.1");
  await addRoute(page, plan, "kiosk", "default via 10.2.0.1");
  const standby = page.locator('[data-destination="0.0.0.0/0"] tr[data-state="standby"]');
  for (const [port, metric, other] of [
    ["eth0", "600", "10.1.0.1"],
    ["wlan0", "700", "10.2.0.1"],
  ]) {
    await part(page, plan, "kiosk", `port:${port}`, `Edit ${port} of Kiosk`, { Metric: metric });
    await expect(standby).toContainText(port === "eth0" ? other : "10.2.0.1");
  }

  // A name that is changed takes its references along.
  await part(page, plan, "kiosk", "port:wlan0", "Edit wlan0 of Kiosk", { Name: "radio0" });
  await expect(page.getByRole("link", { name: "Edit radio0" })).toBeVisible();
  await goTo(page, `${plan}/map?edit=`);
  await page.getByRole("link", { name: "kiosk-radio", exact: true }).click();
  await expect(page.getByRole("form", { name: /Edit the link/ })).toContainText("radio0");
});

test("a lesson opens as a plan of one's own, and its fix is proven", async ({ page }) => {
  await goTo(page, "/plans");
  await ready(page);
  const learn = page.getByRole("region", { name: "Learn", exact: true });
  await expect(learn).toContainText("Try:");
  await learn.getByRole("button", { name: "Open A watch that sees only the first hop" }).click();
  await page.waitForURL(/\/plans\/\d+\/map/);
  await page.getByRole("link", { name: /^Findings/ }).click();
  await expect(page.locator("[data-finding]").first()).toContainText("watch");
});

test("the routes of the whole network are filtered, sorted and shared by their address", async ({ page }) => {
  await goTo(page, "/plans/1/routes");
  await ready(page);
  const found = page.getByTestId("found");
  await expect(found).toContainText(/^229 of 229 routes/);
  await page.getByLabel("Prefix, address, next hop, device or interface").fill("172.20.96.0/21");
  await expect(found).toContainText(/^\d+ of 229/);
  await expect(page.getByRole("row", { name: /172\.20\.100\.0\/24/ }).first()).toBeVisible();
  await page.getByRole("radio", { name: "covering" }).click();
  await expect(page.getByRole("row", { name: /172\.20\.100\.0\/24/ })).toHaveCount(0);
  await page.getByRole("radio", { name: "exact match" }).click();
  await expect(page.getByText("No routes match the filter.")).toBeVisible();
  await page.getByRole("link", { name: "Clear filter" }).click();
  await page.getByRole("button", { name: "unusable" }).click();
  await page.waitForURL(/state=unusable/);
  await goTo(page, "/plans/1/routes?state=standby&sort=-device&down=link:tern-north");
  await ready(page);
  await expect(page.getByRole("columnheader", { name: "device" })).toHaveAttribute("aria-sort", "descending");
  for (const row of await page.locator("tbody tr[data-index]").all())
    await expect(row).toContainText("standby");
  await page.getByRole("button", { name: "Columns" }).click();
  await page.getByRole("dialog").getByRole("button", { name: "metric" }).click();
  await expect(page.getByRole("columnheader", { name: "metric" })).toHaveCount(0);
  await page.reload();
  await expect(page.getByRole("columnheader", { name: "metric" })).toHaveCount(0);
});

test("the map's signs are told, a plate has its menu, and the drawing is taken along", async ({ page }) => {
  await goTo(page, "/plans/1/map?flow=tickets");
  await ready(page);
  await page.getByRole("button", { name: "Legend" }).click();
  const legend = page.getByRole("dialog", { name: "Legend" });
  await expect(legend).toContainText("firewall");
  await page.keyboard.press("Tab");
  await legend.getByRole("tab", { name: "Links" }).click();
  await expect(legend).toContainText("circuit: no end detects a failure");
  await page.keyboard.press("Escape");
  await expect(legend).toHaveCount(0);

  await page.getByRole("link", { name: "Routes of Office firewall" }).click({ button: "right" });
  await page.getByRole("menuitem", { name: "Its rows in all routes" }).click();
  await page.waitForURL(/\/routes\?.*only=office-fw/);
  await expect(page.getByRole("button", { name: /^Only Office firewall/ })).toBeVisible();
  await page.goBack();

  await page.getByRole("button", { name: "Export" }).click();
  const [svg] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("menuitem", { name: "Drawing as SVG" }).click(),
  ]);
  const text = readFileSync(await svg.path(), "utf8");
  expect(text).toContain("Office firewall");
  expect(text).not.toMatch(/var\(--|<a |href/);
  await page.getByRole("button", { name: "Export" }).click();
  const [png] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("menuitem", { name: "Picture as PNG" }).click(),
  ]);
  expect(
    readFileSync(await png.path())
      .subarray(1, 4)
      .toString(),
  ).toBe("PNG");
});

test("a pasted list proposes the links that its subnets imply", async ({ page }) => {
  const plan = await emptyPlan(page, "Pasted");
  await goTo(page, `${plan}/map?edit=new:list`);
  await ready(page);
  await page
    .getByLabel("Paste a list of interfaces")
    .fill(
      "west, wan, 192.0.2.1/30\neast, wan, 192.0.2.2/30\nwest, lan, 10.1.0.1/24\ndesk, eth0, 10.1.0.9/24, host",
    );
  const join = page.getByRole("checkbox", { name: /^Join interfaces that share a subnet: 2 links/ });
  await join.check();
  await saved(page, () => page.getByRole("button", { name: "Add to network" }).click());
  await expect(page.getByRole("link", { name: "west – east", exact: true })).toBeVisible();
  await expect(page.getByRole("link", { name: "west – desk", exact: true })).toBeVisible();
});

test("a form says which errors saving would cause: an address that another device on the segment has", async ({
  page,
}) => {
  const plan = await freshPlan(page);
  await goTo(page, `${plan}/devices/office-core-2?edit=port:core`);
  await ready(page);
  const form = page.getByRole("form", { name: /^Edit core/ });
  await form.getByLabel("Addresses").fill("172.20.0.2/24");
  await expect(form.getByRole("status")).toContainText("New finding");
  await expect(form.getByRole("status")).toContainText("172.20.0.2");
  await form.getByLabel("Addresses").fill("172.20.0.3/24");
  await expect(form.getByRole("status")).toHaveText("");
});
