import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { expect, type Page } from "@playwright/test";
import { fleet } from "../../bench/fleet.ts";
import { createPlan } from "../../server/plans.ts";
import { database } from "../../server/pool.ts";

/** Loads a fresh copy of a demo plan through the interface and gives its address, such as /plans/7. */
export async function freshPlan(
  page: Page,
  name: "marrow-bay" | "three-routers" | `cases/${string}` = "marrow-bay",
): Promise<string> {
  const text = readFileSync(new URL(`../../demo/${name}.yaml`, import.meta.url), "utf8");
  await page.goto("/plans");
  await page.getByLabel("or pasted here").fill(text);
  await page.getByRole("button", { name: "Read the document" }).click();
  await page.waitForURL(/\/plans\/\d+\/map/);
  await expect(page.getByRole("combobox")).toBeVisible();
  return new URL(page.url()).pathname.replace("/map", "");
}

/** Keeps a generated plan of 120 devices and 200 flows, too large for a page to sweep by itself; its number. */
export async function largePlan(): Promise<string> {
  const plan = fleet({ devices: 120, links: 260, flows: 200, routes: 1500 });
  const id = await createPlan(plan, { session: randomUUID(), name: "Ann" }, "test");
  await database().end();
  return id;
}

/** The page's scripts are running: what is typed and clicked from here on is handled by them. */
export async function ready(page: Page) {
  await page.waitForLoadState("networkidle");
}

/** What the interface says of the chosen flow. */
export async function expectAnswer(page: Page, headline: string | RegExp, ...why: (string | RegExp)[]) {
  await expect(page.getByTestId("headline")).toHaveText(headline);
  for (const text of why) await expect(page.getByTestId("why")).toContainText(text);
}
