import type { Device, Plan } from "../../core/plan/index.ts";
import { writeCsv } from "../csv.ts";
import type { OutputFile } from "./output-file.ts";

/** Interfaces, routes and links as lists that the reader of lists takes back. */
export function csvFiles(plan: Plan, devices: readonly Device[]): OutputFile[] {
  const interfaces = devices.flatMap(({ id, interfaces: own }) =>
    own.map((entry) => [
      id,
      entry.name,
      entry.addresses.join(" "),
      entry.kind ?? "ethernet",
      entry.vrf ?? "main",
      entry.zone ?? "",
      entry.hardware ?? "",
    ]),
  );
  const routes = devices.flatMap(routeRows);
  const chosen = new Set(devices.map(({ id }) => id));
  const cables = plan.links.flatMap(({ ends }) => {
    const own = ends.filter((end) => chosen.has(end.slice(0, end.indexOf("/"))));
    return own
      .slice(1)
      .map((end) =>
        [own[0], end].flatMap((text) => [
          text.slice(0, text.indexOf("/")),
          text.slice(text.indexOf("/") + 1),
        ]),
      );
  });
  return [
    {
      name: "interfaces.csv",
      text: listOf(["device", "interface", "address", "kind", "vrf", "zone", "hardware"], interfaces),
    },
    {
      name: "routes.csv",
      text: listOf(
        ["device", "destination", "via", "out", "vrf", "distance", "metric", "source", "discard"],
        routes,
      ),
    },
    { name: "links.csv", text: listOf(["a device", "a interface", "b device", "b interface"], cables) },
  ];
}

const listOf = (head: readonly string[], rows: readonly (readonly string[])[]) => writeCsv([head, ...rows]);

/** A device's routes, those that it learned among them. */
function routeRows(device: Device): string[][] {
  return [
    ...device.routes.map((route) => [
      device.id,
      route.to,
      route.via ?? "",
      route.out ?? route.viaFrom ?? "",
      route.vrf ?? "main",
      String(route.distance ?? ""),
      String(route.metric ?? ""),
      "static",
      route.discard === "drop" ? "discard" : (route.discard ?? ""),
    ]),
    ...device.learned.map((route) => [
      device.id,
      route.to,
      route.via ?? "",
      route.out ?? "",
      route.vrf ?? "main",
      String(route.distance ?? ""),
      String(route.metric ?? ""),
      route.protocol,
      "",
    ]),
  ];
}
