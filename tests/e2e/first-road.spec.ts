import { expect, test } from "@playwright/test";
import { expectAnswer, freshPlan, goTo, ready, unopenedPlan } from "./plan.ts";

test("from the demo plan to which gateway carries, and back", async ({ page }) => {
  const plan = await freshPlan(page);
  await ready(page);

  // Ask for the flow in the question field, by keyboard alone.
  await page.keyboard.press("Control+k");
  await page.keyboard.type("ticket desk to booking service");
  await expect(page.getByRole("option").first()).toContainText("Ticket desk to booking service");
  await page.keyboard.press("Enter");
  await page.waitForURL(/\/paths\?.*flow=tickets/);
  await expectAnswer(page, "Carried by North fibre");

  // On the map, fail the primary uplink by clicking its line.
  await page.getByRole("link", { name: "Show on map" }).click();
  await expectAnswer(page, "Carried by North fibre");
  await page.getByRole("link", { name: "Fail Tern Point – North fibre" }).dispatchEvent("click");
  await expect(page.getByRole("link", { name: "Restore Tern Point – North fibre" }).first()).toBeVisible();
  await expectAnswer(
    page,
    "Carried by Bay radio",
    "With no failures, it is carried by North fibre",
    "wan1 has no carrier: the link Tern Point – North fibre has failed",
  );
  await expect(page.locator('[data-ribbon="out"][data-link="tern-radio"]')).toHaveCount(1);
  await expect(page.locator('[data-ribbon="back"][data-link="tern-radio"]')).toHaveCount(1);
  await expect(page.locator('[data-ribbon][data-link="tern-north"]')).toHaveCount(0);

  // The same on the Device screen …
  await page.getByTestId("why").getByRole("link", { name: "Tern Point edge" }).first().click();
  await page.waitForURL(/\/devices\/tern-edge/);
  const defaults = page.locator('[data-destination="0.0.0.0/0"]');
  await expect(defaults.locator('[data-state="in-use"]')).toContainText("192.0.2.5");
  await expect(defaults.locator('[data-state="unusable"]')).toContainText("wan1 has no carrier");
  await expect(page.getByTestId("count")).toContainText("7 active routes, 12 without failures");

  // … and on Paths, beside the healthy way.
  await page.getByRole("link", { name: "Paths" }).click();
  await expectAnswer(page, "Carried by Bay radio", "which was standby, took over");
  await expect(page.getByRole("region", { name: "Without failures" })).toContainText("North fibre access");

  // Fail the circuit instead: the failure is undetected, and packets are lost.
  await goTo(page, `${plan}/paths?flow=tickets&down=link:north-ring`);
  await expectAnswer(
    page,
    "It does not arrive",
    "North fibre access sends it out of ring, which is up, but the link North fibre ring is dead",
    "Undetected failure",
  );

  // No failures again; remove the return route.
  await page.getByRole("link", { name: "Restore North fibre ring" }).click();
  await expect(page.getByRole("status").filter({ hasText: "No failures" })).toBeVisible();
  await goTo(page, `${plan}/devices/office-fw?flow=tickets`);
  await ready(page);
  await page.getByRole("button", { name: "Remove 0.0.0.0/0 via 198.51.100.5" }).click();
  await expect(page.getByText("Revision 2")).toBeVisible();
  await expect(page.locator('[data-destination="0.0.0.0/0"]')).toHaveCount(0);
  await page.getByRole("link", { name: "Paths" }).click();
  await expectAnswer(page, "It arrives, but gets no reply", "Office firewall has no route to 198.51.100.2");

  // Undo.
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByText("Revision 3")).toBeVisible();
  await expectAnswer(page, "Carried by North fibre");
});

