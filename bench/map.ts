import type { Page, Response } from "@playwright/test";
import { importPlan, openBrowser } from "./browser.ts";
import { fleet } from "./fleet.ts";

/**
 * The map of large plans in a real browser: npm run bench:map -- URL. How large the first document and its
 * scripts are, how soon the map stands, how many frames a second panning and zooming get, and how soon a click on a link
 * is answered.
 */
const base = process.argv[2] ?? "http://127.0.0.1:3000";
const sizes = process.argv.slice(3).map(Number);

const { browser, page } = await openBrowser();
console.log(
  "| devices | first document | scripts | map ready | frames a second | click to answer |\n|---|---|---|---|---|---|",
);
for (const devices of sizes.length ? sizes : [200, 1000]) {
  const plan = fleet({ devices, links: devices * 2, flows: devices / 2, routes: devices * 30 });
  const id = await importPlan(page, base, plan);
  const address = `${base}/plans/${id}/map?flow=flow-0`;
  const document = await (await page.request.get(address, { headers: { accept: "text/html" } })).text();
  await page.goto("about:blank");
  const answers: Response[] = [];
  const note = (answer: Response) => void answers.push(answer);
  page.on("response", note);
  const started = performance.now();
  await page.goto(address, { waitUntil: "commit" });
  await page.waitForSelector("[data-map-ready]", { timeout: 120_000 });
  const ready = performance.now() - started;
  page.off("response", note);
  const scripts = answers.filter((answer) => /\/assets\/[^/]*\.js$/.test(answer.url()));
  const bodies = await Promise.all(scripts.map(async (script) => (await script.body()).length));
  // Work after loading, such as preparing answers, has ended before the map is moved.
  await page.waitForTimeout(2000);
  const rounds = [];
  for (let n = 0; n < 3; n++) rounds.push(await framesWhilePanning(page));
  const frames = rounds.sort((a, b) => a - b)[1];
  const click = await clickToAnswer(page);
  console.log(
    `| ${devices} | ${(document.length / 1024).toFixed(0)} kB | ${scripts.length} of ${(bodies.reduce((sum, length) => sum + length, 0) / 1024).toFixed(0)} kB | ${(ready / 1000).toFixed(1)} s | ${frames.toFixed(0)} | ${click.toFixed(0)} ms |`,
  );
}
await browser.close();

/** Frames a second while the ground is dragged to and fro and the wheel turns, over two seconds. */
async function framesWhilePanning(page: Page): Promise<number> {
  const counting = page.evaluate(
    `new Promise((done) => { let n = 0; const start = performance.now(); const tick = () => { n++; const t = performance.now() - start; t < 2000 ? requestAnimationFrame(tick) : done((n * 1000) / t); }; requestAnimationFrame(tick); })`,
  ) as Promise<number>;
  let over = false;
  counting.finally(() => {
    over = true;
  });
  await page.mouse.move(400, 500);
  for (let n = 0; !over; n++) {
    await page.mouse.wheel(0, n % 20 < 10 ? -60 : 60);
    await page.mouse.move(400 + (n % 30), 500);
  }
  return counting;
}

/** From a click on a link of the chosen flow to the map on which a link is down. */
async function clickToAnswer(page: Page): Promise<number> {
  const way = await page.locator("[data-ribbon=out]").nth(2).getAttribute("d");
  const [x1, y1, x2, y2] = (way ?? "").match(/-?[\d.]+/g)?.map(Number) ?? [];
  const [x, y] = [(x1 + x2) / 2, (y1 + y2) / 2];
  const near = new URL(page.url());
  near.searchParams.set("part", [x - 300, y - 300, 600, 600].map(Math.round).join(","));
  await page.goto(near.href);
  await page.waitForSelector("[data-map-ready]", { timeout: 120_000 });
  // The first answer prepares the worker; this is the second.
  const listen = `void (window.answered = new Promise((done) => { const was = document.querySelector("[data-down]").dataset.down; document.addEventListener("click", () => { const start = performance.now(); const look = () => document.querySelector("[data-down]").dataset.down !== was || performance.now() - start > 10000 ? done(performance.now() - start) : requestAnimationFrame(look); requestAnimationFrame(look); }, { once: true, capture: true }); }))`;
  const times: number[] = [];
  for (let n = 0; n < 5; n++) {
    const box = await page.locator("[data-map-ready]").boundingBox();
    if (!box) throw new Error("the map is not in sight");
    await page.evaluate(listen);
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    times.push((await page.evaluate("window.answered")) as number);
  }
  return times.slice(1).sort((a, b) => a - b)[2];
}
