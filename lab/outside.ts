import { parseAddress } from "../core/address/index.ts";
import type { Device, Plan, StaticRoute } from "../core/plan/index.ts";

/** Farther than whatever is written. */
const LAST = 4_100_000_000;

/** Implicit routes of providers, clouds and the internet (rules 7.3, 7.4 and 8): each announced prefix for the
 * internet, a default route toward it for the others. Only over links whose ends have addresses. */
export function outsideRoutes(plan: Plan, device: Device): StaticRoute[] {
  if (device.role !== "provider" && device.role !== "cloud" && device.role !== "internet") return [];
  return neighboursOf(plan, device).flatMap(({ out, neighbour, addresses }, n) => {
    const metric = LAST + n;
    if (device.role !== "internet") {
      if (neighbour.role !== "internet") return [];
      return addresses.map((via) => ({ to: via.includes(":") ? "::/0" : "0.0.0.0/0", via, out, metric }));
    }
    return (neighbour.announces ?? []).flatMap((to) => {
      const via = addresses.find((address) => address.includes(":") === to.includes(":"));
      return via ? [{ to, via, out, metric }] : [];
    });
  });
}

interface Neighbour {
  readonly out: string;
  readonly neighbour: Device;
  readonly addresses: readonly string[];
}

function neighboursOf(plan: Plan, device: Device): Neighbour[] {
  return plan.links.flatMap((link) => {
    const own = link.ends.find((end) => end.startsWith(`${device.id}/`));
    if (!own) return [];
    return link.ends
      .filter((end) => end !== own)
      .flatMap((end) => {
        const slash = end.indexOf("/");
        const neighbour = plan.devices.find(({ id }) => id === end.slice(0, slash));
        const port = neighbour?.interfaces.find(({ name }) => name === end.slice(slash + 1));
        if (!neighbour || !port) return [];
        const addresses = port.addresses.map((address) => address.split("/")[0]);
        return [{ out: own.slice(device.id.length + 1), neighbour, addresses }];
      });
  });
}

/** Addresses that the internet answers for: targets of flows and probes without an owner (rule 7.4). */
export function answeredOutside(plan: Plan): string[] {
  const owned = new Set(
    plan.devices.flatMap(({ interfaces }) =>
      interfaces.flatMap(({ addresses }) => addresses.map((address) => address.split("/")[0])),
    ),
  );
  const asked = [
    ...plan.flows.map(({ to }) => to),
    ...plan.devices.flatMap(({ watches }) =>
      watches.flatMap((watch) => (watch.kind === "probe" ? [watch.target] : [])),
    ),
  ];
  return [...new Set(asked.filter((address) => parseAddress(address) && !owned.has(address)))];
}
