import { expect, test } from "@playwright/test";
import { fleet } from "../../bench/fleet.ts";
import { keepPlan } from "./plan.ts";

/** After so long without being moved the drawing itself is painted. */
const RESTED_MS = 400;
/** The current painting of the map. */
const PICTURE = `document.querySelector("[data-map-ready] canvas").toDataURL()`;
/** Counts, frame after frame, the pixels that are painted in the middle of the map, until window.seen() gives them. */
const WATCH = `{
  const canvas = document.querySelector("[data-map-ready] canvas");
  const counts = [];
  let on = true;
  const look = () => {
    const { width, height } = canvas;
    const { data } = canvas.getContext("2d").getImageData(width / 4, height / 4, width / 2, height / 2);
    counts.push(data.filter((value, n) => n % 4 === 3 && value > 0).length);
    if (on) requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
  window.seen = () => { on = false; return counts; };
}`;

/** Above 120 devices the map is painted: only the hovered or focused item is a real element. */
test("the map of a large plan is moved about in and answers, by pointer and by keyboard", async ({
  page,
}) => {
  const id = await keepPlan(page, fleet({ devices: 200, links: 400, flows: 60, routes: 2000 }));
  const address = `/plans/${id}/map?flow=flow-0`;
  // What the first page carries does not grow with the plan's links.
  const first = await page.request.get(address, { headers: { accept: "text/html" } });
  expect((await first.body()).length).toBeLessThan(300 * 1024);

  await page.goto(address);
  const map = page.getByRole("application", { name: /Map of \d+ devices/ });
  await expect(map).toBeVisible();
  await expect(page.locator("[data-map-ready]")).toHaveAttribute("data-down", "");
  await expect(page.locator("[data-ribbon=out]").first()).toBeAttached();

  // By keyboard: to a device, to the next one, and down with it.
  await map.focus();
  await page.keyboard.press("ArrowRight");
  const focused = page.locator("[data-plate] a:focus");
  await expect(focused).toHaveAccessibleName(/^Fail /);
  const name = await focused.getAttribute("aria-label");
  await page.keyboard.press("ArrowRight");
  await expect(page.locator("[data-plate] a:focus")).not.toHaveAccessibleName(name ?? "");
  const device = await page.locator("[data-plate]:has(a:focus)").getAttribute("data-plate");
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(new RegExp(`down=device(:|%3A)${device}`));
  await expect(page.locator("[data-map-ready]")).toHaveAttribute("data-down", new RegExp(`device:${device}`));
  await page.goBack();
  await expect(page.locator("[data-map-ready]")).toHaveAttribute("data-down", "");

  // By pointer: zooms with the wheel until plates are visible, one of them down.
  const box = await map.boundingBox();
  if (!box) throw new Error("the map is not in sight");
  await page.getByRole("button", { name: "Fit" }).click();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.waitForTimeout(RESTED_MS);
  const fitted = await page.evaluate(PICTURE);
  await page.evaluate(WATCH);
  for (let n = 0; n < 14; n++) await page.mouse.wheel(0, -100);
  for (let n = 0; n < 20; n++) await page.mouse.wheel(0, 100);
  // Every frame showed something, newly painted or cached.
  const seen = (await page.evaluate("window.seen()")) as number[];
  expect(seen.length).toBeGreaterThan(5);
  expect(Math.min(...seen)).toBeGreaterThan(0);
  await page.getByRole("button", { name: "Fit" }).click();
  await page.waitForTimeout(RESTED_MS);
  expect((await page.evaluate(PICTURE)) === fitted, "what was moved about rests as it was").toBe(true);
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  for (let n = 0; n < 14; n++) await page.mouse.wheel(0, -100);
  const under = page.locator("[data-plate]:hover");
  let met = "";
  for (let n = 0; n < 60 && met === ""; n++) {
    const [x, y] = [box.x + 60 + ((n * 37) % 600), box.y + 60 + ((n * 53) % 600)];
    await page.mouse.move(x, y);
    // The hovered item is a real element in the next frame, and under the pointer for the following event.
    await page.evaluate("new Promise(requestAnimationFrame)");
    await page.mouse.move(x + 1, y);
    if ((await under.count()) > 0) met = (await under.first().getAttribute("data-plate")) ?? "";
  }
  expect(met).not.toBe("");
  await page.mouse.down();
  await page.mouse.up();
  await expect(page).toHaveURL(new RegExp(met));
});
