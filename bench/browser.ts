import { type Browser, chromium, type Page } from "@playwright/test";
import type { Plan } from "../core/plan/index.ts";
import { writePlanText } from "../exchange/plan-text.ts";
import { findChromium } from "../server/chromium.ts";

/** A browser with a page of the size at which screens are looked at. */
export async function openBrowser(): Promise<{ browser: Browser; page: Page }> {
  const browser = await chromium.launch({
    executablePath: findChromium() ?? undefined,
    args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update"],
  });
  return { browser, page: await browser.newPage({ viewport: { width: 1280, height: 800 } }) };
}

/** Imports a plan as a user would; its number. The page is left on its map. */
export async function importPlan(page: Page, base: string, plan: Plan): Promise<string> {
  await page.goto(`${base}/plans`, { waitUntil: "networkidle" });
  await page.getByLabel("Choose file").setInputFiles({
    name: "fleet.json",
    mimeType: "application/json",
    buffer: Buffer.from(writePlanText(plan, "json")),
  });
  await page.waitForURL(/\/plans\/\d+\/map/, { timeout: 120_000 });
  return /plans\/(\d+)/.exec(page.url())?.[1] ?? "";
}
