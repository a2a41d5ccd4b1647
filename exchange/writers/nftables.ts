import type { DestinationNat, Device, MarkRule, SourceNat } from "../../core/plan/index.ts";
import type { OutputFile } from "./output-file.ts";

/** What an interface of the plan is called where the rules are loaded. */
type NameOf = (name: string) => string;

const asWritten: NameOf = (name) => name;

/**
 * For each device with translation or marks a file for `nft -f`. Loading it again replaces its own tables and nothing else. Names
 * of interfaces need no quoting beyond quotes: plans hold no others.
 */
export function nftablesFiles(devices: readonly Device[]): OutputFile[] {
  return devices.flatMap((device) => {
    const tables = [...translationTables(device), ...markTables(device.marks ?? [])];
    if (tables.length === 0) return [];
    const title = `# ${(device.label ?? device.id).replaceAll(/\s+/g, " ")}, for nft -f`;
    // Adding a table before it is deleted makes the file load whether it is there or not.
    const fresh = tables.flatMap((table) => {
      const name = table.slice(0, table.indexOf(" {"));
      return [`add ${name}`, `delete ${name}`];
    });
    return [{ name: `${device.id}.nft`, text: `${[title, ...fresh, ...tables].join("\n")}\n` }];
  });
}

/** Source and destination translation as tables of nftables, one a family. */
export function translationTables(
  { sourceNat, destNat }: Pick<Device, "sourceNat" | "destNat">,
  nameOf: NameOf = asWritten,
): string[] {
  return ([4, 6] as const).flatMap((family) => {
    const out = sourceNat.flatMap((nat) => natRules(nat, family, nameOf));
    const arriving = (destNat ?? [])
      .filter(({ to }) => ofFamily(family)(to))
      .map((nat) => redirection(nat, nameOf));
    const chain = (name: string, hook: string, rules: readonly string[]) =>
      rules.length > 0
        ? [`chain ${name} { type nat hook ${hook}; policy accept;\n${rules.join("\n")}\n}`]
        : [];
    const chains = [
      ...chain("out", "postrouting priority 100", out),
      ...chain("arriving", "prerouting priority -100", arriving),
    ];
    return chains.length > 0
      ? [`table ${family === 4 ? "ip" : "ip6"} iron-fork-nat {\n${chains.join("\n")}\n}`]
      : [];
  });
}

/** Rule 6.9, for arriving packets. */
function redirection(
  { in: ports, to, protocol, port, via, viaPort }: DestinationNat,
  nameOf: NameOf,
): string {
  const family = to.includes(":") ? "ip6" : "ip";
  const there = viaPort ?? port;
  const target = there === undefined ? via : `${family === "ip6" ? `[${via}]` : via}:${there}`;
  return `${interfaceMatch([ports].flat(), nameOf)}${family} daddr ${to} ${protocolMatch(protocol, port, family === "ip6")}dnat to ${target}`;
}

function interfaceMatch(names: readonly string[], nameOf: NameOf): string {
  return `iifname { ${names.map((name) => `"${nameOf(name)}"`).join(", ")} } `;
}

/** The packets of a protocol and port, as far as they are given. */
function protocolMatch(
  protocol: string | undefined,
  port: string | number | undefined,
  six: boolean,
): string {
  if (protocol === undefined) return "";
  if (port !== undefined) return `${protocol} dport ${port} `;
  return `meta l4proto ${protocol === "icmp" && six ? "ipv6-icmp" : protocol} `;
}

/** Rule 6.10: of all rules that match, the last mark stays; a device's own packets came in by nothing. */
export function markTables(marks: readonly MarkRule[], nameOf: NameOf = asWritten): string[] {
  if (marks.length === 0) return [];
  const rules = (own: boolean) =>
    marks.flatMap(({ set, in: ports, from, to, protocol, port }) => {
      if (own && ports?.length) return [];
      return [false, true].flatMap((six) => {
        const [sources, destinations] = [from, to].map((list) => list?.filter(ofFamily(six ? 6 : 4)));
        if ((from?.length && !sources?.length) || (to?.length && !destinations?.length)) return [];
        const family = six ? "ip6" : "ip";
        const match = [
          ports?.length ? interfaceMatch(ports, nameOf) : "",
          `meta nfproto ${six ? "ipv6" : "ipv4"} `,
          sources?.length ? `${family} saddr { ${sources.join(", ")} } ` : "",
          destinations?.length ? `${family} daddr { ${destinations.join(", ")} } ` : "",
          protocolMatch(protocol, port, six),
        ];
        return [`ct direction original ${match.join("")}meta mark set ${set}`];
      });
    });
  return [
    `table inet iron-fork-marks {
chain arriving { type filter hook prerouting priority -150; policy accept;\n${rules(false).join("\n")}\n}
chain own { type route hook output priority -150; policy accept;\n${rules(true).join("\n")}\n}
}`,
  ];
}

/** Whether addresses and prefixes are of a family. */
export const ofFamily = (family: 4 | 6) => (text: string) => text.includes(":") === (family === 6);

function natRules({ out, from, to }: SourceNat, family: 4 | 6, nameOf: NameOf): string[] {
  const sources = from?.filter(ofFamily(family));
  if (sources?.length === 0 || (to !== "interface" && !ofFamily(family)(to))) return [];
  const match = sources ? `${family === 4 ? "ip" : "ip6"} saddr { ${sources.join(", ")} } ` : "";
  return [`oifname "${nameOf(out)}" ${match}${to === "interface" ? "masquerade" : `snat to ${to}`}`];
}
