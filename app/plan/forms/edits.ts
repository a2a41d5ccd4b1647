import {
  type Device,
  type DeviceCollectionName,
  differencePlans,
  type Edit,
  type Plan,
  type PlanCollectionName,
  type RenamingTarget,
  renamed,
} from "../../../core/plan/index.ts";

/** The edit that puts an item of the plan in the place of another; a new one where there was none. */
export function planItemEdit(
  label: string,
  collection: PlanCollectionName,
  before: unknown,
  after: unknown,
): Edit {
  return { label, changes: [{ in: "plan", collection, before, after }] };
}

/** The same for an item of a device. */
export function deviceItemEdit(
  label: string,
  device: Device,
  collection: DeviceCollectionName,
  before: unknown,
  after: unknown,
): Edit {
  return { label, changes: [{ in: "device", device: device.id, collection, before, after }] };
}

interface Renaming {
  plan: Plan;
  label: string;
  what: RenamingTarget;
  /** The new name. */
  to: string;
  /** Puts the changed item in its place, in a plan that has the new name already. */
  place: (plan: Plan) => Plan;
}

/** An edit that gives something another name, takes every reference along, and changes the rest of it as well. */
export function renamingEdit({ plan, label, what, to, place }: Renaming): Edit | null {
  const changes = differencePlans(plan, place(renamed(plan, what, to)));
  return changes.length === 0 ? null : { label, changes };
}

/** A plan with one of its devices changed. */
export function withDevice(plan: Plan, id: string, change: (device: Device) => Device): Plan {
  return { ...plan, devices: plan.devices.map((device) => (device.id === id ? change(device) : device)) };
}
