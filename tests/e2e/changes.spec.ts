import { readFileSync } from "node:fs";
import AxeBuilder from "@axe-core/playwright";
import { type Browser, expect, type Page, test } from "@playwright/test";
import { freshPlan, goTo, ready } from "./plan.ts";

const edit = JSON.parse(readFileSync(new URL("../../demo/marrow-bay.change.json", import.meta.url), "utf8"));

/** A copy of the ferry company's plan with its change drafted; its address. */
async function drafted(page: Page): Promise<string> {
  const plan = await freshPlan(page);
  const origin = new URL(test.info().project.use.baseURL as string).origin;
  const saved = await page.request.post(`${plan}/edit.data`, {
    data: { do: "edit", base: 1, edit },
    headers: { Origin: origin },
  });
  expect(saved.ok()).toBe(true);
  return plan;
}

/** Another person: a browser of their own. */
async function person(browser: Browser, name: string): Promise<Page> {
  const { baseURL, viewport } = test.info().project.use;
  const page = await (await browser.newContext({ baseURL, viewport })).newPage();
  await goTo(page, "/plans/1/map");
  await ready(page);
  await page.getByRole("button", { name: /^Engineer / }).click();
  await page.getByLabel("Name shown with your edits").fill(name);
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByRole("button", { name, exact: true })).toBeVisible();
  return page;
}

async function propose(page: Page, plan: string, words: Record<string, string>) {
  await goTo(page, `${plan}/changes`);
  await ready(page);
  await page.getByRole("button", { name: "Propose change" }).click();
  const form = page.getByRole("form", { name: "Propose change" });
  for (const [label, value] of Object.entries(words))
    await form.getByLabel(label, { exact: true }).fill(value);
  await form.getByRole("button", { name: "Propose change" }).click();
  await page.waitForURL(/\/changes\/\d+$/);
  await ready(page);
}

const state = (page: Page) => page.getByTestId("change-state");
const standing = (page: Page) => page.getByTestId("standing");
const step = (page: Page, text: RegExp) => page.getByRole("checkbox", { name: text });

