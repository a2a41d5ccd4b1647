import { expect, type Page, test } from "@playwright/test";
import { choose, fill } from "./forms.ts";
import { expectAnswer, goTo, ready, unopenedPlan } from "./plan.ts";

/** Fills a form's fields by their labels. */
async function revision(page: Page, number: number) {
  await expect(page.getByText(`Revision ${number}`, { exact: true })).toBeVisible();
}

async function undoAll(page: Page) {
  const undo = page.getByRole("button", { name: "Undo" });
  for (let n = 0; n < 20; n++) {
    // Between an undo and the page that shows it, nothing can be undone.
    const more = await expect(undo)
      .toBeEnabled({ timeout: 3000 })
      .then(
        () => true,
        () => false,
      );
    if (!more) return;
    const text = await page.getByText(/^Revision \d+$/).textContent();
    await undo.click();
    await expect(page.getByText(text ?? "", { exact: true })).toHaveCount(0);
  }
}

test("a plan of three devices with a flow, from nothing, by keyboard", async ({ page }) => {
  await goTo(page, "/plans");
  await ready(page);
  await page.getByLabel("New plan").fill("Pier office");
  await page.keyboard.press("Enter");
  await page.waitForURL(/\/plans\/\d+\/map/);
  await ready(page);
  await page.getByRole("link", { name: "Add device" }).focus();
  await page.keyboard.press("Enter");

  for (const [name, role] of [
    ["Pier desk", "host"],
    ["Pier router", "router"],
    ["Shore server", "host"],
  ]) {
    const form = await fill(page, "Add device", { Name: name, Role: role });
    await form.getByLabel("Name").press("Enter");
    await expect(page.getByRole("link", { name: `Edit ${name}` }).first()).toBeVisible();
    await expect(form.getByLabel("Name")).toHaveValue("");
  }
  await page.getByRole("link", { name: "Add link" }).click();
  const join = async (a: string, b: string, address: string, far: string) => {
    const form = await fill(page, "Add link", {
      From: a,
      To: b,
      "Address at this end": address,
      "Address at the far end": far,
    });
    await form.getByRole("button", { name: "Add link" }).click();
    await expect(form.getByLabel("Address at this end")).toHaveValue("");
  };
  await join("Pier desk", "Pier router", "10.1.0.10/24", "10.1.0.1/24");
  await join("Pier router", "Shore server", "10.2.0.1/24", "10.2.0.20/24");
  await page.getByRole("link", { name: "Add flow" }).click();
  const flow = await fill(page, "Add flow", { Name: "Desk to server", From: "pier-desk", To: "10.2.0.20" });
  await flow.getByRole("button", { name: "Add flow" }).click();
  await page.getByRole("link", { name: "Done" }).click();
  await page.getByRole("link", { name: /^Desk to server/ }).click();
  await expectAnswer(page, "It does not arrive", "Pier desk has no route to 10.2.0.20");

  // Paths says what to do, and finds both hosts' routes.
  await page.getByRole("link", { name: "Hop by hop" }).click();
  await page.getByRole("button", { name: "Find changes that fix it" }).click();
  const offer = page.getByTestId("offer");
  await expect(offer).toContainText("0.0.0.0/0 via 10.1.0.1");
  await expect(offer).toContainText("0.0.0.0/0 via 10.2.0.1");
  await offer.getByRole("button", { name: "Apply" }).click();
  await expectAnswer(page, "It works");
});

test("a pasted list is read line by line before it is taken", async ({ page }) => {
  const plan = await unopenedPlan(page, "three-routers");
  await goTo(page, `${plan}/map?edit=new:list`);
  await ready(page);
  const field = page.getByLabel("Paste a list of interfaces", { exact: true });
  await field.fill(
    "Device, Interface, Address\nnorth, lan, 10.9.0.1/24\nnorth, up, 10.9.1.1/33\nwest\tspare\t10.8.0.1",
  );
  const read = page.getByRole("list", { name: "Lines read" });
  await expect(read.getByRole("listitem").nth(0)).toContainText("new router north, lan 10.9.0.1/24");
  await expect(read.getByRole("listitem").nth(1)).toContainText("it must be a whole number from 0 to 32");
  await expect(read.getByRole("listitem").nth(2)).toContainText('"10.8.0.1" lacks its prefix length');
  await expect(page.getByRole("button", { name: "Add to network" })).toBeDisabled();
  await field.fill("north, lan, 10.9.0.1/24\nnorth, up, 10.9.1.1, 255.255.255.252\nwest\tspare\t10.8.0.1/24");
  await expect(page.getByText("3 interfaces and 1 new devices to add.")).toBeVisible();
  await page.getByRole("button", { name: "Add to network" }).click();
  await revision(page, 2);
  await goTo(page, `${plan}/devices/north`);
  await expect(page.getByRole("region", { name: "Attached networks" })).toContainText("10.9.1.1/30");
  await goTo(page, `${plan}/map`);
  await ready(page);
  await undoAll(page);
  await expect(page.getByRole("link", { name: "Fail north" })).toHaveCount(0);
});

