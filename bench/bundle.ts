import type { Device, Plan } from "../core/plan/index.ts";
import type { InputFile } from "../exchange/readers/index.ts";

/** What iproute2 would say on each device of a plan: five files a device, as a collecting script would leave them. */
export function bundleOf(plan: Plan): InputFile[] {
  return plan.devices.flatMap((device) =>
    Object.entries(answersOf(device)).map(([name, answer]) => ({
      name: `${device.id}/${name}.json`,
      text: JSON.stringify(answer),
    })),
  );
}

function answersOf({ interfaces, routes, role }: Device) {
  return {
    address: interfaces.map(({ name, addresses }, i) => ({
      ifindex: i + 2,
      ifname: name,
      flags: ["BROADCAST", "MULTICAST", "UP", "LOWER_UP"],
      operstate: "UP",
      link_type: "ether",
      addr_info: addresses.map((own) => ({
        family: own.includes(":") ? "inet6" : "inet",
        local: own.slice(0, own.indexOf("/")),
        prefixlen: Number(own.slice(own.indexOf("/") + 1)),
      })),
    })),
    route: routes.map(({ to, via, out, distance }) => ({
      dst: to === "0.0.0.0/0" ? "default" : to,
      ...(via ? { gateway: via } : {}),
      ...(out ? { dev: out } : {}),
      protocol: "static",
      ...(distance ? { metric: distance } : {}),
      flags: [],
    })),
    rule: [],
    neighbour: [],
    netconf: [{ family: "inet", interface: "all", forwarding: role !== "host" }],
  };
}
