import {
  builtInProfiles,
  type Plan,
  type ProfileEntry,
  planSettingsOf,
  planSettingsSchema,
  profileSchema,
} from "../../../core/plan/index.ts";
import { planItemEdit, renamingEdit } from "./edits.ts";
import type { FormSpec } from "./item-form.tsx";
import { schemaForm, type Wording } from "./schema-form.ts";

/** The plan's own name, description and assumptions. */
export function planForm(plan: Plan): FormSpec {
  const before = planSettingsOf(plan);
  return schemaForm({
    plan,
    schema: planSettingsSchema,
    wording: {
      name: { label: "Name", hint: "such as Marrow Bay Ferries", wide: true },
      description: { label: "Description", hint: "any text", wide: true },
      "assume.unlinked": {
        label: "Interfaces without a link",
        none: "down",
        words: { up: "up", down: "down" },
      },
      "assume.hosts": {
        label: "Hosts that are not drawn",
        none: "silent",
        words: { answer: "answer", silent: "silent" },
      },
    },
    item: before,
    title: "Plan settings",
    submit: "Save",
    removal: null,
    edit: (after) => ({
      label: "Change the plan's settings",
      changes: [{ in: "plan-settings", before, after }],
    }),
  });
}

const allowDeny = { allow: "allow", deny: "deny" };

function profileWording(plan: Plan, own: string | null): Wording {
  const bases = [...Object.keys(builtInProfiles), ...plan.profiles.map((entry) => entry.id)].filter(
    (id) => id !== own,
  );
  const as = "same as base";
  return {
    id: { label: "Id", hint: "such as branch-firewall", mono: true },
    base: { label: "Base", none: "none", choices: bases.map((id) => ({ value: id, label: id })) },
    label: { label: "Name", hint: "as people call it", wide: true },
    staticDistance: { label: "Distance of static routes", hint: as },
    handedOutDistance: { label: "Distance of assigned default routes", hint: as },
    equalCost: { label: "Maximum equal-cost routes", hint: as },
    equalCostOneInterface: { label: "Only on one interface", none: as },
    resolve: {
      label: "Next hops resolve through",
      none: as,
      words: { connected: "attached networks", "not-default": "any route except default", any: "any route" },
    },
    interfaceNextHop: { label: "Route with interface only", none: as },
    interfaceRequired: { label: "Route must name its interface", none: as },
    secondDefault: { label: "Second default route of same distance", none: as },
    addInterfaceMetric: { label: "Adds interface metric", none: as },
    stateful: { label: "Stateful", none: as },
    betweenZones: { label: "Between zones", none: as, words: allowDeny },
    withinZone: { label: "Within a zone", none: as, words: allowDeny },
    policyDestination: {
      label: "Policy sees the destination",
      none: as,
      words: { new: "after translation", original: "before translation" },
    },
    returnPath: { label: "Return-path check (RFC 3704)", none: as },
    returnPathTables: {
      label: "Return-path check uses",
      none: as,
      words: { policy: "the policy tables", main: "the main table" },
    },
    returnPathDefault: { label: "Default route satisfies the check", none: as },
    midStream: {
      label: "Established traffic without session",
      none: as,
      words: { drop: "dropped", "as-new": "same policy as new flows" },
    },
    carrierLoss: {
      label: "Routes on interfaces without carrier",
      none: as,
      words: { withdraw: "withdrawn", keep: "stay active" },
    },
    neverUp: {
      label: "BFD session that was never up",
      none: as,
      words: { down: "keeps its route unusable", ignored: "is ignored" },
    },
    errorsFrom: {
      label: "Source of ICMP errors (IPv4)",
      none: as,
      words: { "way-back": "of the route to the sender", "way-in": "of the receiving interface" },
    },
    errorsFromIpv6: {
      label: "Source of ICMP errors (IPv6)",
      none: as,
      words: { "way-back": "of the route to the sender", "way-in": "of the receiving interface" },
    },
    decrements: { label: "Decrements the hop limit", none: as },
    selfRecursiveTunnel: {
      label: "Tunnel routed through itself",
      none: as,
      words: { down: "goes down", up: "stays up, packets are lost" },
    },
    maxDistance: { label: "Greatest distance used", hint: as },
    replyBy: {
      label: "Replies are sent",
      none: as,
      words: { route: "by the route table", "came-in": "out of the receiving interface" },
    },
    carrierDelayMs: { label: "Carrier delay", hint: as },
    "deadGatewayMs.min": { label: "Dead gateway detection, minimum", hint: as },
    "deadGatewayMs.max": { label: "Dead gateway detection, maximum", hint: as },
    "neighbourAgeMs.min": { label: "Forgets neighbors that it cannot hear, minimum", hint: as },
    "neighbourAgeMs.max": { label: "Forgets neighbors that it cannot hear, maximum", hint: as },
    failback: { label: "Failback", none: as },
  };
}

/** How a family of devices behaves: a base, and what differs from it. */
export function profileForm(plan: Plan, profile: ProfileEntry | null): FormSpec {
  return schemaForm({
    plan,
    schema: profileSchema,
    wording: profileWording(plan, profile?.id ?? null),
    item: profile,
    title: profile ? `Edit the profile ${profile.label ?? profile.id}` : "Add profile",
    submit: profile ? "Save" : "Add profile",
    removal: profile && planItemEdit(`Remove the profile ${profile.id}`, "profiles", profile, null),
    edit: (after) => {
      const label = profile ? `Change the profile ${profile.id}` : `Add the profile ${after.id}`;
      if (!profile || profile.id === after.id) return planItemEdit(label, "profiles", profile, after);
      const place = (renamed: Plan): Plan => ({
        ...renamed,
        profiles: renamed.profiles.map((entry) => (entry.id === after.id ? after : entry)),
      });
      return renamingEdit({ plan, label, what: { profile: profile.id }, to: after.id, place });
    },
  });
}
