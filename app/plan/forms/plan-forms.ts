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

/** The plan's own name and description. */
export function planForm(plan: Plan): FormSpec {
  const before = planSettingsOf(plan);
  return schemaForm({
    plan,
    schema: planSettingsSchema,
    wording: {
      name: { label: "Name", hint: "such as Marrow Bay Ferries", wide: true },
      description: { label: "Description", hint: "any text", wide: true },
    },
    item: before,
    title: "The plan itself",
    submit: "Save",
    removal: null,
    edit: (after) => ({
      label: "Change the plan's name and description",
      changes: [{ in: "plan-settings", before, after }],
    }),
  });
}

const allowDeny = { allow: "allow", deny: "deny" };

function profileWording(plan: Plan, own: string | null): Wording {
  const bases = [...Object.keys(builtInProfiles), ...plan.profiles.map((entry) => entry.id)].filter(
    (id) => id !== own,
  );
  const as = "as the base has it";
  return {
    id: { label: "Id", hint: "such as branch-firewall", mono: true },
    base: { label: "Base", none: "none", choices: bases.map((id) => ({ value: id, label: id })) },
    label: { label: "Name", hint: "as people call it", wide: true },
    staticDistance: { label: "Distance of static routes", hint: as },
    handedOutDistance: { label: "Distance of handed-out defaults", hint: as },
    equalCost: { label: "Equal-cost routes shared", hint: as },
    equalCostOneInterface: { label: "Only by one interface", none: as },
    resolve: {
      label: "Next hops resolve through",
      none: as,
      words: { connected: "attached networks", "not-default": "any route but a default", any: "any route" },
    },
    interfaceNextHop: { label: "Route with interface alone", none: as },
    interfaceRequired: { label: "Route must name its interface", none: as },
    secondDefault: { label: "Second equal default", none: as },
    addInterfaceMetric: { label: "Adds interface metric", none: as },
    stateful: { label: "Stateful", none: as },
    betweenZones: { label: "Between zones", none: as, words: allowDeny },
    withinZone: { label: "Within a zone", none: as, words: allowDeny },
    returnPath: { label: "Return-path check (RFC 3704)", none: as },
    returnPathTables: {
      label: "It asks",
      none: as,
      words: { policy: "the policy tables", main: "the main table" },
    },
    returnPathDefault: { label: "A default counts for it", none: as },
    midStream: {
      label: "Established without state",
      none: as,
      words: { drop: "dropped", "as-new": "as the policy says of new" },
    },
    carrierLoss: {
      label: "Routes without carrier",
      none: as,
      words: { withdraw: "withdrawn", keep: "kept in use" },
    },
    neverUp: {
      label: "A session that was never up",
      none: as,
      words: { down: "holds its route back", ignored: "is ignored" },
    },
    replyBy: {
      label: "Replies leave",
      none: as,
      words: { route: "as the routes say", "came-in": "by the way in" },
    },
    carrierDelayMs: { label: "Carrier delay, ms", hint: as },
    "deadGatewayMs.min": { label: "Dead gateway, least ms", hint: as },
    "deadGatewayMs.max": { label: "Dead gateway, most ms", hint: as },
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
    title: profile ? `Edit the profile ${profile.label ?? profile.id}` : "Add a profile",
    submit: profile ? "Save" : "Add the profile",
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
