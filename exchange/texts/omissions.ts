import type { Change, Interface, StaticRoute } from "../../core/plan/index.ts";
import { isFullyExpressible } from "../writers/virtual-routers.ts";

/** The forms of standards that a step is written in. */
export type StandardForm = "ietf" | "iproute2";

/** The device settings that each form can express. Settings in neither list are only available as plain text. */
const said: Record<StandardForm, { routes: ReadonlySet<string>; interfaces: ReadonlySet<string> }> = {
  ietf: {
    routes: new Set(["to", "via", "out", "discard", "enabled"]),
    interfaces: new Set(["name", "kind", "addresses", "enabled", "note", "virtual"]),
  },
  iproute2: {
    routes: new Set([
      "to",
      "via",
      "out",
      "discard",
      "enabled",
      "vrf",
      "distance",
      "metric",
      "onLink",
      "weight",
    ]),
    interfaces: new Set(["name", "vrf", "addresses", "enabled"]),
  },
};

/** Of paper alone: no device notices it. */
const PAPER = new Set([
  "note",
  "mbps",
  "bootMs",
  "hardware",
  "kind",
  "label",
  "site",
  "place",
  "outline",
  "id",
  "role",
  "profile",
  "reserved",
]);

/** Fields without which a route means something else: it is not written at all. */
const CORE: Record<StandardForm, readonly (keyof StaticRoute)[]> = {
  ietf: ["vrf", "toVrf", "viaFrom"],
  iproute2: ["toVrf", "viaFrom"],
};

const words: Readonly<Record<string, string>> = {
  distance: "the distance",
  metric: "the metric",
  weight: "the weight",
  watch: "the watch",
  vrf: "the VRF",
  toVrf: "lookup in another VRF",
  viaFrom: "the assigned gateway",
  onLink: "the on-link flag of the next hop",
  resolve: "the resolution limit of the next hop",
  zone: "the zone",
  gatewayFrom: "the assigned gateway",
  underlay: "the tunnel's underlay",
  members: "the bundle's members",
  minUp: "the minimum number of members up",
  lacp: "LACP",
  parent: "the parent interface",
  vlan: "the VLAN tag",
  virtual: "virtual routers",
  enabled: "its enabled state",
  proxyArp: "proxy ARP",
  destNat: "destination translation",
  marks: "marks",
};

const collections: Readonly<Record<string, string>> = {
  watches: "a watch",
  sourceNat: "a translation",
  learned: "a learned route, which is not configured",
  policyTables: "a policy table",
};

/** What a form has no words for in a change, each as one would name it: "the watch far". */
export function omissionsOf(change: Change, form: StandardForm): string[] {
  if (change.in === "plan" && change.collection === "pairs") return ["a pair"];
  if (change.in === "plan" || change.in === "plan-settings") return [];
  if (change.in === "device-settings") return differing(change.before, change.after, new Set()).map(named);
  const collection = change.in === "policy-table" ? "routes" : change.collection;
  if (change.in === "policy-table" && form === "ietf") return ["a policy table"];
  if (collection === "routes" || collection === "interfaces") {
    const [before, after] = [change.before ?? {}, change.after ?? {}];
    const partly =
      form === "ietf" ? trackedUnsaid(before as Partial<Interface>, after as Partial<Interface>) : [];
    const whole = differing(before, after, said[form][collection]).map((field) =>
      named(field, (after as Record<string, unknown>)[field] ?? (before as Record<string, unknown>)[field]),
    );
    return [...whole, ...partly];
  }
  if (collection === "policyTables" && form === "iproute2") return [];
  return [collections[collection] ?? collection];
}

/** Of virtual routers that come or change: whether there are such as the model cannot say whole. */
function trackedUnsaid(before: Partial<Interface>, after: Partial<Interface>): string[] {
  const known = new Set((before.virtual ?? []).map((router) => JSON.stringify(router)));
  const changed = (after.virtual ?? []).filter((router) => !known.has(JSON.stringify(router)));
  return changed.every(isFullyExpressible)
    ? []
    : ["watch tracking, sync groups and sub-second times of its virtual routers"];
}

/** Whether a form can express a change: its output has the plan's meaning, apart from reported omissions. */
export function isExpressible(change: Change, form: StandardForm): boolean {
  if (change.in === "policy-table") return form === "iproute2";
  if (change.in !== "device") return change.in === "plan";
  if (change.collection === "interfaces") return true;
  if (change.collection === "policyTables") return form === "iproute2";
  if (change.collection !== "routes") return false;
  const routes = [change.before, change.after].filter((route): route is StaticRoute => Boolean(route));
  return routes.every((route) =>
    CORE[form].every((field) => route[field] === undefined || (field === "vrf" && route.vrf === "main")),
  );
}

/** The fields in which two items differ and for which there are no words; of one that comes or goes, all that it has. */
function differing(before: unknown, after: unknown, known: ReadonlySet<string>): string[] {
  const [a, b] = [before, after] as Partial<Record<keyof StaticRoute | keyof Interface, unknown>>[];
  const fields = new Set([...Object.keys(a), ...Object.keys(b)]) as Set<keyof typeof a>;
  return [...fields].filter(
    (field) =>
      !known.has(field) &&
      !PAPER.has(field) &&
      JSON.stringify(a[field]) !== JSON.stringify(b[field]) &&
      !(field === "vrf" && (a[field] ?? b[field]) === "main"),
  );
}

function named(field: string, value?: unknown): string {
  const word = words[field] ?? field;
  return typeof value === "string" || typeof value === "number" ? `${word} ${value}` : word;
}
