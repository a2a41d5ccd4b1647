import { z } from "zod";
import { formatAddress, parseAddress } from "../../../core/address/index.ts";
import type { Collector, InterfaceFact } from "../../facts/index.ts";
import type { Located } from "../located.ts";

/** The fields of an interface in `ip -j -d link` and `ip -j -d address` that are read. */
export const linkSchema = z.looseObject({
  ifname: z.string(),
  flags: z.array(z.string()).default([]),
  operstate: z.string().optional(),
  link_type: z.string().optional(),
  address: z.string().optional(),
  link: z.string().nullish(),
  master: z.string().optional(),
  linkinfo: z
    .looseObject({
      info_kind: z.string().optional(),
      info_data: z
        .looseObject({
          id: z.number().optional(),
          table: z.number().optional(),
          mode: z.string().optional(),
          min_links: z.number().optional(),
          ad_lacp_rate: z.string().optional(),
        })
        .optional(),
    })
    .optional(),
  addr_info: z
    .array(z.looseObject({ local: z.string().optional(), prefixlen: z.number().optional() }))
    .optional(),
});
export type LinkObject = z.output<typeof linkSchema>;

const tunnels = new Set([
  "gre",
  "gretap",
  "ip6gre",
  "ipip",
  "sit",
  "ip6tnl",
  "vti",
  "vti6",
  "tun",
  "wireguard",
  "xfrm",
]);

function kindOf({ flags, link_type, linkinfo }: LinkObject): InterfaceFact["kind"] {
  const kind = linkinfo?.info_kind;
  if (flags.includes("LOOPBACK") || kind === "dummy") return "loopback";
  if (kind === "vrf" || kind === "bridge") return kind;
  if (kind === "bond" || kind === "team") return "bundle";
  if (kind !== undefined && tunnels.has(kind)) return "tunnel";
  if (link_type === "ppp") return "serial";
  if (link_type === "none") return "tunnel";
  return link_type === "ether" || kind !== undefined ? "ethernet" : null;
}

/** Takes an interface with its addresses. */
export function takeLink(value: unknown, at: Located & { file: string }, into: Collector) {
  const read = linkSchema.safeParse(value);
  if (!read.success) return into.fate(at, "not-understood", "not an interface: ifname is missing");
  const link = read.data;
  const kind = kindOf(link);
  const info = link.linkinfo;
  const wrong: string[] = [];
  const addresses = (link.addr_info ?? []).flatMap(({ local, prefixlen }) => {
    const address = local === undefined ? null : parseAddress(local);
    if (address && prefixlen !== undefined) return [`${formatAddress(address)}/${prefixlen}`];
    wrong.push(local ?? "an address without a value");
    return [];
  });
  // What a loopback has for itself says nothing of the network.
  const own = addresses.filter((text) => !text.startsWith("127.") && text !== "::1/128");
  const enabled = link.flags.length > 0 ? link.flags.includes("UP") : null;
  into.interface(link.ifname, {
    kind,
    enabled,
    up: enabled === null ? null : enabled && link.flags.includes("LOWER_UP"),
    hardware: hardwareOf(link.address),
    addresses: own,
    parent: info?.info_kind === "vlan" ? (link.link ?? null) : null,
    vlan: info?.info_kind === "vlan" ? (info.info_data?.id ?? null) : null,
    ...bondOf(link),
  });
  if (kind === "vrf" && info?.info_data?.table !== undefined) {
    into.vrfOfTable.set(String(info.info_data.table), link.ifname);
  }
  if (link.master !== undefined) into.masters.set(link.ifname, link.master);
  const detail = own.length > 0 ? ` with ${own.join(", ")}` : "";
  if (wrong.length > 0)
    into.fate(at, "doubtful", `the interface ${link.ifname}${detail}; not read: ${wrong.join(", ")}`);
  else into.fate(at, "taken", `the interface ${link.ifname}${detail}`);
}

/** What a bond says of itself: only one that follows IEEE 802.1AX assures its far end; 0 ports are as good as one. */
function bondOf({ linkinfo }: LinkObject): Partial<Pick<InterfaceFact, "minUp" | "lacp">> {
  const { mode, min_links: least, ad_lacp_rate: rate } = linkinfo?.info_data ?? {};
  if (linkinfo?.info_kind !== "bond" || mode === undefined) return {};
  if (mode !== "802.3ad" && mode !== "4") return { lacp: "off" };
  const minUp = least === undefined ? null : Math.max(1, least);
  return { minUp, lacp: rate === "fast" || rate === "1" ? "fast" : "slow" };
}

function hardwareOf(text: string | undefined): string | null {
  if (!text || !/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/i.test(text)) return null;
  return text === "00:00:00:00:00:00" ? null : text.toLowerCase();
}

/** Interfaces under a master: in its VRF, or members of its bundle or bridge. To be called once all are known. */
export function settleMasters(into: Collector) {
  for (const [name, master] of into.masters) {
    const above = into.facts.interfaces.find((entry) => entry.name === master);
    if (above?.kind === "vrf") into.interface(name, { vrf: master });
    else if (above) into.interface(master, { members: [name] });
  }
}
