import { importPlan, openBrowser } from "./browser.ts";
import { fleet } from "./fleet.ts";

/**
 * How long sweeps take as a user waits for them: npm run bench:sweeps -- URL, against a running application with
 * the demo as plan 1 and a worker. From the click, or the address, to the whole board: the demo's in the page's own
 * worker, those of a generated plan of 1,000 devices by the server's.
 */
const base = process.argv[2] ?? "http://127.0.0.1:3000";

const { browser, page } = await openBrowser();
const status = page.getByTestId("sweep-status");
const rows: string[] = [];

/** In the page: from the click on a button of the depths to its complete board. As text, as the page needs it. */
const timeOfClick = (text: string, depth: number) => `new Promise((done) => {
  const link = [...document.querySelectorAll("main a")].find((a) => a.textContent === ${JSON.stringify(text)});
  const start = performance.now();
  link.click();
  const look = () => {
    const now = document.querySelector("[data-testid=sweep-status]").textContent;
    if (now.includes("up to ${depth}") && now.includes("Complete")) done(performance.now() - start);
    else requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
})`;

const demo: number[] = [];
for (let round = 0; round < 5; round++) {
  await page.goto(`${base}/plans/1/failures`, { waitUntil: "networkidle" });
  await status.filter({ hasText: "Complete" }).waitFor();
  demo.push((await page.evaluate(timeOfClick("Two", 2))) as number);
}
demo.sort((a, b) => a - b);
rows.push(
  `| the demo to depth 2, in the page | ${seconds(demo[2])} (${seconds(demo[0])} to ${seconds(demo[4])} of ${demo.length}) |`,
);

const large = fleet({ devices: 1000, links: 2000, flows: 500, routes: 30_000 });
const id = await importPlan(page, base, large);
for (const depth of [1, 2]) {
  const start = performance.now();
  await page.goto(`${base}/plans/${id}/failures?depth=${depth}`, { waitUntil: "commit" });
  const said = new Set<string>();
  for (;;) {
    const text = (await status.textContent({ timeout: 60_000 }).catch(() => "")) ?? "";
    if (text.includes("Complete")) break;
    if (text.includes("failed")) throw new Error(text);
    said.add(text);
    await page.waitForTimeout(100);
  }
  const taken = performance.now() - start;
  rows.push(
    `| 1,000 devices to depth ${depth}, by one worker on the server | ${seconds(taken)}; progress was shown ${said.size} times |`,
  );
  const again = performance.now();
  await page.reload({ waitUntil: "commit" });
  await status.filter({ hasText: "Complete" }).waitFor({ timeout: 120_000 });
  rows.push(`| the same again, from the kept result | ${seconds(performance.now() - again)} |`);
}
console.log("| sweep | from asking to the whole board |\n|---|---|");
console.log(rows.join("\n"));
await browser.close();

function seconds(ms: number): string {
  return ms < 1000 ? `${ms.toFixed(0)} ms` : `${(ms / 1000).toFixed(1)} s`;
}
