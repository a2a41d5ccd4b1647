import { expect, type Route, test } from "@playwright/test";
import { expectAnswer, freshPlan, goTo, ready, unopenedPlan } from "./plan.ts";

test("a save that fails keeps the page and what was typed, and says so", async ({ page }) => {
  const plan = await unopenedPlan(page, "three-routers");
  await goTo(page, `${plan}/devices/middle`);
  await ready(page);
  const line = page.getByLabel("Route as one line");
  await line.fill("10.77.0.0/16 via 10.0.23.2");
  await page.route("**/edit.data", (route) => route.abort());
  await line.press("Enter");
  await expect(page.getByText(/Not saved: the server is not responding/).first()).toBeVisible();
  await expect(line).toHaveValue("10.77.0.0/16 via 10.0.23.2");
  await page.unroute("**/edit.data");
  await line.press("Enter");
  await expect(page.getByText("Revision 2")).toBeVisible();
  await expect(page.locator('[data-destination="10.77.0.0/16"]')).toBeVisible();
});

test("what is down in the conditions is the failure in time", async ({ page }) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/timeline?down=link:tern-north`);
  await ready(page);
  await expect(page.getByText("The elements that are already failed fail at 0 s")).toBeVisible();
  await expect(page.locator('[data-gap="tickets"]')).toContainText("down for");
  await page.getByRole("button", { name: "Run simulation" }).click();
  await expect(page.locator('[data-gap="tickets"]')).toContainText("down for");
  // Chosen again by name, it is the same failure.
  await goTo(page, `${plan}/timeline?down=link:tern-north&fail=link:tern-north`);
  await expect(page.locator('[data-gap="tickets"]')).toContainText("down for");
});

test("a plan without flows says that nothing was asked, and proposes some", async ({ page }) => {
  await goTo(page, "/plans");
  const document = {
    ironFork: 1,
    name: "Nothing asked",
    devices: [
      { id: "left", role: "router", interfaces: [{ name: "e", addresses: ["10.0.0.1/30"] }] },
      { id: "right", role: "router", interfaces: [{ name: "e", addresses: ["10.0.0.2/30"] }] },
    ],
    links: [{ id: "l", ends: ["left/e", "right/e"] }],
  };
  await page.getByRole("button", { name: "Paste text" }).click();
  await page.getByLabel("Plan document, YAML or JSON").fill(JSON.stringify(document));
  await page.getByRole("button", { name: "Import" }).click();
  await page.waitForURL(/\/plans\/\d+\/map/);
  const plan = new URL(page.url()).pathname.replace("/map", "");
  for (const name of ["failures", "paths", "findings"]) {
    await goTo(page, `${plan}/${name}`);
    await expect(page.getByRole("region", { name: "No flows" })).toContainText("No flows yet.");
    await expect(page.getByText("Every flow survives")).toHaveCount(0);
  }
  await goTo(page, "/plans");
  const card = page.getByRole("listitem").filter({ hasText: "Nothing asked" }).last();
  await card.scrollIntoViewIfNeeded();
  await expect(card).toContainText("No flows defined");
  await goTo(page, `${plan}/paths`);
  await ready(page);
  await page.getByRole("button", { name: "Add 2 proposed flows" }).click();
  await expect(page.getByText("All 2 flows work")).toBeVisible();
});

test("a cloud network whose traffic passes an appliance in its own subnet works, on the map and on the board", async ({
  page,
}) => {
  const plan = await unopenedPlan(page, "cases/cloud-table-on-the-appliance");
  await goTo(page, `${plan}/findings`);
  await ready(page);
  const finding = page.locator('[data-finding="cloud-table-on-appliance"]');
  await finding.getByRole("button", { name: /^Fix: Detach/ }).click();
  await finding.getByRole("button", { name: "Apply" }).click();
  await expect(page.getByText("Revision 2")).toBeVisible();
  await goTo(page, `${plan}/map?flow=app-web`);
  await expectAnswer(page, /works|Carried by/);
  await goTo(page, `${plan}/failures`);
  await expect(page.getByTestId("sweep-status")).toContainText("Complete.");
  await expect(page.locator('[data-row="app-web"]')).not.toContainText("loop");
});

for (const [what, told, answer] of [
  ["cannot be worked out", "No summary", (route: Route) => route.abort()],
  ["is being worked out for long", "Computing summary …", () => undefined],
] as const)
  test(`a plan that ${what} stands in the list, and can be deleted there`, async ({ page }) => {
    const plan = await freshPlan(page, "three-routers");
    const id = plan.split("/").at(-1) as string;
    await page.route(`**/plans/${id}/sheet`, answer);
    const asked = page.waitForRequest(`**/plans/${id}/sheet`);
    await page.goto("/plans");
    const card = page.getByRole("listitem").filter({ has: page.locator(`a[href="/plans/${id}/map"]`) });
    await ready(page);
    await card.scrollIntoViewIfNeeded();
    await asked;
    await expect(card).toContainText(told);
    await card.getByText("Delete", { exact: true }).click();
    await page.getByRole("alertdialog").getByRole("button", { name: "Delete plan" }).click();
    await expect(card).toHaveCount(0, { timeout: 10_000 });
  });
