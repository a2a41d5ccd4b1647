import { expect, test } from "@playwright/test";
import { freshPlan, ready } from "./plan.ts";

test("an address pins a revision, with its conditions and the part of the map that was seen", async ({
  page,
  context,
}) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  const plan = await freshPlan(page);
  await page.goto(`${plan}/map?down=link:north-ring`);
  await ready(page);
  await page.getByRole("button", { name: "Zoom in" }).click();
  await page.getByRole("button", { name: "Zoom in" }).click();
  const drawing = page.getByRole("group", { name: "Network map" });
  const seen = await drawing.getAttribute("viewBox");
  await page.getByRole("button", { name: "Export" }).click();
  await page.getByRole("menuitem", { name: "Link to this view" }).click();
  await expect(page.getByText("Link copied.", { exact: true })).toBeVisible();
  const link = await page.evaluate(() => navigator.clipboard.readText());
  expect(link).toContain("revision=1");
  expect(link).toContain("down=link");

  // The plan moves on; the link still shows the old revision.
  await page.goto(`${plan}/devices/tern-edge`);
  await ready(page);
  await page.getByLabel("Route as one line").fill("10.99.0.0/16 discard");
  await page.getByRole("button", { name: "Add route" }).click();
  await expect(page.getByText("Revision 2")).toBeVisible();
  await page.goto(link);
  await ready(page);
  await expect(page.getByText("Revision 1 of 2.")).toBeVisible();
  const numbers = (text: string | null) => (text ?? "").split(" ").map((n) => Math.round(Number(n)));
  expect(numbers(await drawing.getAttribute("viewBox"))).toEqual(numbers(seen));
  await expect(page.getByRole("link", { name: "Restore North fibre ring" }).first()).toBeVisible();

  // The revision is kept on other pages, where editing is disabled.
  await page.getByRole("button", { name: "Fit" }).click();
  await page.getByRole("link", { name: "Routes of Tern Point edge" }).click();
  await expect(page.getByText("Revision 1 of 2.")).toBeVisible();
  await expect(page.locator('[data-destination="10.99.0.0/16"]')).toHaveCount(0);
  await page.getByLabel("Route as one line").fill("10.98.0.0/16 discard");
  await page.getByRole("button", { name: "Add route" }).click();
  await expect(page.getByRole("alert").first()).toContainText("only the newest revision, 2, can be edited");
  await expect(page.getByLabel("Route as one line")).toHaveValue("10.98.0.0/16 discard");
  await page.getByRole("link", { name: "Show newest" }).click();
  await expect(page.locator('[data-destination="10.99.0.0/16"]')).toHaveCount(1);

  await page.goto(`${plan}/map?revision=9`);
  await expect(page.getByText("The plan has no revision 9; the newest is 2.")).toBeVisible();
});

test("a past revision is opened from the history", async ({ page }) => {
  const plan = await freshPlan(page);
  await page.goto(`${plan}/devices/tern-edge`);
  await ready(page);
  await page.getByLabel("Route as one line").fill("10.99.0.0/16 discard");
  await page.getByRole("button", { name: "Add route" }).click();
  await expect(page.getByText("Revision 2")).toBeVisible();
  await page.goto(`${plan}/changes`);
  await page.getByRole("link", { name: "Open revision 1" }).click();
  await expect(page.getByText("Revision 1 of 2.")).toBeVisible();
});

test("an outage is written step by step, run, and changed", async ({ page }) => {
  const plan = await freshPlan(page);
  await page.goto(`${plan}/timeline`);
  await ready(page);
  await page.getByRole("button", { name: "Add outage" }).click();
  const window = page.getByRole("dialog", { name: "Add outage" });
  await window.getByLabel("Name").fill("Both ways, one after the other");
  await window.getByRole("combobox", { name: "Fails" }).first().fill("link:tern-north");
  await window.getByLabel("Time of another step").fill("30 s");
  await window.getByRole("combobox", { name: "Fails" }).nth(1).fill("link:nowhere");
  await window.getByRole("button", { name: "Add outage" }).click();
  await expect(window.getByRole("alert")).toHaveText("there is no link nowhere");
  await window.getByRole("combobox", { name: "Fails" }).nth(1).fill("link:tern-radio");
  await window.getByRole("button", { name: "Add outage" }).click();
  await expect(window).toHaveCount(0);
  await page.getByRole("link", { name: "Both ways, one after the other" }).click();
  const happens = page.getByRole("region", { name: "Events" });
  await expect(happens.getByRole("button", { name: "Stop at 30 s" }).first()).toBeVisible();
  await page.getByRole("button", { name: "Edit the outage Both ways" }).click();
  await page.getByLabel("Time of step 2").fill("45 s");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(happens.getByRole("button", { name: "Stop at 45 s" }).first()).toBeVisible();
});
