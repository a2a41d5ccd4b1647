import { expect, test } from "@playwright/test";
import { fleet } from "../../bench/fleet.ts";
import { keepPlan } from "./plan.ts";

/** Above 120 devices the map is painted: what can be touched is what is pointed at, or has the focus. */
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

  // By pointer: nearer by the wheel until plates stand there, and one of them down.
  const box = await map.boundingBox();
  if (!box) throw new Error("the map is not in sight");
  await page.getByRole("button", { name: "Fit" }).click();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  for (let n = 0; n < 14; n++) await page.mouse.wheel(0, -100);
  const under = page.locator("[data-plate]:hover");
  let met = "";
  for (let n = 0; n < 60 && met === ""; n++) {
    const [x, y] = [box.x + 60 + ((n * 37) % 600), box.y + 60 + ((n * 53) % 600)];
    await page.mouse.move(x, y);
    // What is pointed at stands there with the next frame, and is under the pointer once that moves again.
    await page.evaluate("new Promise(requestAnimationFrame)");
    await page.mouse.move(x + 1, y);
    if ((await under.count()) > 0) met = (await under.first().getAttribute("data-plate")) ?? "";
  }
  expect(met).not.toBe("");
  await page.mouse.down();
  await page.mouse.up();
  await expect(page).toHaveURL(new RegExp(met));
});
