import type { Device, VirtualRouter } from "../core/plan/index.ts";
import type { Scenario } from "../core/scenario/index.ts";
import type { DriftEntry } from "./drift-entry.ts";
import type { DeviceFacts, VirtualFact } from "./facts/index.ts";
import { interfaceNameOf } from "./rebuild/names.ts";

/** A virtual router of one family on an interface, from the plan or from a device. */
interface VirtualOnDevice extends Omit<VirtualFact, "active"> {
  interface: string;
}

const familyOf = (addresses: readonly string[]) => (addresses.some((text) => text.includes(":")) ? 6 : 4);

/** Those of the plan, one for each family, as a device would tell them: what tracks a watch it has no words for. */
function plannedOn({ interfaces }: Device): VirtualOnDevice[] {
  return interfaces.flatMap(({ name, virtual = [] }) =>
    virtual.flatMap(({ sync: _sync, track, addresses, ...settings }) =>
      ([4, 6] as const).flatMap((family) => {
        const own = addresses.filter((text) => familyOf([text]) === family);
        const tracked = track.flatMap(({ interface: port, lower }) =>
          port === undefined ? [] : [{ interface: port, lower }],
        );
        return own.length ? [{ ...settings, interface: name, addresses: own, track: tracked }] : [];
      }),
    ),
  );
}

function virtualsOn({ interfaces }: DeviceFacts): VirtualOnDevice[] {
  return interfaces.flatMap(({ name, virtual }) =>
    virtual.map(({ active: _active, ...router }) => ({ ...router, interface: interfaceNameOf(name) })),
  );
}

const keyOf = ({ interface: port, id, addresses }: VirtualOnDevice) => `${port} ${id} ${familyOf(addresses)}`;

/** Differences between a device's virtual routers and the plan or its prediction. */
export function virtualDrift(model: Scenario, device: Device, facts: DeviceFacts): DriftEntry[] {
  return [...settingsDrift(device, facts), ...stateDrift(model, device, facts)];
}

/** Those that are Active though another is predicted to be, or the other way round. */
function stateDrift({ network, world }: Scenario, device: Device, facts: DeviceFacts): DriftEntry[] {
  return network.virtuals.flatMap(({ index, interface: i, id, family }): DriftEntry[] => {
    if (network.devices[network.interfaces.device[i]].id !== device.id) return [];
    const port = network.interfaces.names[i];
    const reportedSettings = facts.interfaces
      .filter(({ name }) => interfaceNameOf(name) === port)
      .flatMap(({ virtual }) => virtual)
      .find((one) => one.id === id && familyOf(one.addresses) === family);
    const predicted = world.state.roles.virtualActive[index] === 1;
    if (!reportedSettings || reportedSettings.active === null || reportedSettings.active === predicted)
      return [];
    const [is, should] = reportedSettings.active ? ["Active", "Backup"] : ["Backup", "Active"];
    return [
      {
        device: device.id,
        kind: "virtual-state",
        subject: port,
        planned: predicted,
        seen: reportedSettings.active,
        text: `the virtual router ${id} of ${port} in IPv${family} is ${is}, predicted ${should}`,
      },
    ];
  });
}

/** A source without any says nothing about them. */
function settingsDrift(device: Device, facts: DeviceFacts): DriftEntry[] {
  const seen = new Map(virtualsOn(facts).map((router) => [keyOf(router), router]));
  if (seen.size === 0) return [];
  const planned = new Map(plannedOn(device).map((router) => [keyOf(router), router]));
  const entry = (
    kind: DriftEntry["kind"],
    own: VirtualOnDevice | null,
    now: VirtualOnDevice | null,
    text: string,
  ): DriftEntry => ({
    device: device.id,
    kind,
    subject: (own ?? now)?.interface ?? "",
    planned: own,
    seen: now,
    text,
  });
  const found: DriftEntry[] = [];
  for (const [key, own] of planned) {
    const now = seen.get(key);
    const name = nameOf(own);
    if (!now) found.push(entry("virtual-missing", own, null, `${name} is missing on the device`));
    else {
      const differs = differences(own, now);
      if (differs.length) found.push(entry("virtual-differs", own, now, `${name}: ${differs.join(", ")}`));
    }
  }
  for (const [key, now] of seen) {
    if (planned.has(key)) continue;
    const addresses = now.addresses.join(", ");
    found.push(entry("virtual-extra", null, now, `${nameOf(now)} (${addresses}) is not in the plan`));
  }
  return found;
}

