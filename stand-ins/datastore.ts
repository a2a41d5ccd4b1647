import { parseAddress } from "../core/address/index.ts";
import { type RouteReport, tableReport } from "../core/reports/index.ts";
import type { Scenario } from "../core/scenario/index.ts";
import { configurationOf } from "../exchange/writers/ietf.ts";

/** What a device of a plan would tell: its configuration, and its routes and interfaces as they are predicted. */
export function datastoreOf(scenario: Scenario, id: string): Record<string, unknown> {
  const { network, plan, world } = scenario;
  const index = network.deviceIndex.get(id);
  const device = plan.devices.find((entry) => entry.id === id);
  if (index === undefined || !device) throw new Error(`the plan has no device ${id}`);
  const configuration = configurationOf(plan, device);
  const interfaces = configuration["ietf-interfaces:interfaces"].interface.map((entry) => {
    const port = network.interfaceIndex.get(`${id}/${entry.name}`);
    const up = port !== undefined && world.state.interfaceUp[port] === 1;
    return { ...withRoles(scenario, port, entry), "oper-status": up ? "up" : "down" };
  });
  const { routes } = tableReport(world, index, "main");
  return {
    ...configuration,
    "ietf-interfaces:interfaces": { interface: interfaces },
    "ietf-routing:routing": {
      ...configuration["ietf-routing:routing"],
      ribs: { rib: ([4, 6] as const).map((version) => ribOf(routes, version)) },
    },
  };
}

type InterfaceEntry = ReturnType<typeof configurationOf>["ietf-interfaces:interfaces"]["interface"][number];

/** RFC 8347: the state of each virtual router, where it has begun. */
function withRoles({ network, world }: Scenario, port: number | undefined, entry: InterfaceEntry) {
  const own = network.virtuals.filter(({ interface: i }) => i === port);
  if (own.length === 0) return entry;
  const stateIn = (family: 4 | 6, vrid: number) => {
    const one = own.find(({ id, family: its }) => id === vrid && its === family);
    const active = one !== undefined && world.state.roles.virtualActive[one.index] === 1;
    if (!one || !world.state.interfaceUp[one.interface]) return "ietf-vrrp:initialize";
    return active ? "ietf-vrrp:master" : "ietf-vrrp:backup";
  };
  const told = { ...entry } as Record<string, unknown>;
  for (const family of [4, 6] as const) {
    const key = `ietf-ip:ipv${family}`;
    const ip = told[key] as { "ietf-vrrp:vrrp"?: { "vrrp-instance": { vrid: number }[] } } | undefined;
    const instances = ip?.["ietf-vrrp:vrrp"]?.["vrrp-instance"];
    if (!instances) continue;
    const stated = instances.map((one) => ({ ...one, state: stateIn(family, one.vrid) }));
    told[key] = { ...ip, "ietf-vrrp:vrrp": { "vrrp-instance": stated } };
  }
  return told;
}

const protocols: Readonly<Record<string, string>> = { connected: "direct", ospf: "ospfv2" };

/** RFC 8349, 5: a RIB with its candidate routes, of which those that carry are active. */
function ribOf(routes: readonly RouteReport[], version: 4 | 6) {
  // Its own addresses stand at the interfaces.
  const own = routes.filter(
    ({ to, toVrf, source }) => to.includes(":") === (version === 6) && !toVrf && source !== "local",
  );
  return {
    name: `ipv${version}-main`,
    "address-family": `ietf-routing:ipv${version}`,
    "default-rib": true,
    routes: { route: own.map((route) => routeOf(route, version)) },
  };
}

function routeOf({ to, via, out, source, distance, metric, state, discard }: RouteReport, version: 4 | 6) {
  const hop = discard
    ? { "special-next-hop": discard === "drop" ? "blackhole" : "unreachable" }
    : {
        ...(out ? { "outgoing-interface": out } : {}),
        ...(via && parseAddress(via) ? { [`ietf-ipv${version}-unicast-routing:next-hop-address`]: via } : {}),
      };
  return {
    [`ietf-ipv${version}-unicast-routing:destination-prefix`]: to,
    ...(distance === null ? {} : { "route-preference": distance }),
    ...(metric === 0 ? {} : { metric }),
    "next-hop": hop,
    "source-protocol": `ietf-routing:${protocols[source] ?? source}`,
    ...(state === "in-use" ? { active: [null] } : {}),
  };
}
