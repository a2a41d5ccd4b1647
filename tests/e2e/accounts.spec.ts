import type { Server } from "node:http";
import AxeBuilder from "@axe-core/playwright";
import { type Browser, type BrowserContext, expect, type Page, test } from "@playwright/test";
import { choose } from "./forms.ts";
import { ready } from "./plan.ts";
import { provider } from "./provider.ts";
import { SharedServer } from "./shared-server.ts";

const PASSWORD = "ferries leave at seven";

// One server for all: what one test leaves, the next begins with.
test.describe.configure({ mode: "serial" });

const shared = new SharedServer();
let harbour: Server;
const contexts: BrowserContext[] = [];

test.beforeAll(async () => {
  test.setTimeout(120_000);
  await shared.prepare();
  const { issuer, server } = await provider(`${shared.origin}/sign-in/provider/back`);
  harbour = server;
  await shared.serve({
    IRON_FORK_OIDC_ISSUER: issuer,
    IRON_FORK_OIDC_CLIENT_ID: "iron-fork",
    IRON_FORK_OIDC_CLIENT_SECRET: "harbour",
    IRON_FORK_OIDC_NAME: "Harbour ID",
    IRON_FORK_OIDC_ROLES: "leads=approves, crew=reads",
  });
});

test.afterAll(async () => {
  for (const context of contexts) await context.close();
  harbour?.close();
  await shared.stop();
});

async function person(browser: Browser): Promise<Page> {
  const { viewport } = test.info().project.use;
  const context = await browser.newContext({ baseURL: shared.origin, viewport });
  contexts.push(context);
  return context.newPage();
}

/** Gives a browser something that holds passkeys (WebAuthn, 11: automation). */
async function authenticator(page: Page) {
  const client = await page.context().newCDPSession(page);
  await client.send("WebAuthn.enable");
  await client.send("WebAuthn.addVirtualAuthenticator", {
    options: {
      protocol: "ctap2",
      transport: "internal",
      hasResidentKey: true,
      hasUserVerification: true,
      isUserVerified: true,
      automaticPresenceSimulation: true,
    },
  });
}

async function choosePassword(page: Page, link: string) {
  await page.goto(link);
  await ready(page);
  await page.getByLabel(/^New password/).fill(PASSWORD);
  await page.getByLabel("Repeat new password").fill(PASSWORD);
  await page.getByRole("button", { name: "Continue" }).click();
  await page.waitForURL("**/account");
}

async function signIn(page: Page, name: string, password = PASSWORD) {
  await page.goto("/sign-in");
  await ready(page);
  await page.getByLabel("Name").fill(name);
  await page.getByLabel("Password").fill(password);
  await page.getByRole("button", { name: "Sign in", exact: true }).click();
}

let ada: Page;

test("the first administrator comes by a one-time link, adds a passkey, and signs in with it", async ({
  browser,
}) => {
  ada = await person(browser);
  await ada.goto("/plans/1/map?flow=tickets");
  await expect(ada.getByRole("heading", { name: "Sign in" })).toBeVisible();
  expect(new URL(ada.url()).searchParams.get("to")).toBe("/plans/1/map?flow=tickets");
  const printed = shared.command("server/access/account-command.ts", "Ada", "administers", shared.origin);
  const link = /http:\S+\/invitation\/\S+/.exec(printed)?.[0] as string;
  await choosePassword(ada, link);
  await expect(ada.getByText("You administer the workspace.")).toBeVisible();
  // The link is good once.
  await ada.goto(link);
  await expect(ada.getByText("This link has been used or has expired.")).toBeVisible();

  await ada.goto("/account");
  await ready(ada);
  await authenticator(ada);
  await ada.getByLabel("Name of the passkey").fill("key ring");
  await ada.getByRole("button", { name: "Add passkey" }).click();
  await expect(ada.getByRole("region", { name: "Passkeys" }).getByText("key ring")).toBeVisible();
  await ada.getByRole("button", { name: "Sign out", exact: true }).click();
  await ada.waitForURL("**/sign-in");
  await ada.goto("/sign-in?to=/plans/1/paths%3Fflow=tickets");
  await ready(ada);
  await ada.getByRole("button", { name: "Sign in with a passkey" }).click();
  await ada.waitForURL("**/plans/1/paths?flow=tickets");
  await expect(ada.getByRole("link", { name: "Ada", exact: true })).toBeVisible();
  await ada.goto("/account");
  await expect(ada.getByRole("region", { name: "Active sign-ins" })).toContainText("by passkey");
});

