import { expect } from "@playwright/test";
import { goTo, ready } from "./plan.ts";
import { test } from "./visitor.ts";

const down = "down=link:tern-north";
const pages = [
  "map?flow=tickets",
  "findings",
  "routes",
  "routes?by=device",
  "devices/tern-edge",
  "desk",
  "summaries",
  "paths",
  "paths?flow=tickets",
  "outages",
  "time",
  "report",
  "changes",
];

for (const path of pages) {
  test(`every way on from ${path} keeps what is down`, async ({ visitor: page }) => {
    await goTo(page, `/plans/1/${path}${path.includes("?") ? "&" : "?"}${down}`);
    await ready(page);
    await expect(page.getByRole("link", { name: /^Restore / }).first()).toBeVisible();
    const links = await page.locator('a[href*="/plans/1/"], a[href^="?"]').evaluateAll((all) =>
      all.map((link) => ({
        href: link.getAttribute("href") ?? "",
        name: link.getAttribute("aria-label") ?? link.textContent ?? "",
      })),
    );
    expect(links.length).toBeGreaterThan(5);
    const lost = links.filter(
      ({ href, name }) =>
        !decodeURIComponent(href).includes(down) &&
        !/^Restore |\/document\?/.test(`${name}${href}`) &&
        !/\/time\?/.test(href),
    );
    expect(lost).toEqual([]);
    for (const form of await page.locator("form[method=get]").all()) {
      const action = (await form.getAttribute("action")) ?? "";
      if (action.includes("/search")) continue;
      await expect(
        form.locator('input[name="down"]').or(form.locator('[data-keeps="down"]')).first(),
        action,
      ).toBeAttached();
    }
  });
}
