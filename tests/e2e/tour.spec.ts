import { readFileSync } from "node:fs";
import { expect, test } from "@playwright/test";
import { expectAnswer, freshPlan, ready } from "./plan.ts";

const readme = readFileSync(new URL("../../README.md", import.meta.url), "utf8");
const tour = /## Tour\n([\s\S]*?)\n\*\*Roll out/.exec(readme)?.[1] ?? "";
const steps = tour
  .split(/\n(?=\d+\. \*\*)/)
  .map((step) => step.replace(/\s+/g, " ").trim())
  .filter((step) => step !== "");

/** Words of the README's step: the test acts by them, and fails where the README says others. */
function wordsOf(title: string) {
  const step = steps.find((text) => text.includes(`**${title}`));
  if (!step) throw new Error(`the README's tour has no step ${title}`);
  return (words: string): string => {
    if (!step.replaceAll("_", "").includes(words))
      throw new Error(`the step "${title}" does not say "${words}"`);
    return words;
  };
}

test("the README's tour, step by step, in its own words", async ({ page }) => {
  test.setTimeout(150_000);
  expect(steps).toHaveLength(11);
  let says = wordsOf("Open");
  await page.goto("/plans");
  await expect(page.getByRole("heading", { name: says("Marrow Bay Ferries") }).first()).toBeVisible();
  await expect(page.getByText("flows work").first()).toBeVisible();
  await expect(page.getByText(says("survive any single failure")).first()).toBeVisible();
  // A copy of the plan that the step opens, so that others may use theirs meanwhile.
  const plan = await freshPlan(page);
  await ready(page);

  says = wordsOf("Ask");
  await page.keyboard.press("Control+k");
  await page.keyboard.type(says("ticket desk to booking service"));
  await page.keyboard.press("Enter");
  await page.waitForURL(/\/paths\?.*flow=tickets/);
  await expectAnswer(page, `Carried by ${says("North fibre")}`);

  says = wordsOf("Fail the primary uplink");
  await page.getByRole("link", { name: says("Show on map") }).click();
  await page.waitForURL(/\/map\?/);
  await expect(page.getByRole("link", { name: "Fail Tern Point – North fibre" })).toBeVisible();
  await expectAnswer(page, "Carried by North fibre");
  await page.keyboard.press("Control+k");
  await page.keyboard.type(says("fail tern point north fibre"));
  await expect(page.getByRole("option").first()).toContainText("Tern Point – North fibre");
  await page.keyboard.press("Enter");
  await expectAnswer(page, `Carried by ${says("Bay radio")}`, "took over");

  says = wordsOf("Check the device");
  await page
    .getByTestId("why")
    .getByRole("link", { name: says("Tern Point edge") })
    .first()
    .click();
  const defaults = page.locator(`[data-destination="${says("0.0.0.0/0")}"]`);
  await expect(defaults.locator('[data-state="in-use"]')).toContainText("192.0.2.5");
  await expect(defaults.locator('[data-state="unusable"]')).toContainText(`${says("wan1")} has no carrier`);

  says = wordsOf("Fail the circuit instead");
  await page.getByRole("link", { name: "Restore Tern Point – North fibre" }).first().click();
  await page.goto(`${plan}/map?flow=tickets`);
  await page.getByRole("link", { name: `Fail ${says("North fibre ring")}` }).dispatchEvent("click");
  await expectAnswer(page, "It does not arrive", says("North fibre access"), "Undetected failure");

  says = wordsOf("Break the return path");
  await page.getByRole("link", { name: "Restore North fibre ring" }).first().click();
  await page.goto(`${plan}/devices/office-fw?flow=tickets`);
  await ready(page);
  await page.getByRole("button", { name: `Remove ${says("0.0.0.0/0 via 198.51.100.5")}` }).click();
  await expect(page.getByText("Revision 2")).toBeVisible();
  await page.goto(`${plan}/paths?flow=tickets`);
  await expectAnswer(page, "It arrives, but gets no reply", `${says("Office firewall")} has no route`);
  await ready(page);
  await page.getByRole("button", { name: says("Undo") }).click();
  await expectAnswer(page, "Carried by North fibre");

  says = wordsOf("Fix findings");
  await page.getByRole("link", { name: says("Findings") }).click();
  const missing = page.locator('[data-finding="missing-return-route"]');
  await expect(page.getByText(says("A flow arrives but gets no reply"))).toBeVisible();
  await missing
    .getByRole("button", { name: new RegExp(`^${says("Fix")}: `) })
    .first()
    .click();
  await expect(missing.locator('[data-flow="cameras"]')).toContainText("works");
  await missing.getByRole("button", { name: "Apply" }).click();
  await expect(missing).toHaveCount(0);
  await page.getByRole("link", { name: says("Changes") }).click();
  await expect(page.getByRole("region", { name: "Draft" })).toContainText("Fixed:");

  says = wordsOf("Add routes");
  await page.goto(`${plan}/devices/skerry-edge`);
  await ready(page);
  await page.getByLabel("Route as one line").fill(says("default via 172.20.255.29 distance 20"));
  await expect(page.getByTestId("preview")).toContainText("standby");
  await page.getByLabel("Route as one line").press(says("Enter"));
  const stands = page.locator('[data-destination="0.0.0.0/0"]');
  await expect(stands.locator('[data-state="standby"]')).toContainText("172.20.255.29");
  await stands
    .getByRole("button", { name: `${says("Related changes")} of 0.0.0.0/0 via 172.20.255.5` })
    .click();
  await expect(page.getByRole("region", { name: /^Related changes of/ })).toContainText("on both ends");

  says = wordsOf("Summarize");
  await page.getByRole("link", { name: says("Routes"), exact: true }).click();
  await page
    .getByRole("link", { name: new RegExp(says("Summaries"), "i") })
    .first()
    .click();
  await expect(page.getByRole("region", { name: "One summary" })).toContainText("172.20.96.0/21");
  await expect(page.getByRole("region", { name: "One summary" }).getByTestId("proof")).toContainText(
    "No flows or assigned addresses are affected",
  );

  says = wordsOf("Simulate failures");
  await page.getByRole("link", { name: says("Failures"), exact: true }).click();
  await expect(page.getByTestId("sweep-status")).toContainText("Complete.");
  for (const name of ["Double", "Triple", "Failure report"])
    await expect(page.getByRole("link", { name: says(name), exact: true })).toBeVisible();

  says = wordsOf("Step through an outage");
  await page.getByRole("link", { name: says("Outage timeline"), exact: true }).click();
  await page
    .getByRole("region", { name: "Saved outages" })
    .getByRole("link", { name: says("Longhaven line 1 is cut for twenty seconds") })
    .click();
  await ready(page);
  await page.getByRole("button", { name: says("Use demo capture") }).click();
  await expect(page.getByText(/predicted/).first()).toBeVisible();
  await page.getByRole("button", { name: says("Step through") }).click();
  await expect(page.getByTestId("moment")).toContainText("before the failure");
  await page.keyboard.press(".");
  await expect(page.getByTestId("moment")).toContainText("at 0 s");
  await page.keyboard.press(",");
  await expect(page.getByTestId("moment")).toContainText("before the failure");
});
