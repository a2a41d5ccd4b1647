import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { chromium } from "@playwright/test";
import { readPlanText } from "../exchange/plan-text.ts";
import { writeFiles } from "../exchange/writers/index.ts";
import { findChromium } from "../server/chromium.ts";

/** Takes the pictures of docs/screenshots from a running application with fresh demo plans: npm run pictures -- URL, with names for some of them. */
const base = process.argv[2] ?? "http://127.0.0.1:3000";
const only = process.argv.slice(3);
const folder = fileURLToPath(new URL("../docs/screenshots/", import.meta.url));

const views: Record<string, string> = {
  plans: "/plans",
  map: "/plans/1/map?flow=tickets&down=link:tern-north",
  routes: "/plans/1/routes?down=link:tern-north&state=unusable&state=standby",
  device: "/plans/1/devices/tern-edge?down=link:tern-north",
  paths: "/plans/1/paths?flow=tickets&down=link:tern-north",
  network: "/plans/1/map?edit=device:skerry-edge",
  "add-routes": "/plans/1/devices/skerry-edge",
  import: "/plans/1/import",
  topology: "/plans/1/topology",
  drift: "/plans/1/import",
  summaries: "/plans/1/summaries",
  findings: "/plans/1/findings",
  failures: "/plans/1/failures",
  timeline: "/plans/1/timeline?outage=north-dark",
  moment: "/plans/1/map?outage=north-dark&at=0&flow=tickets",
  observed: "/plans/1/timeline?outage=longhaven-cut",
  changes: "/plans/3/changes",
  change: "/plans/3/changes",
  accounts: "/accounts",
};

/** What a device of no particular make could say. */
const shed = `  kind   network          towards        port    cost
  H      0.0.0.0/0        172.20.0.33    up         5
  O      172.20.0.32/30   -              up         0
  O      172.20.112.0/24  -              lan        0
  H      172.20.0.0/16    172.20.0.33    up        10
                          172.20.0.41    mast      10
  12 more lines are hidden
`;

/** Device output of the demo, with a manual change on each. */
const changedByHand: Record<string, (text: string) => string> = {
  "office-core-1": (text) => text.replace("172.20.96.0/24", "172.20.112.0/24"),
  "hall-router": (text) => text.replace("172.20.64.0/24", "172.20.65.0/24"),
};
function told(device: string): string {
  const read = readPlanText(readFileSync(new URL("../demo/marrow-bay.yaml", import.meta.url), "utf8"));
  if (!read.ok) throw new Error("the demo cannot be read");
  return writeFiles(read.plan, "ietf-json", device)[0].text;
}

const browser = await chromium.launch({
  executablePath: findChromium() ?? undefined,
  args: ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update"],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
for (const [name, path] of Object.entries(views)) {
  if (only.length > 0 && !only.includes(name)) continue;
  await page.goto(`${base}${path}`, { waitUntil: "load" });
  await page.locator("html[data-ready]").waitFor({ state: "attached" });
  await page.waitForTimeout(1500);
  if (name === "plans") await page.getByText("Computing summary").first().waitFor({ state: "hidden" });
  if (name === "import") {
    await page.getByLabel("Device", { exact: true }).fill("ferry-shed");
    await page.getByLabel("Device output").fill(shed);
    await page.getByRole("button", { name: "Read text" }).click();
    await page.getByTestId("read-summary").waitFor();
    await page.getByRole("tab", { name: "Tables 1" }).click();
    await page.getByRole("button", { name: "172.20.0.33: next hop" }).first().click();
    await page.waitForTimeout(500);
  }
  if (name === "topology") {
    await page.getByRole("button", { name: "Insert example" }).click();
    await page.getByRole("button", { name: "Draw topology" }).click();
    await page.locator('[data-line="5"]').click();
    await page.waitForTimeout(300);
  }
  if (name === "drift") {
    for (const [device, change] of Object.entries(changedByHand)) {
      await page.getByLabel("Device", { exact: true }).fill(device);
      await page.getByLabel("Device output").fill(change(told(device)));
      await page.getByRole("button", { name: "Read text" }).click();
    }
    await page.getByTestId("read-summary").waitFor();
    await page.getByRole("button", { name: "Save readings only" }).click();
    await page.getByText("Readings of").waitFor();
    await page.goto(`${base}/plans/1/drift`, { waitUntil: "load" });
    await page.getByRole("checkbox").first().check();
  }
  if (name === "add-routes") {
    await page.getByLabel("Route as one line").fill("default via 172.20.255.29 distance 20");
    await page.locator("[data-testid=preview][data-settled]").waitFor();
    await page.getByText("New finding").waitFor();
  }
  if (name === "findings") await page.getByText("Verifying fixes").waitFor({ state: "hidden" });
  if (name === "changes") await page.getByRole("button", { name: "Propose change" }).waitFor();
  if (name === "change") {
    await page.getByRole("button", { name: "Propose change" }).click();
    await page.getByLabel("Reference").fill("MB-2041");
    await page.getByLabel("Window from").fill("2027-03-05 22:00");
    await page.getByRole("button", { name: "Propose change" }).click();
    await page.getByRole("button", { name: "Approve change" }).click();
    for (let n = 0; n < 4; n++) await page.getByRole("checkbox").nth(n).check();
    await page.getByRole("radio", { name: "iproute2" }).click();
    await page.waitForTimeout(500);
  }
  if (name === "failures") await page.getByText("Complete.").first().waitFor();
  if (["timeline", "observed"].includes(name))
    await page.locator(".apexcharts-rangebar-area").last().waitFor({ state: "attached" });
  if (name === "observed") {
    await page.getByRole("button", { name: "Rehearse in the lab" }).click();
    await page.getByTestId("rehearsal").waitFor({ timeout: 120_000 });
    await page.getByRole("button", { name: "Use demo capture" }).click();
    await page.getByTestId("agreement").waitFor();
    await page.getByRole("region", { name: "Observed" }).evaluate((part) => part.scrollIntoView());
  }
  await page.screenshot({ path: `${folder}${name}.png` });
  console.log(`${name}.png`);
}
await browser.close();