test("a change: drafted, its order seen, approved by somebody else, followed by two, stopped in the middle, gone back from, carried out", async ({
  page,
  browser,
}) => {
  test.setTimeout(240_000);
  const plan = await drafted(page);
  const [ann, bob] = [await person(browser, "Ann"), await person(browser, "Bob")];

  // Ann sees the draft and its safe order.
  await goTo(ann, `${plan}/changes`);
  await ready(ann);
  const draft = ann.getByRole("region", { name: "Draft" });
  await expect(draft.getByText(/15 steps in 5 visits/)).toContainText("safe");
  // Another order moves no traffic, at the price of a visit.
  await draft.getByRole("radio", { name: "Least traffic moved: 6 visits, no path change" }).click();
  await expect(draft.getByText(/15 steps in 6 visits/)).toContainText("safe");
  await draft.getByRole("radio", { name: "Fewest visits: 5 visits, 2 path changes" }).click();
  await expect(draft.getByText(/15 steps in 5 visits/)).toContainText("safe");
  await expect(draft.getByRole("region", { name: "Office core 1" }).getByText("removed")).toHaveCount(6);
  await ann.getByRole("button", { name: "Require a second approver" }).click();
  await expect(ann.getByText("The approver of a change must not be one of its authors")).toBeVisible();
  await propose(ann, plan, { Title: "One summary", Reference: "MB-2041", "Window from": "2027-03-05 22:00" });
  const change = new URL(ann.url()).pathname;

  // She may not approve it, and steps are disabled before the approval.
  await expect(step(ann, /172\.20\.80\.0\/24 via 172\.20\.0\.2/)).toBeDisabled();
  await ann.getByRole("button", { name: "Approve change" }).click();
  await expect(ann.getByRole("alert")).toContainText("must not be one of its authors");

  await goTo(bob, change);
  await ready(bob);
  await bob.getByRole("button", { name: "Approve change" }).click();
  await expect(state(bob)).toHaveText("approved");
  // Ann's page updates automatically.
  await expect(state(ann)).toHaveText("approved");

  // Both tick; each sees what the other did, and by whom.
  await step(bob, /172\.20\.80\.0\/24 via 172\.20\.0\.2/).check();
  await expect(step(ann, /172\.20\.80\.0\/24 via 172\.20\.0\.2/)).toBeChecked();
  await expect(ann.getByRole("listitem", { name: "Visit 1" })).toContainText("Bob, ");
  await step(ann, /172\.20\.80\.0\/24 via 172\.20\.255\.14/).check();
  await expect(standing(bob)).toContainText("2 of 15 steps are done");

  // Stopped in the middle: the network as it stands is a condition on every screen.
  await ann.getByRole("link", { name: "Show network after step 2" }).click();
  await expect(ann.getByTestId("stage")).toContainText("after step 2 of 15");
  await goTo(ann, `${plan}/devices/office-core-1?after=1.4`);
  await ready(ann);
  await expect(ann.locator('[data-destination="172.20.96.0/21"]')).toBeVisible();
  await expect(ann.locator('[data-destination="172.20.97.0/24"]')).toBeVisible();
  await ann.getByRole("link", { name: "Next" }).click();
  await expect(ann.getByTestId("stage")).toContainText("after step 5 of 15");
  await expect(ann.locator('[data-destination="172.20.48.0/24"]')).toContainText("172.20.0.3");
  await ann.getByRole("button", { name: "Remove 172.20.97.0/24 via 172.20.255.26" }).click();
  await expect(
    ann.getByText(/this page shows change 1 after step 5; only the newest revision/i).first(),
  ).toBeVisible();
  await goTo(ann, `${plan}/failures?after=1.2&down=link:yard-line`);
  await expect(ann.getByTestId("stage")).toContainText("after step 2");
  await expect(ann.getByRole("link", { name: /^Restore / }).first()).toBeVisible();

  // An unverified order is reported; then everything is rolled back.
  await bob.reload();
  await ready(bob);
  await step(bob, /Remove the route 172\.20\.101\.0\/24/).check();
  await expect(standing(bob)).toContainText("performed in an unverified order");
  const progress = bob.getByRole("region", { name: "Progress" });
  await expect(progress).toContainText("172.20.101.0/24");
  await progress.getByRole("link", { name: "Show the network with the steps done so far" }).click();
  await expect(bob.getByTestId("stage")).toContainText("with the steps done so far");
  await goTo(bob, `${plan}/devices/office-core-1?after=1.t3`);
  await ready(bob);
  await expect(bob.locator('[data-destination="172.20.100.0/24"]')).toBeVisible();
  await expect(bob.locator('[data-destination="172.20.101.0/24"]')).toHaveCount(0);
  await expect(bob.locator('[data-destination="172.20.96.0/21"]')).toHaveCount(0);
  await goTo(bob, change);
  await ready(bob);
  await bob.getByRole("button", { name: "Roll back" }).click();
  // Only completed steps are rolled back, last one first; other viewers see that.
  await expect(standing(bob)).toContainText("Next: take back step");
  await expect(bob.getByRole("button", { name: "Rolling back: continue instead" })).toBeVisible();
  await step(bob, /Add the route 172\.20\.101\.0\/24/).click();
  await step(bob, /Remove the route 172\.20\.80\.0\/24 via 172\.20\.255\.14/).click();
  await step(bob, /Remove the route 172\.20\.80\.0\/24 via 172\.20\.0\.2/).click();
  await expect(standing(bob)).toContainText("No steps done yet");
  await bob.getByRole("button", { name: "Close as rolled back" }).click();
  await expect(state(bob)).toHaveText("rolled back");
  await expect(bob.getByRole("region", { name: "History" })).toContainText("Bob closed it as rolled back");

  // The draft is open again; another change of it is completed.
  await propose(ann, plan, { Title: "One summary, second night" });
  const second = new URL(ann.url()).pathname;
  await goTo(bob, second);
  await ready(bob);
  await bob.getByRole("button", { name: "Approve change" }).click();
  await expect(state(bob)).toHaveText("approved");
  const steps = bob.getByRole("checkbox", { name: /^\d+\. / });
  await expect(steps).toHaveCount(15);
  for (let n = 0; n < 15; n++) await steps.nth(n).check();
  await expect(standing(bob)).toContainText("All 15 steps are done");
  await bob.getByRole("button", { name: "Close as carried out" }).click();
  await expect(state(bob)).toHaveText("carried out");
  await goTo(bob, `${plan}/changes`);
  await expect(bob.getByRole("heading", { name: "No draft" })).toBeVisible();
  const table = bob.getByRole("region", { name: "Proposed changes" });
  await expect(table.getByRole("row").nth(1)).toContainText("carried out");
  await expect(table.getByRole("row").nth(2)).toContainText("rolled back");
  for (const one of [ann, bob]) await one.context().close();
});

