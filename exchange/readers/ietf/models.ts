import {
  defaultPrefix,
  formatAddress,
  formatPrefix,
  parseAddress,
  parseInterfaceAddress,
  parsePrefix,
} from "../../../core/address/index.ts";
import type { Collector, InterfaceFact, RouteFact } from "../../facts/index.ts";
import { child, list, text } from "./tree.ts";
import { virtualsOf } from "./virtual-routers.ts";

export interface At {
  readonly file: string;
  readonly line: number;
  readonly text: string;
}

/** An identity without its module: "ietf-routing:static" and "rt:static" are "static". */
const identity = (value: string | null) => (value === null ? null : value.slice(value.lastIndexOf(":") + 1));

const kinds: Readonly<Record<string, InterfaceFact["kind"]>> = {
  ethernetCsmacd: "ethernet",
  softwareLoopback: "loopback",
  tunnel: "tunnel",
  ppp: "serial",
  ieee8023adLag: "bundle",
  bridge: "bridge",
  l2vlan: "ethernet",
  l3ipvlan: "ethernet",
};

/** RFC 8343 and 8344: an interface of the configuration or of the state, with its addresses. */
export function takeInterface(tree: unknown, at: At, into: Collector) {
  const name = text(tree, "name");
  if (name === null) return into.fate(at, "not-understood", "an interface without a name");
  const enabled = text(tree, "enabled");
  const status = text(tree, "oper-status");
  const wrong: string[] = [];
  const addresses = ["ipv4", "ipv6"].flatMap((family) =>
    list(child(tree, family), "address").flatMap((entry) => {
      const [ip, length, mask] = [text(entry, "ip"), text(entry, "prefix-length"), text(entry, "netmask")];
      const read = parseInterfaceAddress(`${ip}/${length ?? mask ?? ""}`);
      if (!read) wrong.push(String(ip));
      return read ? [`${formatAddress(read.address)}/${read.length}`] : [];
    }),
  );
  for (const family of ["ipv4", "ipv6"] as const) {
    const forwarding = text(child(tree, family), "forwarding");
    if (forwarding !== null) into.forwardingOf.push([family, forwarding === "true"]);
    for (const entry of list(child(tree, family), "neighbor")) {
      const [ip, hardware] = [parseAddress(text(entry, "ip") ?? ""), text(entry, "link-layer-address")];
      if (ip)
        into.add("neighbours", {
          address: formatAddress(ip),
          hardware: hardware?.toLowerCase() ?? null,
          interface: name,
        });
    }
  }
  const speed = text(tree, "speed");
  const virtuals = ([4, 6] as const).map((version) => virtualsOf(child(tree, `ipv${version}`), version));
  for (const { unread } of virtuals) wrong.push(...unread);
  into.interface(name, {
    virtual: virtuals.flatMap(({ virtual }) => virtual),
    kind: kinds[identity(text(tree, "type")) ?? ""] ?? null,
    enabled:
      enabled === null
        ? text(tree, "admin-status") === null
          ? null
          : text(tree, "admin-status") === "up"
        : enabled === "true",
    up: status === null ? null : status === "up",
    hardware: text(tree, "phys-address")?.toLowerCase() ?? null,
    addresses: addresses.filter((own) => !own.startsWith("127.") && own !== "::1/128"),
    mbps: speed === null ? null : Number(speed) / 1e6,
    parent: text(tree, "parent-interface"),
    // RFC 8529's schema mount is not read; the older leaf that binds an interface to its routing instance is.
    vrf: text(tree, "bind-ni-name") ?? text(tree, "bind-network-instance-name"),
  });
  const ids = virtuals.flatMap(({ virtual }) => virtual.map(({ id }) => id));
  const shared = ids.length > 0 ? `, the virtual router ${[...new Set(ids)].join(", ")}` : "";
  const detail = `${addresses.length > 0 ? ` with ${addresses.join(", ")}` : ""}${shared}`;
  into.fate(
    at,
    wrong.length > 0 ? "doubtful" : "taken",
    `the interface ${name}${detail}${wrong.length > 0 ? `; not read: ${wrong.join(", ")}` : ""}`,
  );
}

const specials: Readonly<Record<string, RouteFact["discard"]>> = {
  blackhole: "drop",
  unreachable: "reject",
  prohibit: "reject",
};

const sources: Readonly<Record<string, string>> = {
  direct: "connected",
  ospfv2: "ospf",
  ospfv3: "ospf",
};

/** Where a route's next hops lead (RFC 8349, section 7): one, several, or none but a special one. */
function hopsOf(tree: unknown): { via: string | null; out: string | null; special: string | null }[] {
  const hop = child(tree, "next-hop");
  const several = child(hop, "next-hop-list");
  const each = several === undefined ? [hop] : list(several, "next-hop");
  return each.map((one) => ({
    via: text(one, "next-hop-address") ?? text(one, "address"),
    out: text(one, "outgoing-interface"),
    special: identity(text(one, "special-next-hop") ?? text(one, "special-next-hop-enum")),
  }));
}

/** RFC 8349: a route of a RIB, or a static one of the configuration. */
export function takeRoute(
  tree: unknown,
  where: { vrf: string; source: string | null; ofState: boolean },
  at: At,
  into: Collector,
) {
  const detail = text(tree, "destination-prefix");
  const hops = hopsOf(tree);
  const prefix = detail === null ? null : parsePrefix(detail);
  const family = parseAddress(hops[0]?.via ?? "")?.family ?? 4;
  const to = prefix
    ? formatPrefix(prefix)
    : detail === "default"
      ? formatPrefix(defaultPrefix(family))
      : null;
  if (to === null)
    return into.fate(
      at,
      "not-understood",
      `${detail === null ? "a route without a destination" : `"${detail}" is not a destination`}`,
    );
  const protocol = identity(text(tree, "source-protocol"));
  const source = protocol === null ? where.source : (sources[protocol] ?? protocol);
  const preference = text(tree, "route-preference");
  const metric = text(tree, "metric");
  // In a RIB a route is in use where "active" stands, which is a leaf without a value.
  const active = where.ofState ? child(tree, "active") !== undefined : null;
  let fresh = 0;
  for (const { via, out, special } of hops) {
    const address = via === null ? null : parseAddress(via);
    const route: RouteFact = {
      to,
      via: address && formatAddress(address),
      out,
      vrf: where.vrf,
      table: null,
      source: special === "receive" ? "local" : source,
      distance: preference === null ? null : Number(preference),
      metric: metric === null ? null : Number(metric),
      active,
      discard: specials[special ?? ""] ?? null,
    };
    if (!into.routeOfOtherSide(route) && into.route(route)) fresh++;
  }
  if (fresh === 0) return into.fate(at, "known", `the route to ${to} was already listed`);
  into.fate(
    at,
    "taken",
    `${hops.length > 1 ? `${hops.length} routes` : "a route"} to ${to}${source ? `, ${source}` : ""}`,
  );
}
