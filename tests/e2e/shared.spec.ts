import { expect, type Page, test } from "@playwright/test";
import { planOf } from "../support/plans.ts";
import { bundleOfTwo, pairOfFirewalls, twoGateways } from "../support/shared-plans.ts";
import { fill } from "./forms.ts";
import { goTo, keepPlan, ready } from "./plan.ts";

async function addVirtual(page: Page, plan: string, device: string, values: Record<string, string>) {
  await goTo(page, `${plan}/devices/${device}?edit=virtual:lan/`);
  await ready(page);
  const form = await fill(page, page.getByRole("form", { name: /Add virtual router/ }), values);
  await form.getByRole("button", { name: "Add virtual router" }).click();
  await expect(page.locator("[data-virtual='16']")).toBeVisible();
}

test("two routers with a virtual address: what is not tracked, what dies, the fix, the gap", async ({
  page,
}) => {
  test.setTimeout(120_000);
  const plan = `/plans/${await keepPlan(page, twoGateways({ a: null, b: null }))}`;
  await addVirtual(page, plan, "ra", { Id: "16", "Virtual addresses": "172.20.16.1", Priority: "110" });
  await addVirtual(page, plan, "rb", { Id: "16", "Virtual addresses": "172.20.16.1", Priority: "100" });
  await expect(page.locator("[data-virtual='16']")).toContainText("Backup");
  await expect(page.locator("[data-virtual='16']")).toContainText("ra Active, 110");

  // The uplink goes, and nothing moves.
  await goTo(page, `${plan}/map?flow=f&down=link:wa`);
  await ready(page);
  await expect(page.getByTestId("headline")).not.toHaveText("Carried by right");
  await goTo(page, `${plan}/findings`);
  await ready(page);
  const finding = page
    .getByRole("listitem")
    .filter({ hasText: "tracks no object that goes down with" })
    .first();
  await expect(finding).toBeVisible();
  await finding.getByRole("button", { name: /^Fix: Track wan on ra/ }).click();
  await page.locator('[data-finding="virtual-untracked"]').getByRole("button", { name: "Apply" }).click();
  await expect(page.getByText("tracks no object that goes down with")).toHaveCount(0);

  // With the way out tracked, the other one carries.
  await goTo(page, `${plan}/map?flow=f&down=link:wa`);
  await ready(page);
  await expect(page.getByTestId("headline")).toHaveText("Carried by right");
  await goTo(page, `${plan}/devices/ra?down=link:wa`);
  await expect(page.locator("[data-virtual='16']")).toContainText("Backup");
  await expect(page.locator("[data-virtual='16']")).toContainText("wan down: takes");

  // The interval is turned, and the gap follows.
  await goTo(page, `${plan}/timeline?fail=link:wa`);
  await ready(page);
  await expect(page.getByText("down for 2.7–3.8 s")).toBeVisible();
  await page.getByLabel("ra/lan 16 advertisement interval").fill("100 ms");
  await page.keyboard.press("Tab");
  await expect(page.getByRole("main")).toContainText("0.3–0.5 s");
});

test("a duct takes both cables along, by one click", async ({ page }) => {
  const base = twoGateways({ a: { track: [{ interface: "wan", lower: 30 }] } });
  const plan = planOf({ ...base, risks: [{ id: "duct", label: "The duct", of: ["link:wa", "link:wb"] }] });
  const address = `/plans/${await keepPlan(page, plan)}`;
  await goTo(page, `${address}/map?flow=f&down=link:wa`);
  await ready(page);
  await expect(page.getByTestId("headline")).toHaveText("Carried by right");
  await goTo(page, `${address}/map?flow=f`);
  await ready(page);
  await page.getByRole("button", { name: "Shared risks" }).click();
  await page.getByRole("link", { name: "Fail the risk The duct" }).click();
  await expect(page).toHaveURL(/down=risk%3Aduct|down=risk:duct/);
  await expect(page.getByTestId("headline")).not.toHaveText(/Carried by/);
  await goTo(page, `${address}/failures`);
  await ready(page);
  await expect(page.getByTestId("board")).toContainText("The duct");
});

