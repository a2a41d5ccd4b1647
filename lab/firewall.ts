import { profileOf } from "../core/network/index.ts";
import type {
  DestinationNat,
  Device,
  Flow,
  MarkRule,
  Plan,
  PolicyRule,
  SourceNat,
} from "../core/plan/index.ts";
import { parsePortRange } from "../core/plan/index.ts";
import { FIRST_FLOW_PORT, MOST_FLOWS } from "./agent/orders.ts";
import { portName } from "./names.ts";

/** The ports by which a rehearsed flow is known: it travels in UDP, whatever it stands for. */
const flowPorts = `${FIRST_FLOW_PORT}-${FIRST_FLOW_PORT + MOST_FLOWS - 1}`;

/** A device's source translation and policy as rules of nftables; null where it has neither. */
export function rulesetOf(plan: Plan, device: Device): string | null {
  const parts = [
    ...translation(device),
    ...marking(device.marks ?? []),
    ...(device.policy ? [policyOf(plan, device)] : []),
  ];
  return parts.length > 0 ? parts.join("\n") : null;
}

function translation(device: Device): string[] {
  return ([4, 6] as const).flatMap((family) => {
    const out = device.sourceNat.flatMap((nat) => natRules(nat, family));
    const arriving = (device.destNat ?? []).filter(({ to }) => ofFamily(family)(to)).map(redirection);
    const chain = (name: string, hook: string, rules: readonly string[]) =>
      rules.length > 0
        ? [`chain ${name} { type nat hook ${hook}; policy accept;\n${rules.join("\n")}\n}`]
        : [];
    const chains = [
      ...chain("out", "postrouting priority 100", out),
      ...chain("arriving", "prerouting priority -100", arriving),
    ];
    return chains.length > 0
      ? [`table ${family === 4 ? "ip" : "ip6"} lab-nat {\n${chains.join("\n")}\n}`]
      : [];
  });
}

/** Rule 6.9, for what arrives. */
function redirection({ in: ports, to, protocol, port, via, viaPort }: DestinationNat): string {
  const names = [ports].flat().map((name) => `"${portName(name)}"`);
  const family = to.includes(":") ? "ip6" : "ip";
  const there = viaPort ?? port;
  const target = there === undefined ? via : `${family === "ip6" ? `[${via}]` : via}:${there}`;
  return `iifname { ${names.join(", ")} } ${family} daddr ${to} ${protocolMatch(protocol, port, family === "ip6")}dnat to ${target}`;
}

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
function marking(marks: readonly MarkRule[]): string[] {
  if (marks.length === 0) return [];
  const rules = (own: boolean) =>
    marks.flatMap(({ set, in: ports, from, to, protocol, port }) => {
      if (own && ports?.length) return [];
      return [false, true].flatMap((six) => {
        const [sources, destinations] = [from, to].map((list) => list?.filter(ofFamily(six ? 6 : 4)));
        if ((from?.length && !sources?.length) || (to?.length && !destinations?.length)) return [];
        const family = six ? "ip6" : "ip";
        const match = [
          ports?.length ? `iifname { ${ports.map((name) => `"${portName(name)}"`).join(", ")} } ` : "",
          `meta nfproto ${six ? "ipv6" : "ipv4"} `,
          sources?.length ? `${family} saddr { ${sources.join(", ")} } ` : "",
          destinations?.length ? `${family} daddr { ${destinations.join(", ")} } ` : "",
          protocolMatch(protocol, port, six),
        ];
        return [`ct direction original ${match.join("")}meta mark set ${set}`];
      });
    });
  return [
    `table inet lab-marks {
chain arriving { type filter hook prerouting priority -150; policy accept;\n${rules(false).join("\n")}\n}
chain own { type route hook output priority -150; policy accept;\n${rules(true).join("\n")}\n}
}`,
  ];
}

const ofFamily = (family: 4 | 6) => (text: string) => text.includes(":") === (family === 6);

function natRules({ out, from, to }: SourceNat, family: 4 | 6): string[] {
  const sources = from?.filter(ofFamily(family));
  if (sources?.length === 0 || (to !== "interface" && !ofFamily(family)(to))) return [];
  const match = sources ? `${family === 4 ? "ip" : "ip6"} saddr { ${sources.join(", ")} } ` : "";
  return [`oifname "${portName(out)}" ${match}${to === "interface" ? "masquerade" : `snat to ${to}`}`];
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

/** A rule about what a flow stands for, told by the port that the flow has in the lab; null where it is about none. */
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
