import { type Address, containsAddress, type Prefix, parsePrefix } from "../address/index.ts";
import { addressesOf } from "../network/index.ts";
import type { Walk } from "../walk/index.ts";
import type { Context } from "./context.ts";

/** Whether a packet left the network for a provider or the internet. */
export function passesOutside(context: Context, walk: Walk): boolean {
  return walk.hops.some((hop) => ["provider", "internet"].includes(context.network.devices[hop.device].role));
}

/** The last device of ours before a packet left for a provider or the internet; null where it stayed inside. */
export function lastInside(
  context: Context,
  walk: Walk,
): { device: number; out: number; translated: boolean } | null {
  const at = walk.hops.findIndex((hop) =>
    ["provider", "internet"].includes(context.network.devices[hop.device].role),
  );
  const before = walk.hops[at - 1];
  return at > 0 && before.out >= 0
    ? { device: before.device, out: before.out, translated: before.translated !== null }
    : null;
}

/** The other interfaces by which a device's defaults lead outside and that do not translate a source: a backup needs it too. */
export function exitsWithoutTranslation(
  context: Context,
  { device, out }: { device: number; out: number },
  source: Address,
): string[] {
  const { network, gateways } = context;
  const { interfaces, devices } = network;
  const own = context.deviceOf(devices[device]);
  const isOutside = (i: number) =>
    context
      .onLinkOf(i)
      .some((a) => a.interface !== i && ["provider", "internet"].includes(devices[a.device].role));
  const covers = (name: string) =>
    own.sourceNat.some(
      (nat) =>
        nat.out === name &&
        (!nat.from || nat.from.some((text) => containsAddress(parsePrefix(text) as Prefix, source))),
    );
  const exits = gateways.map((gateway) => gateway.interface).filter((i) => interfaces.device[i] === device);
  return [...new Set(exits)]
    .filter((i) => i !== out && addressesOf(network, i, source.family).length > 0 && isOutside(i))
    .map((i) => interfaces.names[i])
    .filter((name) => !covers(name));
}