test("a terminal gets a floating default with its watch on both ends", async ({ page }) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/devices/skerry-edge`);
  await ready(page);

  // The line is completed while typing, and fills the fields.
  const line = page.getByLabel("Route as one line");
  await line.click();
  await line.pressSequentially("def");
  await expect(page.getByRole("option", { name: /default/ })).toBeVisible();
  await line.press("Tab");
  await line.pressSequentially("via 172.20.255.2");
  await expect(page.getByRole("option", { name: /172.20.255.29 Yard router/ })).toBeVisible();
  await line.press("ArrowDown");
  await line.press("Enter");
  const typed = await line.inputValue();
  if (!typed.includes("172.20.255.29")) await line.fill("default via 172.20.255.29 ");
  await line.press("End");
  await line.pressSequentially("distance 20");
  await expect(page.getByLabel("Destination", { exact: true })).toHaveValue("default");
  await expect(page.getByLabel("Distance", { exact: true })).toHaveValue("20");

  // The impact is shown before saving: idle today, and no return path once the primary fails.
  const preview = page.getByTestId("preview");
  await expect(preview).toContainText("standby");
  await expect(preview).toContainText("distance 20 vs 1");
  await expect(preview).toContainText("If Skerry edge wan fails, 0 of");
  await expect(preview).toContainText("New finding");
  await revision(page, 1);
  await line.press("Enter");
  await revision(page, 2);
  const defaults = page.locator('[data-destination="0.0.0.0/0"]');
  await expect(defaults.locator('[data-state="standby"]')).toContainText("new");

  // The watch of the primary, on both ends.
  await defaults.getByRole("button", { name: "Related changes of 0.0.0.0/0 via 172.20.255.5" }).click();
  const companions = page.getByRole("region", { name: /^Related changes of 0.0.0.0\/0 via 172.20.255.5/ });
  const bfd = companions.getByRole("listitem").filter({ hasText: "with BFD to Office core 1, on both ends" });
  await bfd.getByRole("button", { name: "Show impact" }).click();
  await expect(bfd.getByTestId("offer")).toContainText("Office core 1:");
  await expect(bfd.getByTestId("no-change")).toBeVisible();
  await bfd.getByRole("button", { name: "Apply" }).click();
  await revision(page, 3);
  await expect(page.locator('[data-watch="bfd"]')).toContainText("BFD session to 172.20.255.5");

  // The return path once the primary is gone.
  await defaults.getByRole("button", { name: "Related changes of 0.0.0.0/0 via 172.20.255.29" }).click();
  const other = page.getByRole("region", { name: /^Related changes of 0.0.0.0\/0 via 172.20.255.29/ });
  const back = other.getByRole("listitem").filter({ hasText: "Return path" }).first();
  await back.getByRole("button", { name: "Show impact" }).click();
  // Offers may be recomputed while their impact loads: the test presses the current one.
  await expect(back.getByTestId("offer")).toBeVisible();
  await back.getByRole("button", { name: "Apply" }).click();
  await revision(page, 4);

  // The circuit fails in silence, and the mast carries.
  await goTo(page, `${plan}/paths?flow=skerry-booking&down=link:skerry-line`);
  await expectAnswer(page, /Carried by|It works/);
  await expect(page.getByRole("region", { name: "Forward path", exact: true }).first()).toContainText(
    "Yard router",
  );
  await goTo(page, `${plan}/devices/office-core-1`);
  await ready(page);
  await expect(page.locator('[data-watch="bfd"]')).toContainText("BFD session to 172.20.255.6");
  await undoAll(page);
  await expect(page.locator('[data-watch="bfd"]')).toHaveCount(0);
});

test("six routes become one summary with its discard route, and no owned address changes", async ({
  page,
}) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/summaries`);
  await ready(page);
  await expect(page.getByRole("img", { name: /172.20.96.0\/21.*172.20.102.0\/23 no owner/ })).toBeVisible();
  const single = page.getByRole("region", { name: "One summary" });
  await expect(single).toContainText("172.20.96.0/21");
  await expect(single).toContainText("5 fewer routes on Office core 1");
  await expect(single.getByTestId("proof")).toHaveText("No flows or assigned addresses are affected.");
  await single.getByRole("button", { name: /steps in a safe order/ }).click();
  const steps = single.getByRole("listitem");
  await expect(steps.first()).toContainText("172.20.96.0/21 discard");
  await expect(steps.nth(1)).toContainText("172.20.96.0/21 via 172.20.255.26");
  await single.getByRole("button", { name: "Apply summary" }).click();
  await revision(page, 2);
  await goTo(page, `${plan}/devices/office-core-1?lookup=172.20.100.1`);
  await expect(page.locator('[data-destination="172.20.96.0/21"] [data-state="in-use"]')).toBeVisible();
  await expect(page.getByText("Removed by the draft")).toBeVisible();
  await goTo(page, `${plan}/devices/yard-router`);
  await ready(page);
  await expect(page.locator('[data-destination="172.20.96.0/21"]')).toContainText("discard");
  await undoAll(page);
  await expect(page.locator('[data-destination="172.20.96.0/21"]')).toHaveCount(0);
});

