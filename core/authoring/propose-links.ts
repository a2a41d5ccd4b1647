import { formatPrefix, isIpv6LinkLocal, parseInterfaceAddress, prefixOf } from "../address/index.ts";
import type { Link, Plan } from "../plan/index.ts";

/**
 * The links that the subnets of a plan imply: interfaces of different devices in one subnet and VRF that no link joins
 * yet. Two are joined by a cable, more by a switch. `among`, "device/interface": only links with one of these ends.
 */
export function proposeLinks(plan: Plan, among: ReadonlySet<string>): Link[] {
  const joined = new Set(plan.links.flatMap((link) => link.ends));
  const taken = new Set(plan.links.map((link) => link.id));
  const links: Link[] = [];
  for (const [subnet, ends] of subnetsOf(plan)) {
    const free = ends.filter((end) => !joined.has(end));
    const devices = new Set(free.map((end) => end.slice(0, end.indexOf("/"))));
    const whole = free.length === ends.length && devices.size === free.length;
    if (!whole || free.length < 2 || !free.some((end) => among.has(end))) continue;
    const name = subnet
      .replace(/^.* /, "")
      .replaceAll(/[^a-z0-9]+/g, "-")
      .replaceAll(/^-|-$/g, "");
    let id = `net-${name}`;
    for (let n = 2; taken.has(id); n++) id = `net-${name}-${n}`;
    taken.add(id);
    for (const end of free) joined.add(end);
    links.push({ id, medium: free.length === 2 ? "cable" : "switch", ends: free });
  }
  return links;
}

/** The interfaces that can be on a link, by the subnets of their addresses, IPv4 first. */
function subnetsOf(plan: Plan): [string, string[]][] {
  const subnets = new Map<string, string[]>();
  for (const device of plan.devices)
    for (const port of device.interfaces) {
      if (port.kind === "loopback" || port.kind === "tunnel") continue;
      for (const text of port.addresses) {
        const read = parseInterfaceAddress(text);
        if (!read || isIpv6LinkLocal(read.address)) continue;
        const most = read.address.family === 4 ? 32 : 128;
        if (read.length === most) continue;
        const key = `${port.vrf ?? "main"} ${formatPrefix(prefixOf(read.address, read.length))}`;
        const ends = subnets.get(key) ?? [];
        const end = `${device.id}/${port.name}`;
        subnets.set(key, ends.includes(end) ? ends : [...ends, end]);
      }
    }
  return [...subnets].sort(([a], [b]) => Number(a.includes(":")) - Number(b.includes(":")));
}