function nameOf({ interface: port, id, addresses }: VirtualOnDevice): string {
  return `the virtual router ${id} of ${port} in IPv${familyOf(addresses)}`;
}

/** Devices report these in hundredths and whole seconds, so finer differences cannot be seen. */
const told = {
  priority: ({ priority }: VirtualOnDevice) => `priority ${priority}`,
  preempt: ({ preempt }: VirtualOnDevice) => (preempt ? "preempts" : "does not preempt"),
  preemptDelayMs: ({ preemptDelayMs }: VirtualOnDevice) =>
    `preempts after ${Math.round(preemptDelayMs / 1000)} s`,
  advertMs: ({ advertMs }: VirtualOnDevice) => `advertises every ${Math.round(advertMs / 10) * 10} ms`,
  accept: ({ accept }: VirtualOnDevice) =>
    accept ? "accepts packets to its address" : "accepts no packets to its address",
  addresses: ({ addresses }: VirtualOnDevice) => `addresses ${[...addresses].sort().join(" ")}`,
  track: ({ track }: VirtualOnDevice) =>
    track.length === 0
      ? "tracks no interface"
      : `tracks ${track
          .map(({ interface: port, lower }) => `${interfaceNameOf(port)} for ${lower}`)
          .sort()
          .join(" and ")}`,
} satisfies Partial<Record<keyof VirtualFact, (fact: VirtualOnDevice) => string>>;

/** Each differing setting: the device's value and the plan's. */
function differences(own: VirtualOnDevice, now: VirtualOnDevice): string[] {
  return Object.values(told).flatMap((tell) =>
    tell(own) === tell(now) ? [] : [`${tell(now)}, planned: ${tell(own)}`],
  );
}

/** A device with one such difference taken over. What the plan says of it beside, and its other family, stay. */
export function virtualTaken(device: Device, { kind, planned, seen }: DriftEntry): Device {
  const [own, now] = [planned, seen] as (VirtualOnDevice | null)[];
  const at = own ?? now;
  if (!at) return device;
  const change = (virtual: readonly VirtualRouter[]): VirtualRouter[] => {
    if (kind === "virtual-extra" && now) return [...virtual, routerFrom(now)];
    return virtual.flatMap((router): VirtualRouter[] => {
      const [mine, others] = [
        router.addresses.filter(inFamily(at)),
        router.addresses.filter((text) => !inFamily(at)(text)),
      ];
      if (router.id !== at.id || mine.length === 0) return [router];
      const rest = others.length ? [{ ...router, addresses: others }] : [];
      return now ? [...rest, { ...router, ...settingsFrom(now, router) }] : rest;
    });
  };
  return {
    ...device,
    interfaces: device.interfaces.map((port) => {
      if (port.name !== at.interface) return port;
      const { virtual, ...rest } = port;
      const changed = change(virtual ?? []);
      return changed.length ? { ...rest, virtual: changed } : rest;
    }),
  };
}

const inFamily =
  ({ addresses }: VirtualOnDevice) =>
  (text: string) =>
    familyOf([text]) === familyOf(addresses);

function settingsFrom({ interface: _port, track, ...settings }: VirtualOnDevice, own: VirtualRouter | null) {
  const watched = (own?.track ?? []).filter(({ watch }) => watch !== undefined);
  const tracked = track.map(({ interface: port, lower }) => ({ interface: interfaceNameOf(port), lower }));
  return { ...settings, track: [...watched, ...tracked] };
}

function routerFrom(seen: VirtualOnDevice): VirtualRouter {
  return settingsFrom(seen, null);
}
