import { expect, test } from "@playwright/test";
import { goTo, ready, unopenedPlan } from "./plan.ts";

/** Five routers in a chain, each with a LAN, as five kinds of text print them. */
const COUNT = 5;
const lan = (n: number) => `10.44.${n}.0/24`;
const transfer = (n: number) => `172.20.${n}.`;

interface Printed {
  readonly ports: readonly { readonly name: string; readonly address: string; readonly length: number }[];
  readonly routes: readonly { readonly to: string; readonly via: string; readonly out: string }[];
}

/** A router of the chain: its LAN, its neighbors, and a route to every other LAN. */
function router(n: number): Printed {
  const ports = [{ name: "lan", address: `10.44.${n}.1`, length: 24 }];
  if (n > 1) ports.push({ name: "west", address: `${transfer(n - 1)}2`, length: 30 });
  if (n < COUNT) ports.push({ name: "east", address: `${transfer(n)}1`, length: 30 });
  const others = Array.from({ length: COUNT }, (_, i) => i + 1).filter((other) => other !== n);
  const routes = others.map((other) =>
    other < n
      ? { to: lan(other), via: `${transfer(n - 1)}1`, out: "west" }
      : { to: lan(other), via: `${transfer(n)}2`, out: "east" },
  );
  return { ports, routes };
}

const network = ({ address, length }: Printed["ports"][number]) =>
  length === 24 ? address.replace(/\.1$/, ".0/24") : address.replace(/\.[12]$/, ".0/30");

const layouts: readonly ((name: string, device: Printed) => string)[] = [
  (name, { ports, routes }) =>
    [
      `${name}# list interfaces`,
      "Interface  IP address        Status",
      ...ports.map((port) => `${port.name.padEnd(10)} ${`${port.address}/${port.length}`.padEnd(17)} up`),
      `${name}# list routes`,
      "Codes: C - connected, S - static",
      "       * - possible default",
      "",
      ...ports.map((port) => `C    ${network(port)} is directly connected, ${port.name}`),
      ...routes.map(({ to, via, out }) => `S    ${to} [1/0] via ${via}, ${out}`),
      `${name}#`,
    ].join("\n"),
  (_, { ports, routes }) =>
    [
      ...ports.flatMap(({ name, address }) => [
        `interface ${name}`,
        ` ip address ${address} 255.255.255.${name === "lan" ? 0 : 252}`,
        "!",
      ]),
      ...routes.map(({ to, via }) => `ip route ${to.split("/")[0]} 255.255.255.0 ${via} name far`),
    ].join("\n"),
  (_, { ports, routes }) =>
    [
      "Ziel             Nächster Hop     Schnittstelle  Distanz  Herkunft",
      ...ports.map(
        (port) => `${network(port).padEnd(16)} -                ${port.name.padEnd(14)} 0        direkt`,
      ),
      ...ports.map(
        (port) =>
          `${`${port.address}/32`.padEnd(16)} -                ${port.name.padEnd(14)} 0        lokal`,
      ),
      ...routes.map(
        ({ to, via, out }) => `${to.padEnd(16)} ${via.padEnd(16)} ${out.padEnd(14)} 1        statisch`,
      ),
    ].join("\n"),
  (_, { ports, routes }) =>
    [
      ...ports.map(({ name, address, length }) => `interface=${name} address=${address}/${length}`),
      ...routes.map(({ to, via, out }) => `dst=${to} gw=${via} iface=${out} distance=1 origin=static`),
    ].join("\n"),
  (_, { ports, routes }) =>
    [
      "interfaces {",
      ...ports.flatMap(({ name, address, length }) => [
        `  ${name} {`,
        `    address ${address}/${length};`,
        "  }",
      ]),
      "}",
      "static {",
      ...routes.map(({ to, via }) => `  route ${to} next-hop ${via};`),
      "}",
    ].join("\n"),
];

test("a network is in the plan from texts of five layouts, and its predictions are right", async ({
  page,
}) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/import`);
  await ready(page);
  for (let n = 1; n <= COUNT; n++) {
    await page.getByLabel("Device output").fill(layouts[n - 1](`chain-${n}`, router(n)));
    await page.getByRole("textbox", { name: "Device", exact: true }).fill(`chain-${n}`);
    await page.getByRole("button", { name: "Read text" }).click();
  }
  const summary = page.getByTestId("read-summary");
  await expect(summary).toContainText("5 devices (5 new), 0 outlined, 9 links");
  await expect(summary).toContainText("0 not understood");
  await expect(page.getByRole("region", { name: "Open questions" })).toHaveCount(0);
  await page.getByRole("button", { name: "Import into plan" }).click();
  await expect(page.getByText("Imported as revision 2.")).toBeVisible();
  await goTo(page, `${plan}/paths?from=chain-1&source=10.44.1.1&to=10.44.5.1`);
  await expect(page.locator("main")).toContainText("chain-5");
  await expect(page.locator("main")).toContainText("It works");
  await goTo(page, `${plan}/paths?from=chain-5&source=10.44.5.1&to=10.44.1.1`);
  await expect(page.locator("main")).toContainText("It works");
});

test("a number that the text does not explain is asked once, and answered by keyboard", async ({ page }) => {
  const plan = await unopenedPlan(page);
  await goTo(page, `${plan}/import`);
  await ready(page);
  for (const device of ["tern", "gull"]) {
    await page
      .getByLabel("Device output")
      .fill("S 10.66.0.0/16 via 203.0.113.1 lan 20\nS 10.67.0.0/16 via 203.0.113.1 lan 20\n");
    await page.getByRole("textbox", { name: "Device", exact: true }).fill(device);
    await page.getByRole("button", { name: "Read text" }).click();
  }
  const questions = page.getByRole("region", { name: "Open questions" });
  await expect(questions).toContainText("Value 6 of the line on 4 lines is the");
  const lines = page.getByRole("region", { name: "Lines" });
  await expect(lines).toContainText("is value 6 the distance or the metric?");
  await questions
    .getByRole("button", { name: /^distance: 10.66.0.0\/16 via 203.0.113.1 distance 20/ })
    .press("Enter");
  await expect(questions).toContainText("Value 6 of the line: distance");
  await expect(lines).toContainText("a route to 10.66.0.0/16 via 203.0.113.1 out lan");
  await questions.getByRole("button", { name: "Change" }).click();
  await expect(lines).toContainText("is value 6 the distance or the metric?");
});
