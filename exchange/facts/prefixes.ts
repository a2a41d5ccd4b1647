import { formatPrefix, parseInterfaceAddress, parsePrefix, prefixOf } from "../../core/address/index.ts";
import type { DeviceFacts } from "./facts.ts";

/** As much of a device's name as is kept. */
const LONGEST_NAME = 200;

/** A device's reading in its stored form: its name and the networks that it knows. */
export function readingOf(said: DeviceFacts): { device: string; facts: DeviceFacts; prefixes: string[] } {
  const device = said.device.slice(0, LONGEST_NAME) || "unnamed";
  return { device, facts: { ...said, device }, prefixes: prefixesOf(said) };
}

/** The networks that a device knows: where it has an address, and where it has a route. Defaults hold everything. */
function prefixesOf({ interfaces, routes }: DeviceFacts): string[] {
  const attached = interfaces.flatMap((entry) =>
    entry.addresses.flatMap((text) => {
      const read = parseInterfaceAddress(text);
      return read ? [formatPrefix(prefixOf(read.address, read.length))] : [];
    }),
  );
  const routed = routes.flatMap(({ to }) => (!to.endsWith("/0") && parsePrefix(to) ? [to] : []));
  return [...attached, ...routed];
}
