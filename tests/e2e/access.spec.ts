import AxeBuilder from "@axe-core/playwright";
import { expect } from "@playwright/test";
import { goTo, ready } from "./plan.ts";
import { test } from "./visitor.ts";

const screens = {
  Plans: "/plans",
  Map: "/plans/1/map?flow=tickets&down=link:tern-north",
  Routes: "/plans/1/routes?find=172.20.0.0/16&down=link:tern-north",
  "Routes, by device": "/plans/1/routes?by=device",
  "Device, a policy rule": "/plans/1/devices/office-fw?edit=rule:0",
  "Device, a translation": "/plans/1/devices/office-fw?edit=nat:0",
  "Network, a profile": "/plans/1/map?edit=new:profile",
  Device: "/plans/1/devices/tern-edge?lookup=203.0.113.70&down=link:tern-north",
  Paths: "/plans/1/paths?flow=cameras",
  "Paths, all flows": "/plans/1/paths",
  "Paths, the grid": "/plans/1/paths?grid=",
  "Device, edited": "/plans/1/devices/tern-edge?edit=watch:",
  "Network, edited": "/plans/1/map?edit=device:skerry-edge",
  "Network, a new link": "/plans/1/map?edit=new:link",
  "Network, a pasted list": "/plans/1/map?edit=new:list",
  "Add routes": "/plans/1/add-routes",
  Exchange: "/plans/1/import",
  "Devices that are read": "/plans/1/polling",
  Drift: "/plans/1/drift",
  "Topology from a route table": "/plans/1/topology",
  "The book": "/plans/1/network-report",
  Summaries: "/plans/1/summaries",
  Outages: "/plans/1/failures?case=tickets&with=link:north-ring",
  "Outage timeline": "/plans/1/timeline?fail=link:tern-north&heal=60000",
  "Outage timeline, side by side": "/plans/1/timeline?outage=north-dark&beside=outage:ring-silent",
  "A moment of an outage": "/plans/1/map?outage=north-dark&at=0&flow=tickets",
  Report: "/plans/1/failure-report?flow=tickets",
  Findings: "/plans/1/findings",
  Changes: "/plans/1/changes",
  "Changes, a draft": "/plans/3/changes",
  "Changes, two revisions": "/plans/3/changes?from=1&to=2",
  "Device templates": "/plans/3/changes/templates",
  Search: "/search?q=172.20.33.7",
};

/** The devices of the book beyond the second: their pages are of the same parts. */
const ALIKE = "section[id^=device-] ~ section[id^=device-] ~ section[id^=device-]";

test.describe.configure({ mode: "parallel" });

// Half of the screens are looked at in the dark too, another half each time: what differs there is colours alone.
const half = Number(process.env.SEED ?? Math.floor(Math.random() * 2)) % 2;

for (const [n, [name, path]] of Object.entries(screens).entries()) {
  test(`axe finds nothing serious on ${name}`, async ({ visitor: page }) => {
    await goTo(page, path);
    await ready(page);
    // An error's page would pass too, and be another.
    await expect(
      page.getByRole("heading", { name: /^(Something went wrong|This cannot be|There is no)/ }),
    ).toHaveCount(0);
    // Pending content ends with three dots; some of it only loads once visible.
    await expect(async () => {
      const open = page.locator("main").getByText(/ing(?: .*)? …$/);
      for (const one of await open.all()) await one.scrollIntoViewIfNeeded({ timeout: 1000 });
      await expect(open).toHaveCount(0, { timeout: 1000 });
    }).toPass({ timeout: 60_000 });
    for (const colorScheme of n % 2 === half ? (["light", "dark"] as const) : (["light"] as const)) {
      await page.emulateMedia({ colorScheme });
      const axe = new AxeBuilder({ page })
        .options({ resultTypes: ["violations"], preload: false })
        .exclude(ALIKE);
      // Checks that do not depend on colors run once.
      const { violations } = await (colorScheme === "light"
        ? axe.withTags(["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"])
        : axe.withRules("color-contrast")
      ).analyze();
      const serious = violations.filter((v) => v.impact === "serious" || v.impact === "critical");
      expect(
        serious.map((v) => `${v.id}: ${v.nodes.map((node) => node.html.slice(0, 120)).join(" | ")}`),
      ).toEqual([]);
    }
  });
}

test("the map can be worked by keyboard alone", async ({ page }) => {
  await page.goto("/plans/1/map?flow=tickets");
  await ready(page);
  const link = page.getByRole("link", { name: "Fail Tern Point – North fibre" });
  await link.focus();
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("headline")).toHaveText("Carried by Bay radio");
  await page.keyboard.press("/");
  await page.keyboard.type("restore tern point");
  await expect(page.getByRole("option", { name: /Restore Tern Point/ })).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("headline")).toHaveText("Carried by North fibre");
});
