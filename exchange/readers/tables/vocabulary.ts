/** What a column or a value can be. */
export type Role =
  | "to"
  | "mask"
  | "via"
  | "out"
  | "distance"
  | "metric"
  | "pair"
  | "word"
  | "active"
  | "vrf"
  | "table"
  | "address"
  | "hardware"
  | "ignored"
  /** Nothing says: an address there is a next hop. */
  | "open";

/** Words of the trade that stand over a column or before a value. */
const roles: Readonly<Record<Exclude<Role, "ignored" | "open">, readonly string[]>> = {
  to: [
    "destination",
    "dest",
    "dst",
    "network",
    "prefix",
    "route",
    "target",
    "route to",
    "destination network",
  ],
  mask: ["mask", "netmask", "genmask", "subnet mask", "wildcard"],
  via: ["via", "gateway", "gw", "next hop", "next-hop", "nexthop", "next_hop", "through", "forward to"],
  out: [
    "interface",
    "iface",
    "if",
    "dev",
    "device",
    "port",
    "out",
    "oif",
    "egress",
    "outgoing interface",
    "out interface",
    "outgoing",
    "exit",
    "link",
    "on",
  ],
  distance: [
    "distance",
    "dist",
    "ad",
    "pref",
    "preference",
    "admin distance",
    "administrative distance",
    "route preference",
  ],
  metric: ["metric", "met", "cost", "med"],
  pair: [
    "dist/metric",
    "distance/metric",
    "pref/metric",
    "preference/metric",
    "[dist/metric]",
    "ad/metric",
    "pref/cost",
  ],
  word: [
    "source",
    "proto",
    "protocol",
    "type",
    "origin",
    "code",
    "codes",
    "flag",
    "flags",
    "owner",
    "learned",
    "learned by",
    "learned from",
    "from",
    "known via",
    "state",
    "status",
    "kind",
  ],
  active: ["active", "used", "in use", "best"],
  vrf: ["vrf", "instance", "routing instance"],
  table: ["table"],
  address: ["address", "ip address", "ip", "addresses", "local address"],
  hardware: ["hardware", "mac", "mac address", "hardware address", "lladdr", "physical address"],
};

const byWord = new Map<string, Role>(
  Object.entries(roles).flatMap(([role, words]) => words.map((word) => [word, role as Role] as const)),
);
for (const word of [
  "age",
  "uptime",
  "time",
  "since",
  "updated",
  "last update",
  "use",
  "ref",
  "mtu",
  "window",
  "irtt",
  "tag",
  "weight",
  "#",
  "no",
  "index",
  "name",
  "description",
]) {
  byWord.set(word, "ignored");
}

/** The role that a word or phrase announces for the content below or after it; null without one. */
export function roleOf(text: string): Role | null {
  return byWord.get(text.toLowerCase().replace(/[:=]$/, "").trim()) ?? null;
}
