import { parseAddress, parsePrefix } from "../address/index.ts";

/** From this length on, a list of plain routes skips the schema. */
const MANY = 1000;

/** Removes long lists of plain routes from a document, because the schema would only confirm them one by one. Returns
 * the document without them, and a function that puts them back into the parsed result. */
export function withoutPlainRoutes<T extends { devices: { routes: unknown[] }[] }>(
  document: object,
): { document: object; restore: (plan: T) => T } {
  const { devices } = document as { devices?: unknown };
  if (!Array.isArray(devices)) return { document, restore: (plan) => plan };
  const aside = new Map<number, object[]>();
  for (const [n, device] of devices.entries()) {
    const routes: unknown = (device as { routes?: unknown } | null)?.routes;
    if (Array.isArray(routes) && routes.length >= MANY && routes.every(isPlain)) aside.set(n, routes);
  }
  if (aside.size === 0) return { document, restore: (plan) => plan };
  const emptied = devices.map((device, n) => (aside.has(n) ? { ...device, routes: [] } : device));
  return {
    document: { ...document, devices: emptied },
    restore: (plan) => ({
      ...plan,
      devices: plan.devices.map((device, n) => {
        const routes = aside.get(n);
        return routes ? { ...device, routes: routes.map((route) => ({ ...route })) } : device;
      }),
    }),
  };
}

/** Whether a value is a route that says nothing but an IPv4 destination and next hop, both as they are written out. */
function isPlain(value: unknown): boolean {
  if (typeof value !== "object" || value === null || Array.isArray(value)) return false;
  const { to, via } = value as { to?: unknown; via?: unknown };
  if (typeof to !== "string" || typeof via !== "string") return false;
  if (Object.keys(value).length !== 2 || parseAddress(via)?.family !== 4) return false;
  // A length of 00 or 08 is read, and written out otherwise; of IPv4 addresses there is only one form.
  return !/\/0\d/.test(to) && parsePrefix(to)?.address.family === 4;
}