test("routes are added, changed, disabled and removed, and each can be undone", async ({ page }) => {
  const plan = await unopenedPlan(page, "three-routers");
  await goTo(page, `${plan}/devices/west`);
  await ready(page);
  const stack = page.locator('[data-destination="10.3.0.0/24"]');
  await expect(stack.locator("tr[data-state]")).toHaveCount(1);

  // Errors appear beside their field and keep the input; nothing is saved.
  const form = page.getByRole("form", { name: "Add route" });
  await form.getByRole("button", { name: "Fields" }).click();
  await form.getByLabel("Destination", { exact: true }).fill("10.3.0.5/24");
  await form.getByLabel("Next hop", { exact: true }).fill("10.0.13.2");
  await form.getByLabel("Distance").fill("20");
  await form.getByRole("button", { name: "Add route" }).click();
  await expect(form.getByRole("alert")).toContainText("the prefix is 10.3.0.0/24");
  await expect(form.getByLabel("Next hop", { exact: true })).toHaveValue("10.0.13.2");
  await expect(page.getByText("Revision 1")).toBeVisible();

  await form.getByLabel("Destination", { exact: true }).fill("10.3.0.0/24");
  await form.getByRole("button", { name: "Add route" }).click();
  await expect(page.getByText("Revision 2")).toBeVisible();
  await expect(stack.locator('[data-state="standby"]')).toContainText("distance 20 vs 1");
  await expect(form.getByLabel("Destination", { exact: true })).toHaveValue("");

  // Change it so that it wins.
  await stack
    .locator('[data-state="standby"]')
    .getByRole("button", { name: "Edit 10.3.0.0/24 via 10.0.13.2" })
    .click();
  const change = page.getByRole("form", { name: "Change route" });
  await expect(change.getByLabel("Distance")).toHaveValue("20");
  await change.getByLabel("Distance").fill("");
  await change.getByLabel("Metric").fill("0");
  await change.getByRole("button", { name: "Save route" }).click();
  await expect(page.getByText("Revision 3")).toBeVisible();
  await expect(stack.locator('[data-state="in-use"]')).toHaveCount(2);

  await stack
    .locator("tr[data-state]")
    .filter({ hasText: "10.0.13.2" })
    .getByRole("button", { name: "Disable 10.3.0.0/24 via 10.0.13.2" })
    .click();
  await expect(stack.locator('[data-state="disabled"]')).toContainText("10.0.13.2");
  await page.getByRole("button", { name: "Remove 10.3.0.0/24 via 10.0.13.2" }).click();
  await expect(stack.locator("tr[data-state]")).toHaveCount(1);

  for (const states of [2, 2, 2, 1]) {
    await page.getByRole("button", { name: "Undo" }).click();
    await expect(stack.locator("tr[data-state]")).toHaveCount(states);
  }
  await expect(page.getByRole("button", { name: "Undo" })).toBeDisabled();
  await page.getByRole("button", { name: "Redo" }).click();
  await expect(stack.locator('[data-state="standby"]')).toHaveCount(1);
  await page.getByRole("link", { name: "Changes" }).click();
  await expect(page.getByRole("main")).toContainText("redo of Add 10.3.0.0/24 via 10.0.13.2 on West router");
});

test("two tabs editing one plan lose nothing", async ({ browser }) => {
  const ann = await (await browser.newContext()).newPage();
  const bob = await (await browser.newContext()).newPage();
  const plan = await freshPlan(ann, "three-routers");
  for (const page of [ann, bob]) {
    await goTo(page, `${plan}/devices/middle`);
    await ready(page);
    // Neither tab may learn of the other's edits before it makes its own.
    await page.route("**/head*", (route) => route.abort());
  }
  const add = async (page: typeof ann, to: string) => {
    const form = page.getByRole("form", { name: "Add route" });
    await form.getByRole("button", { name: "Fields" }).click();
    await form.getByLabel("Destination", { exact: true }).fill(to);
    await form.getByLabel("Next hop", { exact: true }).fill("10.0.23.2");
    await form.getByRole("button", { name: "Add route" }).click();
  };
  await add(ann, "10.77.0.0/16");
  await expect(ann.getByText("Revision 2")).toBeVisible();
  await add(bob, "10.88.0.0/16");
  await expect(bob.getByText("Revision 3")).toBeVisible();
  await expect(bob.locator('[data-destination="10.77.0.0/16"]')).toBeVisible();
  await expect(bob.locator('[data-destination="10.88.0.0/16"]')).toBeVisible();

  // Ann's page is outdated. She removes the displayed route, but Bob disables it first.
  const row = (page: typeof ann) => page.locator('[data-destination="10.77.0.0/16"] tr[data-state]');
  await row(bob)
    .getByRole("button", { name: /^Disable / })
    .click();
  await expect(row(bob)).toHaveAttribute("data-state", "disabled");
  await row(ann)
    .getByRole("button", { name: /^Remove / })
    .click();
  await expect(ann.getByRole("alert").first()).toContainText("has been changed since");
  await expect(row(ann)).toBeVisible();
});

