import { expect, test } from "@playwright/test";
import { goTo, ready, unopenedPlan } from "./plan.ts";

const table = `
 kind   network          towards        port    cost
 H      0.0.0.0/0        203.0.113.1    up         5
 O      203.0.113.0/30   -              up         0
 O      10.55.0.0/24     -              lan        0
 some words that say nothing
`;

const file = (name: string, text: string) => ({ name, mimeType: "text/plain", buffer: Buffer.from(text) });

test("a route table of a layout that nobody described becomes a working device, and undo takes it back", async ({
  page,
}) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/import`);
  await ready(page);
  await page.getByLabel("Choose files").setInputFiles(file("puffin-edge.txt", table));
  await expect(page.getByTestId("read-summary")).toContainText("1 device (1 new), 1 outlined");
  const lines = page.getByRole("region", { name: "Lines" });
  await expect(lines).toContainText('unknown code "H"');

  // What its words mean is asked once, and answered by keyboard.
  for (const [word, meaning] of [
    ["H", "static"],
    ["O", "connected"],
  ]) {
    await page.getByRole("combobox", { name: `Meaning of ${word}` }).press("Enter");
    await expect(page.getByRole("option", { name: meaning })).toBeVisible();
    await page.keyboard.type(meaning.slice(0, 2));
    await expect(page.getByRole("option", { name: meaning })).toBeFocused();
    await page.keyboard.press("Enter");
    await expect(page.getByRole("combobox", { name: `Meaning of ${word}` })).toHaveText(meaning);
  }
  await expect(lines).not.toContainText("unknown code");
  await expect(lines).toContainText("a route to 0.0.0.0/0 via 203.0.113.1 out up, static");
  await expect(page.getByTestId("read-summary")).toContainText("0 assumed, 2 ignored, 0 not understood");
  await page.getByRole("tab", { name: /^Links/ }).click();
  await expect(page.getByRole("tabpanel")).toContainText("203.0.113.1 is a next hop of puffin-edge");

  await page.getByRole("button", { name: "Import into plan" }).click();
  await expect(page.getByText("Imported as revision 2.")).toBeVisible();
  // The lone router works at once; the network beyond its next hop is not modeled.
  await goTo(page, `${plan}/devices/puffin-edge`);
  await expect(page.locator('[data-destination="0.0.0.0/0"]')).toContainText("active");
  await goTo(page, `${plan}/paths?from=puffin-edge&to=198.18.0.9`);
  await expect(page.locator("main")).toContainText("not modeled");
  await page.getByRole("button", { name: "Undo" }).click();
  await goTo(page, `${plan}/devices/puffin-edge`);
  await expect(page.getByText("The plan has no device puffin-edge.")).toBeVisible();
});

test("several devices are joined by what they say of each other; what is unticked stays out", async ({
  page,
}) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/import`);
  await ready(page);
  const address = (name: string, mac: string, ip: string) =>
    JSON.stringify([
      {
        ifname: name,
        flags: ["UP", "LOWER_UP"],
        link_type: "ether",
        address: mac,
        addr_info: [{ local: ip, prefixlen: 24 }],
      },
    ]);
  const seen = JSON.stringify([
    { dst: "10.66.0.2", dev: "eth0", lladdr: "00:00:5e:00:53:b2", state: ["REACHABLE"] },
  ]);
  const paste = async (device: string, text: string) => {
    await page.getByLabel("Device", { exact: true }).fill(device);
    await page.getByLabel("Device output").fill(text);
    await page.getByRole("button", { name: "Read text" }).click();
  };
  await paste("puffin-a", address("eth0", "00:00:5e:00:53:a1", "10.66.0.1"));
  await paste("puffin-b", address("eth0", "00:00:5e:00:53:b2", "10.66.0.2"));
  await page.getByLabel("Choose files").setInputFiles(file("puffin-a.json", seen));
  await page.getByRole("tab", { name: /^Links/ }).click();
  await expect(page.getByRole("tabpanel")).toContainText("puffin-a sees 10.66.0.2");
  await expect(page.getByRole("tabpanel")).toContainText("certain");
  await page.getByRole("tab", { name: /^Devices/ }).click();
  await page.getByRole("checkbox", { name: /^puffin-b/ }).uncheck();
  await page.getByRole("button", { name: "Import into plan" }).click();
  await expect(page.getByText("Imported as revision 2.")).toBeVisible();
  await goTo(page, `${plan}/map`);
  await expect(page.getByRole("link", { name: "Routes of puffin-a" })).toHaveCount(1);
  await expect(page.getByRole("link", { name: "Routes of puffin-b" })).toHaveCount(0);
});

