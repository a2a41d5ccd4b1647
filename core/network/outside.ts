import { type Address, containsAddress, type Family, parseAddress, parsePrefix } from "../address/index.ts";
import type { Network } from "./network.ts";
import { ownersOf } from "./state.ts";

/** Addresses of the blocks for documentation (RFC 5737, RFC 3849): a plan rarely has all of them. */
const OUTSIDE: Record<Family, readonly string[]> = {
  4: ["203.0.113.80", "198.51.100.80", "192.0.2.80", "203.0.113.250", "198.51.100.250", "192.0.2.250"],
  6: ["2001:db8:ffff::80", "2001:db8:fffe::80"],
};

/** A public address that the plan neither owns, routes nor announces; null if every candidate is used. */
export function addressOutside(network: Network, family: Family): Address | null {
  const inside = network.plan.devices.flatMap((device) =>
    [...device.routes.map((route) => route.to), ...(device.announces ?? [])].flatMap((text) => {
      const prefix = parsePrefix(text);
      return prefix && prefix.length > 0 ? [prefix] : [];
    }),
  );
  for (const text of OUTSIDE[family]) {
    const address = parseAddress(text);
    if (!address || ownersOf(network, address).length > 0) continue;
    if (!inside.some((prefix) => containsAddress(prefix, address))) return address;
  }
  return null;
}