test("the demo's flaws are mended from their findings, and all of it is undone", async ({ page }) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/findings`);
  await ready(page);
  const count = page.locator('[data-count="findings"]');
  await expect(count).toHaveText("15 open");
  const finding = (code: string) => page.locator(`[data-finding="${code}"]`);

  // The missing return path: its evidence opens in place, and its fix shows its impact.
  const missing = finding("missing-return-route");
  await missing.getByRole("button", { name: "Evidence" }).click();
  await expect(missing.getByRole("region", { name: "Return path" })).toContainText("private address");
  await missing.getByRole("button", { name: /^Fix: Add 172.20.80.0\/24/ }).click();
  await expect(missing.locator('[data-flow="cameras"]')).toContainText("no return path");
  await expect(missing.locator('[data-flow="cameras"]')).toContainText("works");
  await missing.getByRole("button", { name: "Apply" }).click();
  await revision(page, 2);
  await expect(missing).toHaveCount(0);

  const facing = finding("facing-defaults");
  await facing
    .getByRole("button", { name: /^Fix: / })
    .first()
    .click();
  await expect(facing.locator('[data-flow="gull-internet"]')).toContainText("works");
  await facing.getByRole("button", { name: "Apply" }).click();
  await revision(page, 3);
  await expect(facing).toHaveCount(0);
  await expect(finding("flow-fails")).toHaveCount(0);

  // Content that opens below the lower edge scrolls into view, and its button does not move while more loads.
  const unnoticed = finding("watch-first-hop-only");
  const fix = unnoticed.getByRole("button", { name: /^Fix: Probe/ }).first();
  await fix.evaluate((button) => button.scrollIntoView({ block: "end" }));
  await fix.click();
  const apply = unnoticed.getByRole("button", { name: "Apply" });
  await expect(apply).toBeInViewport({ ratio: 1 });
  const place = await apply.boundingBox();
  await expect(unnoticed.getByRole("list", { name: "Findings that come, go and change" })).toContainText(
    "Fixed:",
  );
  expect(await apply.boundingBox()).toEqual(place);
  // The page itself is never taller than the window: only the part below the bar scrolls.
  expect(await page.evaluate(() => document.documentElement.scrollHeight - window.innerHeight)).toBe(0);
  await apply.click();
  await revision(page, 4);
  await expect(unnoticed).toHaveCount(0);

  await goTo(page, `${plan}/paths?flow=tickets&down=link:north-ring`);
  await expectAnswer(page, "Carried by Bay radio");
  await goTo(page, `${plan}/changes`);
  await expect(page.getByRole("region", { name: "Draft" })).toContainText("Fixed:");
  await ready(page);
  await undoAll(page);
  await goTo(page, `${plan}/findings`);
  await expect(count).toHaveText("15 open");
});

test("a finding that is accepted stays on record with its reason", async ({ page }) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/findings`);
  await ready(page);
  const row = page.locator('[data-finding="asymmetric-path"]');
  await row.getByRole("button", { name: "Accept risk" }).click();
  await row.getByRole("button", { name: "Accept", exact: true }).click();
  await expect(row.getByRole("alert")).toContainText("Enter a reason");
  await row.getByLabel("Reason for accepting").fill("No firewall stands on either way");
  await row.getByRole("button", { name: "Accept", exact: true }).click();
  const aside = page.getByRole("region", { name: "Accepted risks" });
  await expect(aside).toContainText("No firewall stands on either way");
  await expect(page.locator('[data-count="findings"]')).toHaveText("14 open");
  await aside.getByRole("button", { name: "Reopen" }).click();
  await expect(page.locator('[data-count="findings"]')).toHaveText("15 open");
});

