import { readFileSync } from "node:fs";
import { expect, type Page, test } from "@playwright/test";
import { goTo, ready, unopenedPlan } from "./plan.ts";

/** A cost follows the destination without any indication in the text; the last word is the interface. */
const table = `q 10.1.0.0/16 20 203.0.113.1 quay9
q 10.2.0.0/16 30 203.0.113.1 quay9
own 203.0.113.0/30 0 quay9
`;
const file = { name: "razorbill.txt", mimeType: "text/plain", buffer: Buffer.from(table) };

/** Says by keyboard alone what the chosen token is. */
async function chooseRole(page: Page, role: string) {
  await page.getByRole("combobox", { name: "Role of the token" }).press("Enter");
  const option = page.getByRole("option", { name: role, exact: true });
  await expect(option).toBeVisible();
  await page.keyboard.type(role.slice(0, 4));
  await expect(option).toBeFocused();
  await page.keyboard.press("Enter");
}

test("a table is shown coloured; a token's role is corrected by mouse and by keyboard; the layout is kept and recognised", async ({
  page,
}) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/import`);
  await ready(page);
  await page.getByLabel("Choose files").setInputFiles(file);
  await page.getByRole("tab", { name: "Tables 1" }).click();
  // By mouse: the number is the metric, on both lines of the shape.
  await page.getByRole("button", { name: "20: ignored" }).click();
  await expect(page.getByText("on 2 lines of this shape")).toBeVisible();
  await page.getByRole("combobox", { name: "Role of the token" }).click();
  await page.getByRole("option", { name: "metric", exact: true }).click();
  await expect(page.getByRole("button", { name: "20: metric" })).toBeVisible();
  await expect(page.getByRole("button", { name: "30: metric" })).toBeVisible();
  // By keyboard: down to the next line, and along it to the interface, which is then no interface, and one again.
  await page.getByRole("button", { name: "20: metric" }).focus();
  await page.keyboard.press("ArrowDown");
  await expect(page.getByRole("button", { name: "30: metric" })).toBeFocused();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("button", { name: "quay9: interface" }).nth(1)).toBeFocused();
  await chooseRole(page, "ignored");
  await expect(page.getByRole("button", { name: "quay9: ignored" })).toHaveCount(2);
  await chooseRole(page, "interface");
  await expect(page.getByRole("button", { name: "quay9: interface" })).toHaveCount(3);

  await page.getByRole("combobox", { name: "Meaning of q" }).click();
  await page.getByRole("option", { name: "static" }).click();
  const name = `Razorbill ${Date.now()}`;
  await page.getByLabel("Save this layout as").fill(name);
  await page.getByRole("button", { name: "Save layout" }).click();
  await expect(page.getByText(`Layout ${name} saved.`)).toBeVisible();

  // The next time it is recognized automatically, including its words.
  await page.reload();
  await ready(page);
  await page.getByLabel("Choose files").setInputFiles(file);
  await page.getByRole("tab", { name: "Tables 1" }).click();
  await expect(page.getByText(`Recognized: ${name}`)).toBeVisible();
  await expect(page.getByRole("button", { name: "20: metric" })).toBeVisible();
  await expect(page.getByRole("combobox", { name: "Meaning of q" })).toHaveCount(0);

  // It goes out as a document, and comes in again.
  const layouts = page.getByRole("region", { name: "Layouts" });
  const row = layouts.getByRole("listitem").filter({ hasText: name });
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    row.getByRole("link", { name: "Export" }).click(),
  ]);
  const path = await download.path();
  expect(JSON.parse(readFileSync(path, "utf8"))).toMatchObject({
    ironForkLayout: 1,
    name,
    words: { q: "static" },
  });
  await row.getByRole("button", { name: `Remove the layout ${name}` }).click();
  await expect(row).toHaveCount(0);
  await layouts.getByLabel("Import layout file").setInputFiles(path);
  await expect(row).toBeVisible();
  await row.getByRole("button", { name: `Remove the layout ${name}` }).click();
  await expect(row).toHaveCount(0);
});

test("the picture is rebuilt from a table line by line, by keyboard, and each part shows its line", async ({
  page,
}) => {
  const plan = await unopenedPlan(page, "three-routers");
  await goTo(page, `${plan}/topology`);
  await ready(page);
  await page.getByRole("button", { name: "Insert example" }).click();
  await page.getByRole("button", { name: "Draw topology" }).click();
  const lines = page.getByRole("listbox", { name: "Lines of the table" });
  const drawing = page.getByRole("img", { name: "Topology so far" });
  await expect(drawing.locator("[data-part]")).toHaveCount(1);
  await lines.focus();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowDown");
  await expect(lines.getByRole("option", { selected: true })).toContainText("203.0.113.0/30, attached to up");
  await expect(drawing.locator("[data-part]")).toHaveCount(3);
  await page.keyboard.press("End");
  await expect(drawing.locator('[data-part="network 10.48.0.0/12 device"]')).toContainText("discarded");
  await drawing.locator('[data-part="hop 10.55.0.2"]').click();
  await expect(lines.getByRole("option", { selected: true })).toContainText("a neighbor, 10.55.0.2, on lan");
  await page.getByLabel("Quiz: guess what each line adds").check();
  await lines.focus();
  await page.keyboard.press("ArrowDown");
  await expect(lines.getByRole("option", { selected: true })).toContainText("What does this line add?");
  await page.keyboard.press("Enter");
  await expect(lines.getByRole("option", { selected: true })).toContainText(
    "10.60.0.0/16, through 203.0.113.1",
  );
});

test("the book has a page for each device, and is printed as PDF; so is the drawing", async ({ page }) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/network-report`);
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Marrow Bay Ferries");
  await expect(page.getByRole("heading", { name: "Tern Point edge" })).toBeVisible();
  await expect(page.locator("#board")).toContainText("broken by any of");
  await expect(page.locator("#findings li").first()).toBeVisible();
  await expect(page.locator("#history")).toContainText("imported from pasted text");
  for (const as of ["pdf", "drawing-pdf"]) {
    const printed = await page.request.get(`${plan}/network-report?as=${as}`);
    expect(printed.headers()["content-type"]).toBe("application/pdf");
    expect((await printed.body()).subarray(0, 5).toString()).toBe("%PDF-");
  }
  const svg = await page.request.get(`${plan}/network-report?as=drawing-svg`);
  expect(await svg.text()).toContain("<svg");
  expect((await page.request.get(`${plan}/network-report?as=nothing`)).status()).toBe(400);
});
