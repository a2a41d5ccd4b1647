import type { Plan } from "../../core/plan/index.ts";
import { Draft } from "./draft.ts";

/**
 * Sites behind firewalls with zones, rules, tables by source and translation: each firewall on two lines to two
 * exchange routers, half of its traffic led over the second by a policy table, return-path checks on the exchanges.
 */
export function policyFleet(sites: number, flows = sites): Plan {
  const draft = new Draft(`${sites} sites behind firewalls`);
  const exchanges = ["exchange-a", "exchange-b"];
  for (const [n, id] of exchanges.entries())
    draft.device(id, "router", n ? { profile: "loose-exchange" } : {});
  const [across, back] = draft.join("exchange-a", "exchange-b");
  for (let s = 0; s < sites; s++) {
    const id = `fw-${s}`;
    draft.device(id, "firewall", {
      profile: "zone-firewall",
      policy: {
        trust: ["inside", "outside"],
        rules: [
          { from: ["outside"], to: ["inside"], action: "allow", protocol: "tcp", port: "443" },
          ...(s % 4 ? [{ from: ["outside"], to: ["inside"], action: "allow", protocol: "icmp" }] : []),
        ],
        default: "deny",
      },
    });
    const [own, hubSide] = draft.join(id, "exchange-a");
    const [second, hubSecond] = draft.join(id, "exchange-b");
    const lan = draft.lan(id, s, { zone: "inside" });
    draft.zone(id, own.name, "outside");
    draft.zone(id, second.name, "outside");
    draft.route(id, { to: "0.0.0.0/0", via: own.far }, { to: "0.0.0.0/0", via: second.far, distance: 20 });
    draft.extend(id, "policyTables", {
      name: "by-source",
      match: s % 2 ? { from: [lan.replace(".0/24", ".0/28")] } : { in: ["lan"] },
      lookup: s % 3 ? "first" : "overlay",
      routes: [{ to: "0.0.0.0/0", via: second.far }],
    });
    if (s % 3 === 0) draft.extend(id, "sourceNat", { out: own.name, to: "interface" });
    draft.route("exchange-a", { to: lan, via: hubSide.far }, { to: lan, via: across.far, distance: 20 });
    draft.route("exchange-b", { to: lan, via: hubSecond.far }, { to: lan, via: back.far, distance: 20 });
  }
  for (let f = 0; f < flows; f++) {
    const to = (f + 1 + (f % (sites - 1))) % sites;
    draft.flow(f % sites, to, f % 2 ? { protocol: "tcp", port: 443 } : {});
  }
  return draft.plan({ profiles: [{ id: "loose-exchange", base: "metric-router", returnPath: "loose" }] });
}
