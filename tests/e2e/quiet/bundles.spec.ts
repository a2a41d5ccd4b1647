import { expect, test } from "@playwright/test";
import { bundleOf } from "../../../bench/bundle.ts";
import { fleet } from "../../../bench/fleet.ts";
import { pack } from "../../../exchange/archive.ts";
import { longestStall } from "../../fuzz/run.ts";
import { freshPlan, ready } from "../plan.ts";

// Timed tests run alone, after all others.

const bundle = (devices: number) =>
  Buffer.from(pack(bundleOf(fleet({ devices, links: devices * 2, flows: 10, routes: devices * 20 }))));

test("a bundle of 60 devices, five files each, is a plan within five seconds", async ({ page }) => {
  const plan = await freshPlan(page, "three-routers");
  await page.goto(`${plan}/import`);
  await ready(page);
  const file = { name: "fleet.zip", mimeType: "application/zip", buffer: bundle(60) };
  const started = Date.now();
  await page.getByLabel("Choose files").setInputFiles(file);
  await expect(page.getByTestId("read-summary")).toContainText("(59 new)");
  await page.getByRole("button", { name: "Import into plan" }).click();
  await expect(page.getByText("Imported as revision 2.")).toBeVisible();
  expect(Date.now() - started).toBeLessThan(5000);
});

test("an archive of 1,000 devices is read on the server, which goes on answering", async ({
  page,
  baseURL,
}) => {
  test.setTimeout(180_000);
  const plan = await freshPlan(page, "three-routers");
  await page.goto(`${plan}/import`);
  await ready(page);
  const form = page.getByRole("region", { name: "Import on the server" });
  const file = { name: "fleet.zip", mimeType: "application/zip", buffer: bundle(1000) };
  await page.getByLabel("Choose files").setInputFiles(file);
  await form.getByRole("button", { name: "Import on server" }).click();
  await expect(form.getByRole("status")).toContainText("Importing …");
  expect(await longestStall(baseURL as string)).toBeLessThan(500);
  await expect(form.getByRole("status")).toContainText("Imported as revision 2", { timeout: 90_000 });
});
