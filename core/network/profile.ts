import { builtInProfiles, type Device, type Plan, type Profile, profileOfRole } from "../plan/index.ts";

/** The effective profile of a device: a built-in one, or the plan's own merged into its base. */
export function profileOf(plan: Plan, device: Device): { id: string; profile: Profile } {
  const id = device.profile ?? profileOfRole[device.role];
  return { id, profile: settleProfile(plan, id, profileOfRole[device.role]) };
}

function settleProfile(plan: Plan, id: string, fallback: string): Profile {
  const builtIn = builtInProfiles[id];
  if (builtIn) return builtIn;
  const entry = plan.profiles.find((profile) => profile.id === id);
  if (!entry) return builtInProfiles[fallback];
  const { id: _id, base, ...own } = entry;
  return { ...settleProfile(plan, base ?? fallback, fallback), ...own };
}