test("an address that two devices of a segment have is told before it is imported", async ({ page }) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/import`);
  await ready(page);
  const files = [
    { device: "puffin-a", own: "1", hardware: "00:00:5e:00:53:a1", sees: "2", at: "00:00:5e:00:53:b2" },
    { device: "puffin-b", own: "2", hardware: "00:00:5e:00:53:b2", sees: "1", at: "00:00:5e:00:53:a1" },
    { device: "puffin-c", own: "2", hardware: "00:00:5e:00:53:c3", sees: "1", at: "00:00:5e:00:53:a1" },
  ].map(({ device, own, hardware, sees, at }) => {
    const lines = [
      "2: eth0: <UP,LOWER_UP> mtu 1500",
      `    link/ether ${hardware}`,
      `    inet 10.66.0.${own}/24 scope global eth0`,
      `10.66.0.${sees} dev eth0 lladdr ${at} REACHABLE`,
    ];
    return file(`${device}.txt`, lines.join("\n"));
  });
  await page.getByLabel("Choose files").setInputFiles(files);
  await expect(page.getByText(/New finding: .*10\.66\.0\.2/)).toBeVisible();
  await expect(page.getByRole("button", { name: "Import into plan" })).toBeEnabled();
});

test("what cannot be understood is told line by line, and stops nothing", async ({ page }) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/import`);
  await ready(page);
  await page
    .getByLabel("Choose files")
    .setInputFiles([
      file("notes.txt", "these are notes, and no table"),
      file("puffin-edge.txt", table),
      file("broken.json", '[{"ifname":"eth0"'),
    ]);
  await page.getByRole("button", { name: "not understood" }).click();
  const lines = page.getByRole("region", { name: "Lines" });
  await expect(lines).toContainText("unknown format");
  await expect(lines).toContainText("this is not valid JSON");
  await expect(page.getByRole("button", { name: "Import into plan" })).toBeEnabled();
});

test("what devices said is kept by device and time, found by an address, and compared with the plan", async ({
  page,
}) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/drift`);
  await expect(page.getByText("No readings yet.")).toBeVisible();
  await page
    .getByRole("navigation", { name: "Pages of Import & export" })
    .getByRole("link", { name: "Import" })
    .click();
  await ready(page);
  const said = "H 10.77.0.0/16 203.0.113.1 quay [1/0]\nO 203.0.113.0/30 - quay\n";
  await page.getByLabel("Choose files").setInputFiles(file("puffin-edge.txt", said));
  await page.getByRole("button", { name: "Import into plan" }).click();
  await expect(page.getByText("Imported as revision 2.")).toBeVisible();
  await goTo(page, `${plan}/drift`);
  await expect(page.getByTestId("drift-summary")).toContainText("matches the plan");

  // In a new reading the device has lost one route and gained another: that is drift, and the plan is unchanged.
  await goTo(page, `${plan}/import`);
  await ready(page);
  const later = "H 10.78.0.0/16 203.0.113.1 quay [1/0]\nO 203.0.113.0/30 - quay\n";
  await page.getByLabel("Choose files").setInputFiles(file("puffin-edge.txt", later));
  await page.getByRole("button", { name: "Save readings only" }).click();
  await expect(page.getByText("Readings of 1 device saved.")).toBeVisible();
  await goTo(page, `${plan}/polling`);
  const kept = page.getByRole("region", { name: "Latest readings" });
  await kept.getByLabel("Find an address in the readings").fill("10.78.1.1");
  await kept.getByRole("button", { name: "Find" }).click();
  await expect(kept).toContainText("puffin-edge");
  await kept.getByLabel("Find an address in the readings").fill("10.77.1.1");
  await kept.getByRole("button", { name: "Find" }).click();
  await expect(kept).toContainText("No reading contains a network with 10.77.1.1.");
  await goTo(page, `${plan}/polling?find=nonsense`);
  await expect(kept).toContainText('"nonsense" is not an IPv4 or IPv6 address');
  await expect(page.getByText("Revision 2")).toBeVisible();
  await goTo(page, `${plan}/drift`);
  const listed = page.getByRole("list", { name: "Differences" });
  await expect(listed).toContainText("10.78.0.0/16");
  const device = page
    .getByRole("region", { name: "Devices compared" })
    .getByRole("button", { name: /^puffin-edge: \d differences$/ });
  await device.click();
  await expect(device).toHaveAttribute("aria-pressed", "true");
  await expect(listed).toContainText("10.78.0.0/16");

  // One is meant to stay: without a reason it is listed on, with one it is set apart until it counts again.
  const quiet = page.getByRole("region", { name: "Ignored differences" });
  await page.getByRole("checkbox", { name: /10\.78\.0\.0\/16/ }).check();
  await page.getByRole("button", { name: "Ignore differences" }).click();
  await expect(page.getByRole("alert")).toContainText("Enter a reason");
  await page.getByRole("checkbox", { name: /10\.78\.0\.0\/16/ }).check();
  await page.getByLabel("Reason").fill("lab route");
  await page.getByRole("button", { name: "Ignore differences" }).click();
  await expect(quiet).toContainText("Ignored: lab route");
  await expect(page.getByText("Revision 3")).toBeVisible();
  await quiet.getByRole("button", { name: /^Stop ignoring/ }).click();
  await expect(listed).toContainText("10.78.0.0/16");
  await expect(quiet).toHaveCount(0);
});

test("the plan goes out in each form, and what went out comes in again without a change", async ({
  page,
}) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/export`);
  await ready(page);
  const out = page.getByRole("region", { name: "Device configurations" });
  for (const name of ["IETF models (JSON)", "IETF models (XML)", "iproute2 batches", "Topology (RFC 8345)"]) {
    const [download] = await Promise.all([
      page.waitForEvent("download"),
      out.getByRole("link", { name }).click(),
    ]);
    expect(download.suggestedFilename()).toMatch(/\.zip$/);
  }
  const [lists] = await Promise.all([
    page.waitForEvent("download"),
    out.getByRole("link", { name: "Lists (CSV)" }).click(),
  ]);
  const archive = await lists.path();
  await page
    .getByRole("navigation", { name: "Pages of Import & export" })
    .getByRole("link", { name: "Import" })
    .click();
  await page.getByLabel("Choose files").setInputFiles(archive);
  await expect(page.getByTestId("read-summary")).toContainText("(0 new)");
  const refused = await page.request.get(`${plan}/out?as=nothing`);
  expect(refused.status()).toBe(400);
});