test("a page that is left open learns of somebody else's edit", async ({ browser }) => {
  const ann = await (await browser.newContext()).newPage();
  const bob = await (await browser.newContext()).newPage();
  const plan = await freshPlan(ann, "three-routers");
  await goTo(bob, `${plan}/map?flow=west-to-east`);
  await expectAnswer(bob, "Carried by Through the middle");
  await goTo(ann, `${plan}/devices/middle`);
  await ready(ann);
  await ann.getByRole("button", { name: "Remove 10.3.0.0/24 via 10.0.23.2" }).click();
  await expectAnswer(bob, "It does not arrive", "Middle router has no route to 10.3.0.10");
});

test("documents that are wrong are refused with a sentence each", async ({ page }) => {
  const refused = async (text: string, ...wanted: (string | RegExp)[]) => {
    await goTo(page, "/plans");
    await page
      .getByLabel("Choose file")
      .setInputFiles({ name: "plan.yaml", mimeType: "text/yaml", buffer: Buffer.from(text) });
    const alert = page.getByRole("alert");
    for (const sentence of wanted) await expect(alert).toContainText(sentence);
  };
  const device = (more: string) =>
    `ironFork: 1\nname: x\ndevices:\n  - id: a\n    role: router\n    interfaces: [{ name: e, addresses: [192.0.2.1/30] }]\n${more}`;
  await refused(device("").replace("/30", "/44"), "devices[0].interfaces[0].addresses[0]", "from 0 to 32");
  await refused(
    `${device("")}flows: [{ id: f, from: nobody, to: 192.0.2.1 }]\n`,
    "there is no device nobody",
  );
  const route = "{ to: 10.0.0.0/8, via: 192.0.2.2 }";
  await refused(
    device(`    routes: [${route}, ${route}]\n`),
    "the route 10.0.0.0/8 via 192.0.2.2 appears twice on a",
  );
  await refused("%§ rubbish\n".repeat(1_600_000), /too large: \d+ MB/);
  await refused("%§ rubbish\n".repeat(300_000), "this is not a plan");
});

test("reads without scripts", async ({ browser }) => {
  const page = await (await browser.newContext({ javaScriptEnabled: false })).newPage();
  await page.goto("/plans");
  await page.getByRole("link", { name: "Marrow Bay Ferries", exact: true }).first().click();
  await page
    .getByRole("link", { name: /^Ticket desk to booking service(?!,)/ })
    .first()
    .click();
  await expectAnswer(page, "Carried by North fibre");
  await page.goto(`${page.url()}&down=link:tern-north`);
  await expectAnswer(page, "Carried by Bay radio");
  await page.getByLabel("Search or ask: address").fill("tern-edge");
  await page.getByLabel("Search or ask: address").press("Enter");
  await page.waitForURL(/devices\/tern-edge\?.*down=link:tern-north/);
  await expect(page.locator('[data-destination="0.0.0.0/0"] [data-state="in-use"]')).toContainText(
    "192.0.2.5",
  );
});

test("a map that is seen as a whole ends above its buttons, whatever stands beside it", async ({ page }) => {
  await goTo(page, "/plans/1/map?edit=device:skerry-edge");
  await ready(page);
  const fit = await page.getByRole("button", { name: "Fit" }).boundingBox();
  const plates = page.getByRole("group", { name: "Network map" }).getByRole("link");
  const feet = await plates.evaluateAll((all) => all.map((one) => one.getBoundingClientRect().bottom));
  expect(feet.length).toBeGreaterThan(20);
  expect(Math.max(...feet)).toBeLessThan(fit?.y ?? 0);
});

test("a dragged plate stays where it was put, and undo puts it back", async ({ page }) => {
  const plan = await freshPlan(page, "three-routers");
  await ready(page);
  const plate = page.getByRole("link", { name: "Fail West router" });
  const before = await plate.boundingBox();
  if (!before) throw new Error("the plate is not drawn");
  await page.mouse.move(before.x + 6, before.y + 6);
  await page.mouse.down();
  await page.mouse.move(before.x - 80, before.y + 40, { steps: 5 });
  await page.mouse.up();
  await expect(page.getByText("Revision 2")).toBeVisible();
  expect(page.url()).not.toContain("down=");
  await page.goto(`${plan}/map`);
  const after = await plate.boundingBox();
  expect(after?.x).toBeLessThan(before.x - 40);
  await ready(page);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect.poll(async () => Math.round((await plate.boundingBox())?.x ?? 0)).toBe(Math.round(before.x));
});
