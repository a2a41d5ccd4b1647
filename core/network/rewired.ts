import { type Device, sameValue } from "../plan/index.ts";

/** What an edit may change of a device while its neighbours on every link see the same of it. */
const ownMatters: readonly string[] = ["routes", "watches", "interfaces"] satisfies (keyof Device)[];

/**
 * The interfaces of a device, by name, by which its neighbours may see otherwise of it after an edit: those that are
 * gone, new or changed. Null for all of them: where more of it was changed, or interfaces rest on each other.
 */
export function rewiredPorts(before: Device, after: Device): ReadonlySet<string> | null {
  for (const key of Object.keys({ ...before, ...after }) as (keyof Device)[])
    if (!ownMatters.includes(key) && !sameValue(before[key], after[key])) return null;
  const [old, now] = [before, after].map(({ interfaces }) => new Map(interfaces.map((i) => [i.name, i])));
  const rewired = new Set<string>();
  for (const name of [...old.keys(), ...now.keys()]) {
    const [a, b] = [old.get(name), now.get(name)];
    if ([a, b].some((port) => port?.kind === "bundle" || port?.parent !== undefined)) return null;
    if (a !== b && !sameValue(a, b)) rewired.add(name);
  }
  return rewired;
}