test("a runbook on paper, as Markdown and JSON; its texts for devices; nothing serious for axe", async ({
  page,
}) => {
  const plan = await drafted(page);
  await propose(page, plan, { Title: "<img src=x onerror=alert(1)>", Notes: "one\ntwo" });
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("<img src=x onerror=alert(1)>");
  const out = async (as: string) => page.request.get(`${new URL(page.url()).pathname}/out?as=${as}`);
  const pdf = await out("pdf");
  expect([pdf.headers()["content-type"], (await pdf.body()).subarray(0, 5).toString()]).toEqual([
    "application/pdf",
    "%PDF-",
  ]);
  const html = await (await out("html")).text();
  expect(html).toContain("&lt;img src=x");
  expect(html).not.toContain("<img");
  expect((await (await out("json")).json()).runbook.visits).toHaveLength(5);
  expect(await (await out("md")).text()).toContain("## Visit 1: Office firewall");
  expect((await out("exe")).status()).toBe(400);

  const first = page.getByRole("listitem", { name: "Visit 1" });
  await page.getByRole("radio", { name: "iproute2" }).click();
  await expect(first).toContainText("route add 172.20.80.0/24 via 172.20.0.2 dev inside");
  await page.getByRole("radio", { name: "RESTCONF, JSON" }).click();
  await expect(first).toContainText("ietf-yang-patch:yang-patch");
  await page.getByRole("radio", { name: "NETCONF, XML" }).click();
  await expect(first).toContainText('nc:operation="create"');
  await expect(page.getByText("This format cannot express a watch.").first()).toBeVisible();
  for (const colorScheme of ["light", "dark"] as const) {
    await page.emulateMedia({ colorScheme });
    const { violations } = await new AxeBuilder({ page })
      .withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"])
      .analyze();
    expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0].html.slice(0, 120)}`)).toEqual([]);
  }
});

test("words of one's own for devices are tried on the real steps, say where they fail, and stand in the runbook", async ({
  page,
}) => {
  const plan = await drafted(page);
  await propose(page, plan, { Title: "One summary" });
  const change = new URL(page.url()).pathname;
  await page.getByRole("radio", { name: "Templates" }).click();
  await expect(page.getByText("No template for this device's profile.").first()).toBeVisible();
  await goTo(page, `${plan}/changes/templates`);
  await ready(page);
  await page.getByRole("combobox", { name: "Profile" }).click();
  await page.getByRole("option", { name: "classic-router" }).click();
  const source = page.getByLabel("Template for classic-router");
  await source.fill("first line\n{{ item.to | frobnicate }}");
  await expect(page.getByRole("status").filter({ hasText: "Line 2" })).toContainText(
    "undefined filter: frobnicate",
  );
  await expect(page.getByRole("button", { name: "Save" })).toBeDisabled();
  await source.fill("{% for i in (1..100000000) %}x{% endfor %}");
  await expect(page.getByRole("region", { name: "Preview" })).toContainText(
    "The template fails here, in line 1: memory alloc limit",
  );
  await source.fill(
    "{% if kind == 'route' %}road {{ action }} {{ item.to }}{% else %}{{ sentence }}{% endif %}",
  );
  await expect(page.getByRole("region", { name: "Preview" })).toContainText("road add 172.20.96.0/21");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("Saved.")).toBeVisible();
  await goTo(page, change);
  await ready(page);
  await page.getByRole("radio", { name: "Templates" }).click();
  await expect(page.getByRole("listitem", { name: "Visit 4" })).toContainText("road remove 172.20.96.0/24");
});

test("any two revisions are compared; an older one is brought back as a draft; what is made anew takes the place of a change", async ({
  page,
}) => {
  const plan = await drafted(page);
  await propose(page, plan, { Title: "One summary" });
  await goTo(page, `${plan}/changes`);
  await ready(page);
  await page.getByLabel("Compare revision").fill("1");
  await page.getByLabel("with", { exact: true }).fill("2");
  await page.getByRole("button", { name: "Compare" }).click();
  const comparison = page.getByRole("region", { name: "Comparison" });
  await expect(comparison.locator('[data-flow="cameras"]')).toContainText("works");
  await expect(comparison).toContainText("no longer survives watch longhaven of Office core 1");
  await goTo(page, `${plan}/changes?from=1&to=99`);
  await expect(page.getByRole("alert")).toContainText("Enter two revisions from 1 to 2");

  await goTo(page, `${plan}/changes`);
  await ready(page);
  await page.getByRole("button", { name: "Restore revision 1" }).click();
  await page.getByRole("button", { name: "Restore as draft" }).click();
  await expect(page.getByText("Revision 3", { exact: true }).first()).toBeVisible();
  await expect(page.getByRole("region", { name: "History" })).toContainText("Restore revision 1");
  await expect(page.getByRole("heading", { name: "No draft" })).toBeVisible();

  // The earlier change is unchanged, and says that the plan has moved on.
  await goTo(page, `${plan}/changes/1`);
  await ready(page);
  await expect(page.getByText(/The plan has since moved on to revision 3\./)).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByText("Revision 4", { exact: true }).first()).toBeVisible();
  await page.getByRole("button", { name: /^Update to revision 4/ }).click();
  await page.getByRole("button", { name: "Propose again" }).click();
  await page.waitForURL(/\/changes\/2$/);
  await goTo(page, `${plan}/changes/1`);
  await expect(state(page)).toHaveText("withdrawn");
  await goTo(page, `${plan}/changes/2`);
  await page.getByRole("button", { name: "Withdraw" }).click();
  await page.getByRole("button", { name: "Withdraw change" }).click();
  await expect(state(page)).toHaveText("withdrawn");
});

test("what is not there is said so: changes, stages, events", async ({ page }) => {
  const plan = await freshPlan(page, "three-routers");
  for (const path of ["changes/1", "changes/x", "changes/1/out?as=json", "map?after=1.2", "changes/1/events"])
    expect((await page.request.get(`${plan}/${path}`)).status(), path).toBe(404);
  await goTo(page, `${plan}/changes/1`);
  await expect(page.getByText(/no change 1/)).toBeVisible();
});
