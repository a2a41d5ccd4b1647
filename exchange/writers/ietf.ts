import { parseInterfaceAddress } from "../../core/address/index.ts";
import { profileOf } from "../../core/network/index.ts";
import type { Device, Plan, StaticRoute } from "../../core/plan/index.ts";
import type { OutputFile } from "./output-file.ts";
import { instancesOf } from "./virtual-routers.ts";
import { formatXml } from "./xml.ts";

const types: Readonly<Record<string, string>> = {
  ethernet: "iana-if-type:ethernetCsmacd",
  serial: "iana-if-type:ppp",
  tunnel: "iana-if-type:tunnel",
  loopback: "iana-if-type:softwareLoopback",
  management: "iana-if-type:ethernetCsmacd",
  bundle: "iana-if-type:ieee8023adLag",
};

const specials = { drop: "blackhole", reject: "unreachable" } as const;

function family(addresses: readonly string[], wanted: 4 | 6, forwarding: boolean) {
  const own = addresses.flatMap((text) => {
    const read = parseInterfaceAddress(text);
    return read?.address.family === wanted
      ? [{ ip: text.slice(0, text.indexOf("/")), "prefix-length": read.length }]
      : [];
  });
  return own.length > 0 ? { forwarding, address: own } : null;
}

/** RFC 8343, 8344 and 8347: the interfaces with their addresses and virtual routers. */
function interfacesOf(device: Device) {
  const byDefault = device.role !== "host";
  return device.interfaces.map((entry) => {
    const ipv4 = family(entry.addresses, 4, device.forwarding?.ipv4 ?? byDefault);
    const ipv6 = family(entry.addresses, 6, device.forwarding?.ipv6 ?? byDefault);
    const [four, six] = [instancesOf(entry, 4), instancesOf(entry, 6)];
    const vrrp = (instances: typeof four) =>
      instances.length > 0 ? { "ietf-vrrp:vrrp": { "vrrp-instance": instances } } : {};
    return {
      name: entry.name,
      ...(entry.note ? { description: entry.note } : {}),
      type: types[entry.kind ?? "ethernet"],
      enabled: entry.enabled !== false,
      ...(ipv4 ? { "ietf-ip:ipv4": { ...ipv4, ...vrrp(four) } } : {}),
      ...(ipv6 ? { "ietf-ip:ipv6": { ...ipv6, ...vrrp(six) } } : {}),
    };
  });
}

function nextHop(route: StaticRoute, version: 4 | 6) {
  if (route.discard) return { "special-next-hop": specials[route.discard] };
  return {
    ...(route.out ? { "outgoing-interface": route.out } : {}),
    ...(route.via ? { [`ietf-ipv${version}-unicast-routing:next-hop-address`]: route.via } : {}),
  };
}

/** RFC 8349: static routes of the main instance; those to one destination as a list of next hops. A list shares load,
 * so only the preferred routes are included: the model cannot express standby routes. */
function staticsOf(plan: Plan, device: Device, version: 4 | 6) {
  const { staticDistance } = profileOf(plan, device).profile;
  const preference = ({ distance, metric = 0 }: StaticRoute) =>
    [staticDistance === null ? 0 : (distance ?? staticDistance), metric] as const;
  const groups = new Map<string, StaticRoute[]>();
  for (const route of device.routes) {
    const own = (route.to.includes(":") ? 6 : 4) === version;
    if (!own || route.enabled === false || route.toVrf || route.viaFrom || (route.vrf ?? "main") !== "main")
      continue;
    const [first, ...rest] = groups.get(route.to) ?? [];
    const [mine, other] = [preference(route), first && preference(first)];
    const rank = other ? mine[0] - other[0] || mine[1] - other[1] : 0;
    if (!first || rank < 0) groups.set(route.to, [route]);
    else if (rank === 0) groups.set(route.to, [first, ...rest, route]);
  }
  return [...groups].map(([to, routes]) => {
    const hops = routes.map((route) => nextHop(route, version));
    const list = {
      "next-hop-list": { "next-hop": hops.map((hop, index) => ({ index: String(index + 1), ...hop })) },
    };
    return { "destination-prefix": to, "next-hop": hops.length === 1 ? hops[0] : list };
  });
}

/** A device's configuration in the IETF's models (RFC 8343, 8344, 8347, 8349, 7317); VRFs, watches, distances and policy tables have no place in them. */
export function configurationOf(plan: Plan, device: Device) {
  const statics = ([4, 6] as const).flatMap((version) => {
    const route = staticsOf(plan, device, version);
    return route.length > 0 ? [[`ietf-ipv${version}-unicast-routing:ipv${version}`, { route }] as const] : [];
  });
  const protocol = {
    type: "ietf-routing:static",
    name: "static",
    "static-routes": Object.fromEntries(statics),
  };
  return {
    "ietf-system:system": { hostname: device.label ?? device.id },
    "ietf-interfaces:interfaces": { interface: interfacesOf(device) },
    "ietf-routing:routing": {
      "control-plane-protocols": { "control-plane-protocol": statics.length > 0 ? [protocol] : [] },
    },
  };
}

/** One document a device as JSON (RFC 7951). */
export function ietfJsonFiles(plan: Plan, devices: readonly Device[]): OutputFile[] {
  return devices.map((device) => ({
    name: `${device.id}.json`,
    text: `${JSON.stringify(configurationOf(plan, device), null, 2)}\n`,
  }));
}

/** The same as XML, each element in its module's namespace (RFC 7950, section 5.3). */
export function ietfXmlFiles(plan: Plan, devices: readonly Device[]): OutputFile[] {
  return devices.map((device) => ({
    name: `${device.id}.xml`,
    text: formatXml(configurationOf(plan, device)),
  }));
}