test("the desk writes on several devices, and finds where a return path is missing", async ({ page }) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/add-routes`);
  await ready(page);
  const line = page.getByLabel("Route as one line");
  await line.fill("tern-edge, nobody: 192.0.2.128/25 discard");
  await expect(page.getByRole("alert").first()).toContainText("there is no device nobody");
  await line.fill("tern-edge, skerry-edge: 198.18.0.0/15 discard note test networks");
  const preview = page.getByTestId("preview");
  await expect(preview).toContainText("Tern Point edge");
  await expect(preview).toContainText("Skerry edge");
  await line.press("Enter");
  await revision(page, 2);
  await expect(page.getByRole("region", { name: "Routes added here" })).toContainText("Skerry edge");

  await page.getByLabel("Find devices without a return route to").fill("172.20.80.0/24");
  await page.getByRole("button", { name: "Find routes" }).click();
  const back = page.getByRole("region", { name: "Find missing return routes" });
  await expect(back.getByTestId("offer")).toContainText("172.20.80.0/24 via 172.20.0.2");
  await back.getByRole("button", { name: "Apply" }).click();
  await revision(page, 3);
  await goTo(page, `${plan}/paths?flow=cameras`);
  await expectAnswer(page, "Carried by Longhaven line 1");
});

test("wrong input is told beside its field, keeps what was typed, and saves nothing", async ({ page }) => {
  const plan = await unopenedPlan(page, "three-routers");
  await goTo(page, `${plan}/devices/west?edit=port:`);
  await ready(page);
  const port = await fill(page, "Add interface to West router", {
    Name: "spare",
    Addresses: "10.7.0.0/24",
  });
  await port.getByRole("button", { name: "Add interface" }).click();
  await expect(port.getByRole("alert")).toContainText("is the network address of 10.7.0.0/24");
  await expect(port.getByLabel("Addresses")).toHaveValue("10.7.0.0/24");
  await expect(port.getByLabel("Addresses")).toBeFocused();

  await goTo(page, `${plan}/map?edit=new:flow`);
  await ready(page);
  const flow = await fill(page, "Add flow", { From: "west", To: "nowhere", Protocol: "tcp" });
  await flow.getByLabel("Port").fill("70000");
  await flow.getByRole("button", { name: "Add flow" }).click();
  await expect(flow.getByRole("alert").first()).toContainText("65535");
  await expect(flow.getByLabel("To", { exact: true })).toHaveValue("nowhere");
  await flow.getByLabel("Port").fill("443");
  await flow.getByRole("button", { name: "Add flow" }).click();
  await expect(flow.getByRole("alert").first()).toContainText("nowhere");

  await goTo(page, `${plan}/devices/west`);
  await ready(page);
  const line = page.getByLabel("Route as one line");
  await line.fill("10.9.0.1/24 via 10.0.13.2 distance high");
  await line.press("Enter");
  const desk = page.getByRole("form", { name: "Add route" });
  await expect(desk).toContainText("the prefix is 10.9.0.0/24");
  await expect(desk).toContainText('"high" is not a whole number');
  await expect(desk.getByLabel("Distance", { exact: true })).toHaveValue("high");
  await revision(page, 1);
});

test("the grid fills for several senders and destinations, both ways", async ({ page }) => {
  await goTo(
    page,
    "/plans/1/paths?grid=&senders=tern-desk,longhaven-cam&targets=booking,office-pc,203.0.113.70",
  );
  await ready(page);
  await expect(page.getByText("2 × 3 paths, forward and return.")).toBeVisible();
  await expect(
    page.getByRole("link", { name: "Quay camera to Booking service: no return path" }),
  ).toBeVisible();
  await page.getByRole("link", { name: /^Quay camera to Office desk: yes by long-1/ }).click();
  await expectAnswer(page, "Carried by Longhaven line 1");
  await choose(page.getByLabel("Source"), "172.20.80.10");
  await page.getByRole("button", { name: "Show path" }).click();
  await page.waitForURL(/source=172.20.80.10/);
  await expectAnswer(page, "Carried by Longhaven line 1");
});

test("the draft is compared with what is approved, and approved in its turn", async ({ page }) => {
  const plan = await unopenedPlan(page, "three-routers");
  await goTo(page, `${plan}/changes`);
  await expect(page.getByRole("heading", { name: "No draft" })).toBeVisible();
  await goTo(page, `${plan}/devices/middle`);
  await ready(page);
  await page.getByRole("button", { name: "Remove 10.3.0.0/24 via 10.0.23.2" }).click();
  await revision(page, 2);
  await expect(page.getByTestId("count")).toContainText("before the draft");
  await expect(page.getByRole("region", { name: "Removed by the draft" })).toContainText(
    "10.3.0.0/24 via 10.0.23.2",
  );
  await goTo(page, `${plan}/changes`);
  await ready(page);
  const draft = page.getByRole("region", { name: "Draft" });
  await expect(draft.locator('[data-flow="west-to-east"]')).toContainText("does not arrive");
  await draft.getByRole("button", { name: "Approve revision 2" }).click();
  await expect(page.getByRole("heading", { name: "No draft" })).toBeVisible();
  await goTo(page, `${plan}/devices/middle`);
  await expect(page.getByRole("region", { name: "Removed by the draft" })).toHaveCount(0);
});
