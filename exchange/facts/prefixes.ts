import { formatPrefix, parseInterfaceAddress, parsePrefix, prefixOf } from "../../core/address/index.ts";
import type { DeviceFacts } from "./facts.ts";

/** The networks that a device knows: where it has an address, and where it has a route. Defaults hold everything. */
export function prefixesOf({ interfaces, routes }: DeviceFacts): string[] {
  const attached = interfaces.flatMap((entry) =>
    entry.addresses.flatMap((text) => {
      const read = parseInterfaceAddress(text);
      return read ? [formatPrefix(prefixOf(read.address, read.length))] : [];
    }),
  );
  const routed = routes.flatMap(({ to }) => (!to.endsWith("/0") && parsePrefix(to) ? [to] : []));
  return [...attached, ...routed];
}