test("a failover that breaks what is established says why, and lives on once the standby is told", async ({
  page,
}) => {
  const address = `/plans/${await keepPlan(page, pairOfFirewalls())}`;
  await goTo(page, `${address}/devices/fwa`);
  await ready(page);
  await expect(page.getByTestId("pair")).toContainText("Active member of the pair hq, with fwb");
  await goTo(page, `${address}/timeline?fail=device:fwa`);
  await ready(page);
  const established = page.getByRole("region", { name: "Established sessions" });
  await expect(established).toContainText("fwb has no session state");
  await goTo(page, `${address}/map?edit=pair:hq`);
  await ready(page);
  const form = await fill(page, "Edit the pair hq", { "Session state synchronized": "yes" });
  await form.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText(/^Revision 2$/)).toBeVisible();
  await goTo(page, `${address}/timeline?fail=device:fwa`);
  await ready(page);
  await expect(established).toContainText("survive");
});

test("a gateway that is too narrow for what it takes over is told on the board and in time", async ({
  page,
}) => {
  const plan = twoGateways({
    a: { track: [{ interface: "wan", lower: 30 }] },
    flow: { mbps: 20 },
    plan: {
      gateways: [
        { id: "left", label: "Left line", at: "ra/wan", mbps: 100 },
        { id: "right", label: "Right line", at: "rb/wan", mbps: 10 },
      ],
    },
  });
  const address = `/plans/${await keepPlan(page, plan)}`;
  await goTo(page, `${address}/failures`);
  await ready(page);
  const narrow = page.locator("[data-crowded]");
  await expect(narrow.first()).toHaveText("lacks capacity");
  // Only while the narrow link carries: its own failure leaves the wide one.
  await goTo(page, `${address}/failures?case=f&with=link:wa`);
  await ready(page);
  await expect(page.getByTestId("crowded")).toHaveText(
    "Capacity exceeded: the gateway Right line must carry 20 Mbit/s of f but has 10.",
  );
  await goTo(page, `${address}/failures?case=f&with=link:wb`);
  await ready(page);
  await expect(page.getByRole("region", { name: "Selected case" })).toBeVisible();
  await expect(page.getByTestId("crowded")).toHaveCount(0);
  await goTo(page, `${address}/timeline?fail=link:wa&heal=20000`);
  await ready(page);
  const room = page.getByRole("region", { name: "Capacity" });
  await expect(room.getByRole("listitem")).toHaveCount(1);
  await expect(room).toContainText(/From \d\.\d to 2\d\.\d s the gateway Right line must carry 20 Mbit\/s/);
});

test("the members of a bundle and tags on one interface are one line that opens, fails and folds", async ({
  page,
}) => {
  const address = `/plans/${await keepPlan(page, bundleOfTwo())}`;
  await goTo(page, `${address}/map?flow=f`);
  await ready(page);
  const folded = page.locator("[data-trunk]");
  await expect(folded).toHaveCount(1);
  await expect(folded).toHaveAccessibleName("Open 2 lines: b1, b2");
  const count = page.locator("[data-lines-left]");
  await expect(count).toHaveText("2");
  // The flow's ribbon takes the folded line, there and back.
  await expect(page.locator('[data-ribbon][data-link="b1"]')).toHaveCount(2);
  // One of them fails, by the menu: the line shows how many are left, and the flow uses the other.
  await count.click({ button: "right", force: true });
  await page.getByRole("menuitem", { name: "Fail b1" }).click();
  await expect(folded).toHaveAccessibleName("Open 2 lines: b1, b2, 1 of 2 down");
  await expect(count).toHaveText("1/2");
  await expect(page.locator('[data-ribbon][data-link="b2"]')).toHaveCount(2);
  // It opens by keyboard, each line separately, and remains open after a reload.
  await folded.focus();
  await page.keyboard.press("Enter");
  await expect(folded).toHaveCount(0);
  await page.reload();
  await ready(page);
  const drawing = page.getByRole("group", { name: "Network map" });
  await expect(drawing.getByRole("link", { name: "Restore b1" })).toBeVisible();
  await expect(drawing.getByRole("link", { name: "Fail b2" })).toBeVisible();
  await page.getByRole("link", { name: "Fold 2 lines: b1, b2" }).click();
  await expect(folded).toHaveCount(1);
  // While the network is edited every line is drawn separately.
  await goTo(page, `${address}/map?edit=link:b2`);
  await ready(page);
  await expect(folded).toHaveCount(0);
});