test("somebody who reads sees a plan and edits none; a role in one plan goes before the one for all", async ({
  browser,
}) => {
  await ada.goto("/accounts");
  await ready(ada);
  const form = ada.getByRole("form", { name: "Add account" });
  await form.getByLabel("Name").fill("Rex");
  await choose(form.getByLabel("Role"), "viewer");
  await form.getByRole("button", { name: "Create link" }).click();
  const link = (
    await ada
      .getByText(/\/invitation\//)
      .first()
      .textContent()
  )?.match(/http\S+/)?.[0] as string;
  const rex = await person(browser);
  await choosePassword(rex, link);
  await rex.goto("/plans/2/devices/middle");
  await ready(rex);
  await expect(rex.getByText("Revision 1, read-only")).toBeVisible();
  // What a viewer may not do is not offered.
  await expect(rex.getByRole("row", { name: /10\.3\.0\.0\/24/ })).toBeVisible();
  await expect(rex.getByRole("button", { name: "Remove 10.3.0.0/24 via 10.0.23.2" })).toHaveCount(0);
  await expect(rex.getByRole("button", { name: "Add route" })).toHaveCount(0);
  for (const path of ["/accounts", "/audit-log"]) expect((await rex.request.get(path)).status()).toBe(403);

  await ada.goto("/accounts");
  await ready(ada);
  const line = ada.getByRole("listitem", { name: "Rex" });
  await choose(line.getByLabel("Role in the plan", { exact: true }), "Three routers");
  await choose(line.getByLabel("Role of Rex in the plan"), "editor");
  await line.getByRole("button", { name: "Save plan role", exact: true }).click();
  await expect(line.getByText("Three routers: editor")).toBeVisible();
  await rex.reload();
  await ready(rex);
  await rex.getByRole("button", { name: "Remove 10.3.0.0/24 via 10.0.23.2" }).click();
  await expect(rex.getByText("Revision 2", { exact: true }).first()).toBeVisible();
  // Approving takes more than editing.
  await rex.goto("/plans/2/changes");
  await ready(rex);
  await expect(rex.getByRole("region", { name: "Draft" })).toBeVisible();
  await expect(rex.getByRole("button", { name: "Approve revision 2" })).toHaveCount(0);
  await choose(line.getByLabel("Role of Rex in the plan"), "none");
  await choose(line.getByLabel("Role in the plan", { exact: true }), "Three routers");
  await line.getByRole("button", { name: "Save plan role", exact: true }).click();
  await expect(line.getByText("Three routers: none")).toBeVisible();
  await rex.goto("/plans");
  await expect(rex.getByRole("heading", { name: "Marrow Bay Ferries" }).first()).toBeVisible();
  await expect(rex.getByRole("heading", { name: "Three routers" })).toHaveCount(0);
  await rex.goto("/search?q=10.3.0.9");
  await expect(rex.getByText("Three routers")).toHaveCount(0);

  await line.getByRole("button", { name: "Disable" }).click();
  await expect(line.getByRole("button", { name: "Enable" })).toBeVisible();
  await rex.goto("/plans");
  await expect(rex.getByRole("heading", { name: "Sign in" })).toBeVisible();
  await signIn(rex, "Rex");
  await expect(rex.getByRole("alert")).toContainText("The name or the password is wrong.");
});

test("too many wrong passwords are held up, whoever the name is of", async ({ browser }) => {
  const eve = await person(browser);
  for (const name of ["Ada", "Nobody"]) {
    for (let n = 0; n < 10; n++) {
      const answer = await eve.request.post("/sign-in.data", {
        form: { name, password: "a wrong guess here" },
        headers: { Origin: shared.origin },
      });
      expect(answer.status()).toBe(401);
    }
    await signIn(eve, name);
    await expect(eve.getByRole("alert")).toContainText("Too many attempts. Try again in");
  }
});

test("a sign-in provider's people come in with the roles that their groups give", async ({ browser }) => {
  const lee = await person(browser);
  await lee.goto("/plans/1/map");
  await lee.getByRole("link", { name: "Sign in with Harbour ID" }).click();
  await lee.getByPlaceholder("Enter any login").fill("leads-lee");
  await lee.getByPlaceholder("and password").fill("x");
  await lee.getByRole("button", { name: /sign-in/i }).click();
  await lee.getByRole("button", { name: /continue/i }).click();
  await lee.waitForURL("**/plans/1/map");
  await lee.goto("/account");
  await expect(lee.getByText("You view, edit and approve in every plan.")).toBeVisible();
  // Somebody who approves may ask for four eyes, and not let themselves off it again.
  const fourEyes = (on: string) =>
    lee.request.post("/plans/1/changes.data", {
      form: { do: "four-eyes", on },
      headers: { Origin: shared.origin },
    });
  expect((await fourEyes("no")).status()).toBe(403);
  expect((await fourEyes("yes")).ok()).toBe(true);
  expect((await fourEyes("no")).status()).toBe(403);
  // A callback without a request is refused.
  const forged = await lee.request.get("/sign-in/provider/back?code=x&state=y");
  expect(forged.status()).toBe(401);
});

test("tokens do what they may and no more, until they are revoked; what was done is on record", async ({
  playwright,
}) => {
  await ada.goto("/account");
  await ready(ada);
  const form = ada.getByRole("form", { name: "Create token" });
  await form.getByLabel("Purpose").fill("pipeline");
  await choose(form.getByLabel("Role"), "viewer");
  await form.getByRole("button", { name: "Create token" }).click();
  const token = ((await ada.getByText(/^ironfork_/).textContent()) ?? "").trim();
  const api = await playwright.request.newContext({
    baseURL: shared.origin,
    extraHTTPHeaders: { Authorization: `Bearer ${token}` },
  });
  const list = await (await api.get("/api/v1/plans")).json();
  expect(list.plans.map(({ name }: { name: string }) => name)).toContain("Three routers");
  const refused = await api.post("/api/v1/plans", { data: { document: { ironFork: 1, name: "x" } } });
  expect([refused.status(), refused.headers()["content-type"]]).toEqual([
    403,
    "application/problem+json; charset=utf-8",
  ]);
  await ada.getByRole("button", { name: "Revoke pipeline" }).click();
  await expect(ada.getByRole("region", { name: "API tokens" })).toContainText("revoked");
  expect((await api.get("/api/v1/plans")).status()).toBe(401);
  await api.dispose();

  await ada.goto("/plans");
  await ready(ada);
  const card = ada.getByRole("listitem").filter({ has: ada.getByRole("heading", { name: "Three routers" }) });
  await card.getByRole("button", { name: "Delete" }).click();
  await ada.getByRole("button", { name: "Delete plan" }).click();
  await expect(ada.getByRole("alertdialog")).toHaveCount(0);
  await expect(ada.getByRole("alert")).toHaveCount(0);
  await expect(ada.getByRole("heading", { name: "Three routers" })).toHaveCount(0);
  expect((await ada.request.get("/plans/2/map")).status()).toBe(404);
  await ada.goto("/accounts");
  await ready(ada);
  await ada.getByRole("button", { name: "Restore Three routers" }).click();
  await expect(ada.getByRole("region", { name: "Deleted plans" })).toHaveCount(0);
  expect((await ada.request.get("/plans/2/map")).status()).toBe(200);

  await ada.goto("/audit-log");
  const rows = ada.getByRole("row");
  await expect(rows.filter({ hasText: "deleted a plan" }).first()).toContainText("Ada");
  await expect(rows.filter({ hasText: "edited the plan: " }).first()).toContainText("Rex");
  await expect(
    rows.filter({ hasText: "signed in" }).filter({ hasText: "refused (429)" }).first(),
  ).toBeVisible();
  expect(shared.command("server/access/audit-log-command.ts", "verify")).toContain(
    "The audit log is complete",
  );
  const lines = (await (await ada.request.get("/audit-log/rows")).text()).trim().split("\n");
  expect(lines.length).toBeGreaterThan(10);
  for (const line of lines) expect(line).not.toContain(PASSWORD);
});

test("axe finds nothing on the pages of accounts, light and dark", async ({ browser }) => {
  const nobody = await person(browser);
  await nobody.goto("/sign-in");
  await ready(nobody);
  const check = async (page: Page) => {
    for (const colorScheme of ["light", "dark"] as const) {
      await page.emulateMedia({ colorScheme });
      const { violations } = await new AxeBuilder({ page })
        .withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"])
        .analyze();
      expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0].html.slice(0, 120)}`)).toEqual([]);
    }
  };
  await check(nobody);
  for (const path of ["/account", "/accounts", "/audit-log"]) {
    await ada.goto(path);
    await ready(ada);
    await check(ada);
  }
});
