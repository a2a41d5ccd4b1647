import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { expect, type Page, test } from "@playwright/test";
import { fleet } from "../../bench/fleet.ts";
import type { Plan } from "../../core/plan/index.ts";
import { writePlanText } from "../../exchange/plan-text.ts";
import { createPlan } from "../../server/plans.ts";
import { database } from "../../server/pool.ts";

type DemoName = "marrow-bay" | "three-routers" | `cases/${string}`;

/** Loads a fresh copy of a demo plan, as its form would, opens its map and gives its address, such as /plans/7. */
export async function freshPlan(page: Page, name: DemoName = "marrow-bay"): Promise<string> {
  const plan = await unopenedPlan(page, name);
  await page.goto(`${plan}/map`);
  await expect(page.getByRole("combobox")).toBeVisible();
  return plan;
}

/** The same without opening it. */
export async function unopenedPlan(page: Page, name: DemoName = "marrow-bay"): Promise<string> {
  const text = readFileSync(new URL(`../../demo/${name}.yaml`, import.meta.url), "utf8");
  const made = await page.request.post("/plans", {
    multipart: { do: "read", text },
    headers: { Origin: new URL(test.info().project.use.baseURL as string).origin },
    maxRedirects: 0,
  });
  const plan = /\/plans\/\d+/.exec(made.headers().location ?? "")?.[0];
  if (!plan) throw new Error(`the plan was not taken: ${made.status()}`);
  return plan;
}

/** Navigates like a link of the application. The first visit loads the page; tests about loading use `page.goto`. */
export async function goTo(page: Page, address: string) {
  if (page.url() === "about:blank") {
    const answer = await page.goto(address);
    // A page that was not answered has no scripts that anything could be asked of later.
    expect(answer?.status(), `${address} was not answered: ${await page.title()}`).toBeLessThan(500);
    return;
  }
  await ready(page);
  await page.evaluate(async (to) => {
    const { __reactRouterDataRouter: router } = globalThis as unknown as {
      __reactRouterDataRouter: { navigate(to: string): Promise<void> };
    };
    await router.navigate(to);
  }, address);
  await ready(page);
}

/** Stores a generated plan of 120 devices and 200 flows, too large for a page to sweep; returns its number. */
export async function largePlan(): Promise<string> {
  const plan = fleet({ devices: 120, links: 260, flows: 200, routes: 1500 });
  const id = await createPlan(plan, { session: randomUUID(), name: "Ann" }, "test");
  await database().end();
  return id;
}

/** Keeps a plan as its form would; its number. */
export async function keepPlan(page: Page, plan: Plan): Promise<string> {
  const made = await page.request.post("/plans", {
    multipart: { do: "read", text: writePlanText(plan, "json") },
    headers: { Origin: new URL(test.info().project.use.baseURL as string).origin },
    maxRedirects: 0,
  });
  const id = /\/plans\/(\d+)/.exec(made.headers().location ?? "")?.[1];
  if (!id) throw new Error(`the plan was not taken: ${made.status()}`);
  return id;
}

/** The page's scripts are running and show the address's content: further input goes to that screen, not to the
 * previous one, which stays until the next is drawn. */
export async function ready(page: Page) {
  await page.locator("html[data-ready]").waitFor({ state: "attached" });
  const drawn = () => document.documentElement.dataset.ready === (history.state?.key ?? "default");
  await expect.poll(() => page.evaluate(drawn)).toBe(true);
}

/** What the interface says of the chosen flow. */
export async function expectAnswer(page: Page, headline: string | RegExp, ...why: (string | RegExp)[]) {
  await expect(page.getByTestId("headline")).toHaveText(headline);
  for (const text of why) await expect(page.getByTestId("why")).toContainText(text);
}
