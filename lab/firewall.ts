import { profileOf } from "../core/network/index.ts";
import type { Device, Flow, Plan, PolicyRule } from "../core/plan/index.ts";
import { parsePortRange } from "../core/plan/index.ts";
import { markTables, ofFamily, translationTables } from "../exchange/writers/nftables.ts";
import { FIRST_FLOW_PORT, MAX_FLOWS } from "./agent/orders.ts";
import { portName } from "./names.ts";

/** The ports that identify rehearsed flows: they are sent over UDP, whatever their protocol. */
const flowPorts = `${FIRST_FLOW_PORT}-${FIRST_FLOW_PORT + MAX_FLOWS - 1}`;

/** A device's source translation and policy as rules of nftables; null where it has neither. */
export function rulesetOf(plan: Plan, device: Device): string | null {
  const parts = [
    ...translationTables(device, portName),
    ...markTables(device.marks ?? [], portName),
    ...(device.policy ? [policyOf(plan, device)] : []),
  ];
  return parts.length > 0 ? parts.join("\n") : null;
}

/** Rule 6.2's policy: first rule that matches, then the order of trust, then the default. */
function policyOf(plan: Plan, device: Device): string {
  const { policy } = device;
  if (!policy) return "";
  const { profile } = profileOf(plan, device);
  const of = (zones: readonly string[]) => portsIn(device, zones);
  const verdict = (action: "allow" | "deny") => (action === "allow" ? "accept" : "drop");
  const rules = (how: (rule: PolicyRule) => string[] | null) =>
    policy.rules.flatMap((rule) => {
      const matches = how(rule);
      const from = rule.from ? `iifname { ${of(rule.from)} } ` : "";
      const to = rule.to ? `oifname { ${of(rule.to)} } ` : "";
      if (!matches || from.includes("{  }") || to.includes("{  }")) return [];
      return matches.map((match) => `${from}${to}${match}${verdict(rule.action)}`);
    });
  const zones = [...new Set(device.interfaces.flatMap(({ zone }) => (zone ? [zone] : [])))];
  const trusted = (policy.trust ?? []).flatMap((more, i, all) =>
    all.slice(i + 1).flatMap((less) => {
      const [from, to] = [of([more]), of([less])];
      return from && to ? [`iifname { ${from} } oifname { ${to} } accept`] : [];
    }),
  );
  const within = verdict(policy.sameZone ?? profile.withinZone);
  const nobodys = device.interfaces
    .filter(({ zone }) => !zone)
    .map(({ name }) => `"${portName(name)}"`)
    .join(", ");
  const inside = [...zones.map((zone) => of([zone])), ...(nobodys ? [nobodys] : [])].map(
    (ports) => `iifname { ${ports} } oifname { ${ports} } ${within}`,
  );
  const end = [...trusted, ...inside, verdict(policy.default ?? profile.betweenZones)].join("\n");
  return `table inet lab-policy {
chain flows {
${[...rules((rule) => flowMatches(plan.flows, rule)), end].join("\n")}
}
chain others {
${[...rules(packetMatches), end].join("\n")}
}
chain forward { type filter hook forward priority 0; policy accept;
${profile.stateful ? "ct state established,related accept" : ""}
udp dport ${flowPorts} goto flows
goto others
}
}`;
}

function portsIn(device: Device, zones: readonly string[]): string {
  return device.interfaces
    .filter(({ zone }) => zone && zones.includes(zone))
    .map(({ name }) => `"${portName(name)}"`)
    .join(", ");
}

/** Sources and destinations, a match for each pair of families that can meet. */
function addressMatches({ source, destination }: PolicyRule): string[] {
  if (!source?.length && !destination?.length) return [""];
  return ([4, 6] as const).flatMap((family) => {
    const word = family === 4 ? "ip" : "ip6";
    const parts = [
      ["saddr", source],
      ["daddr", destination],
    ] as const;
    const matches = parts.map(([key, list]) => {
      if (!list?.length) return "";
      const own = list.filter(ofFamily(family));
      return own.length > 0 ? `${word} ${key} { ${own.join(", ")} } ` : null;
    });
    return matches.includes(null) ? [] : [matches.join("")];
  });
}

/** A rule about a flow's packets, matched by the flow's port in the lab; null if it concerns none. */
function flowMatches(flows: readonly Flow[], rule: PolicyRule): string[] | null {
  const range = rule.port ? parsePortRange(rule.port) : null;
  const meant = flows.flatMap((flow, n) => {
    if (rule.protocol && rule.protocol !== (flow.protocol ?? "icmp")) return [];
    if (range && (flow.port === undefined || flow.port < range.first || flow.port > range.last)) return [];
    return [FIRST_FLOW_PORT + n];
  });
  if (meant.length === 0) return null;
  return addressMatches(rule).map((match) => `${match}udp dport { ${meant.join(", ")} } `);
}

function packetMatches(rule: PolicyRule): string[] {
  const port = rule.port ? `th dport ${rule.port} ` : "";
  const kinds = {
    icmp: "meta l4proto { icmp, ipv6-icmp } ",
    tcp: "meta l4proto tcp ",
    udp: "meta l4proto udp ",
  };
  const kind = rule.protocol ? kinds[rule.protocol] : port ? "meta l4proto { tcp, udp } " : "";
  return addressMatches(rule).map((match) => `${match}${kind}${port}`);
}
