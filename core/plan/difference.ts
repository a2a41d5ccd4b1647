import {
  type Collection,
  type DeviceCollectionName,
  deviceCollections,
  type PlanCollectionName,
  planCollections,
  planSettingsOf,
  settingsOf,
} from "./collections.ts";
import type { Device } from "./device.ts";
import { type Change, sameValue } from "./edit.ts";
import type { Plan } from "./plan.ts";

interface ItemChange {
  before: unknown;
  after: unknown;
  index?: number;
}

/**
 * The changes that make the second plan of the first, in an order in which they can be applied:
 * what refers to others goes first and comes last. The place of an item among its neighbours
 * counts only where items are added.
 */
export function differencePlans(from: Plan, to: Plan): Change[] {
  const changes: Change[] = [];
  if (!sameValue(planSettingsOf(from), planSettingsOf(to))) {
    changes.push({ in: "plan-settings", before: planSettingsOf(from), after: planSettingsOf(to) });
  }
  for (const collection of Object.keys(planCollections) as PlanCollectionName[]) {
    const stays = (item: object) =>
      collection === "devices" &&
      "id" in item &&
      from.devices.some((d) => d.id === item.id) &&
      to.devices.some((d) => d.id === item.id);
    const items = differenceItems(
      from[collection].filter((item) => !stays(item)),
      to[collection].filter((item) => !stays(item)),
      planCollections[collection],
      to[collection],
    );
    for (const item of items) changes.push({ in: "plan", collection, ...item } as const);
  }
  for (const device of from.devices) {
    const other = to.devices.find((d) => d.id === device.id);
    if (other) for (const change of differenceDevices(device, other)) changes.push(change);
  }
  return changes;
}

function differenceDevices(from: Device, to: Device): Change[] {
  const changes: Change[] = [];
  const device = from.id;
  if (!sameValue(settingsOf(from), settingsOf(to))) {
    changes.push({ in: "device-settings", device, before: settingsOf(from), after: settingsOf(to) });
  }
  for (const collection of Object.keys(deviceCollections) as DeviceCollectionName[]) {
    const items = differenceItems(
      from[collection],
      to[collection],
      deviceCollections[collection],
      to[collection],
    );
    for (const item of items) changes.push({ in: "device", device, collection, ...item } as const);
  }
  return changes;
}

function differenceItems(
  from: readonly unknown[],
  to: readonly unknown[],
  collection: Collection,
  order: readonly unknown[],
): ItemChange[] {
  const before = new Map(from.map((item) => [collection.key(item), item]));
  const after = new Map(to.map((item) => [collection.key(item), item]));
  const changes: ItemChange[] = [];
  for (const [key, item] of before) {
    if (!after.has(key)) changes.push({ before: item, after: null });
  }
  for (const [key, item] of after) {
    const old = before.get(key);
    if (old === undefined) changes.push({ before: null, after: item, index: order.indexOf(item) });
    else if (!sameValue(old, item)) changes.push({ before: old, after: item });
  }
  return changes;
}
