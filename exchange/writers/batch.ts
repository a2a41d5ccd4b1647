import { containsAddress, parseAddress, parseInterfaceAddress } from "../../core/address/index.ts";
import type { Hop, Kernel, KernelRoute } from "./kernel.ts";

const NOTHING: Kernel = {
  vrfs: new Map(),
  ports: new Map(),
  addresses: new Map(),
  routes: new Map(),
  rules: new Set(),
};

/** The lines for `ip -batch` that make a kernel of nothing. */
export function batchOf(kernel: Kernel): string[] {
  return batchBetween(NOTHING, kernel);
}

/** The lines for `ip -batch` that change one kernel into another: additions before removals, so that a route whose next
 * hops change never leaves packets without one. Interfaces are hardware: only addresses, VRF and state are configured.
 * */
export function batchBetween(before: Kernel, after: Kernel): string[] {
  const lines: string[] = [];
  for (const [vrf, table] of after.vrfs) {
    if (!before.vrfs.has(vrf)) lines.push(`link add ${vrf} type vrf table ${table}`, `link set ${vrf} up`);
  }
  for (const [name, port] of after.ports) {
    const was = before.ports.get(name);
    if (port.vrf !== (was?.vrf ?? null))
      lines.push(port.vrf ? `link set ${name} master ${port.vrf}` : `link set ${name} nomaster`);
  }
  for (const [key, { address, port }] of after.addresses) {
    if (!before.addresses.has(key)) lines.push(`addr add ${address} dev ${port}`);
  }
  for (const [name, { up }] of after.ports) {
    if (up !== before.ports.get(name)?.up) lines.push(`link set ${name} ${up ? "up" : "down"}`);
  }
  const lost = forgottenBetween(before, after);
  for (const [key, route] of after.routes) {
    const was = before.routes.get(key);
    if (!was) lines.push(routeLine("add", route));
    else if (!sameRoute(was, route)) lines.push(routeLine("replace", route));
  }
  for (const rule of after.rules) if (!before.rules.has(rule)) lines.push(ruleLine("add", rule));
  for (const rule of before.rules) if (!after.rules.has(rule)) lines.push(ruleLine("del", rule));
  for (const [key, route] of before.routes) if (!after.routes.has(key)) lines.push(routeLine("del", route));
  for (const [key, { address, port }] of before.addresses) {
    if (!after.addresses.has(key)) lines.push(`addr del ${address} dev ${port}`);
  }
  for (const name of before.ports.keys()) if (!after.ports.has(name)) lines.push(`link set ${name} down`);
  for (const vrf of before.vrfs.keys()) if (!after.vrfs.has(vrf)) lines.push(`link del ${vrf}`);
  if (lost.length > 0)
    lines.push(
      "# a kernel removes the routes of an interface that goes down; these stay in the plan",
      ...lost,
    );
  return lines;
}

/** Routes that stay as they are while the kernel forgets them, for their interface was down or their address was changed. */
function forgottenBetween(before: Kernel, after: Kernel): string[] {
  const touched = new Set<string>();
  for (const [name, { up, vrf }] of after.ports) {
    const was = before.ports.get(name);
    if (was && up && (!was.up || was.vrf !== vrf)) touched.add(name);
  }
  for (const [key, { port }] of before.addresses) if (!after.addresses.has(key)) touched.add(port);
  for (const [key, { port }] of after.addresses) {
    if (!before.addresses.has(key) && before.ports.has(port)) touched.add(port);
  }
  if (touched.size === 0) return [];
  const subnets = [...after.addresses.values()].flatMap(({ address, port }) => {
    const read = touched.has(port) && after.ports.get(port)?.up ? parseInterfaceAddress(address) : null;
    return read ? [{ address: read.address, length: read.length }] : [];
  });
  const leaves = ({ via, out }: Hop) => {
    const hop = via === null ? null : parseAddress(via);
    if (hop && subnets.some((subnet) => containsAddress(subnet, hop))) return true;
    return out !== null && touched.has(out) && after.ports.get(out)?.up === true;
  };
  return [...after.routes].flatMap(([key, route]) => {
    const was = before.routes.get(key);
    return was && sameRoute(was, route) && route.hops.some(leaves) ? [routeLine("replace", route)] : [];
  });
}

/** iproute2 reads the family of routes and addresses from their text; rules by interface need it from the command line. */
export const OF_IPV6 = "-6 ";

function ruleLine(doing: "add" | "del", rule: string): string {
  return rule.startsWith(OF_IPV6)
    ? `${OF_IPV6}rule ${doing} ${rule.slice(OF_IPV6.length)}`
    : `rule ${doing} ${rule}`;
}

function routeLine(doing: "add" | "replace" | "del", route: KernelRoute): string {
  const { to, metric, table, kind, hops } = route;
  const words = [`route ${doing}`, kind === "unicast" ? "" : kind, to];
  if (hops.length === 1) words.push(...hopWords(hops[0]));
  if (metric > 0) words.push(`metric ${metric}`);
  if (table !== null) words.push(`table ${table}`);
  if (doing !== "del") words.push("proto static");
  if (hops.length > 1 && doing !== "del")
    for (const hop of hops)
      words.push("nexthop", ...hopWords(hop), hop.weight > 1 ? `weight ${hop.weight}` : "");
  return words.filter(Boolean).join(" ");
}

function hopWords({ via, out, onLink }: Hop): string[] {
  return [via ? `via ${via}` : "", out ? `dev ${out}` : "", onLink ? "onlink" : ""];
}

function sameRoute(a: KernelRoute, b: KernelRoute): boolean {
  const words = ({ kind, hops }: KernelRoute) =>
    `${kind} ${hops
      .map(({ via, out, onLink, weight }) => `${via} ${out} ${onLink} ${weight}`)
      .sort()
      .join()}`;
  return words(a) === words(b);
}
