import type { Page } from "@playwright/test";
import { importPlan, openBrowser } from "./browser.ts";
import { fleet } from "./fleet.ts";

/**
 * How soon the desk's preview follows a keystroke, in a real browser, on a generated plan of 200 devices:
 * npm run bench:preview -- URL. The time runs from the key going down to the preview of that very line being shown.
 */
const base = process.argv[2] ?? "http://127.0.0.1:3000";
const plan = fleet({ devices: 200, links: 400, flows: 100, routes: 4000 });

/**
 * Runs in the page: how long from the next input until the preview of the line as it then stands. As text, for
 * the page knows nothing of what a compiler leaves in a function.
 */
const timeToPreview = `new Promise((done) => {
  const input = document.querySelector("[aria-label='Route as one line']");
  input.addEventListener("input", () => {
    const start = performance.now();
    const look = () => {
      const preview = document.querySelector("[data-testid=preview][data-settled]");
      const of = preview ? preview.getAttribute("data-edit") : "";
      const wanted = (input.value.split(" note ")[1] || "").trim();
      if (of.includes('"note":"' + wanted + '"')) done(performance.now() - start);
      else requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  }, { once: true });
})`;

const { browser, page } = await openBrowser();
const id = await importPlan(page, base, plan);

const rows: string[] = [];
// The failed element: a link between two hubs, as during an outage.
const failed = plan.links.find((link) => link.ends.every((end) => end.startsWith("hub-")))?.id;
for (const [device, start, down] of [
  ["site-3", "10.0.90.0/24 via", ""],
  ["hub-2", "10.0.90.0/25 via", ""],
  ["hub-2", "default via", ""],
  ["hub-2", "10.0.90.0/25 via", `?down=link:${failed}`],
]) {
  const own = plan.devices.find((entry) => entry.id === device);
  const via = own?.routes.find((route) => route.via)?.via;
  const address = `${base}/plans/${id}/devices/${device}${down}`;
  const times = await keystrokes(page, address, `${start} ${via} distance 7`);
  times.sort((a, b) => a - b);
  const at = (share: number) =>
    times[Math.min(times.length - 1, Math.floor(times.length * share))].toFixed(0);
  const under = down ? " (one link down)" : "";
  rows.push(
    `| ${device}: ${start} …${under} | ${times.length} | ${at(0.5)} ms | ${at(0.95)} ms | ${at(1)} ms |`,
  );
}
console.log("| route typed on | keystrokes | median | 95 of 100 | slowest |\n|---|---|---|---|---|");
console.log(rows.join("\n"));
await browser.close();

/** Types letters of a note behind a route, one at a time, and times each until its preview is there. */
async function keystrokes(on: Page, url: string, line: string): Promise<number[]> {
  await on.goto(url, { waitUntil: "networkidle" });
  const field = on.getByLabel("Route as one line");
  await field.fill(`${line} note x`);
  await on.locator("[data-testid=preview][data-settled]").waitFor({ timeout: 30_000 });
  await on.waitForTimeout(9000);
  await field.focus();
  await field.press("End");
  const times: number[] = [];
  for (const letter of "the quick ferry crosses the bay") {
    const typed = on.evaluate(timeToPreview) as Promise<number>;
    await on.waitForTimeout(40);
    await on.keyboard.press(letter === " " ? "Space" : letter);
    times.push(await typed);
    await on.waitForTimeout(60);
  }
  return times;
}
