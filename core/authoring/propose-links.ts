import { formatPrefix, isIpv6LinkLocal, parseInterfaceAddress, prefixOf } from "../address/index.ts";
import { freeName, idOf, type Link, type Plan } from "../plan/index.ts";

/** A link to add, or a segment to which ends are added (`before`). */
export interface ProposedLink {
  readonly before: Link | null;
  readonly after: Link;
  /** The interfaces that the proposal joins, as "device/interface". */
  readonly joins: readonly string[];
}

/**
 * The links that the subnets of a plan imply: interfaces of different devices in one subnet and VRF. Two are joined by a
 * cable, more by a switch; where a segment of the subnet exists, free interfaces are added to it. Cables and
 * circuits that exist stay as they are.
 * @param among "device/interface": only proposals that join one of these
 */
export function proposeLinks(plan: Plan, among: ReadonlySet<string>): ProposedLink[] {
  const linkOf = new Map(plan.links.flatMap((link) => link.ends.map((end) => [end, link] as const)));
  const taken = new Set(plan.links.map((link) => link.id));
  const joined = new Set(linkOf.keys());
  const proposed = new Map<string, ProposedLink>();
  for (const [subnet, ends] of subnetsOf(plan)) {
    const free = ends.filter((end) => !joined.has(end));
    if (!free.some((end) => among.has(end)) || new Set(ends.map(deviceOf)).size < ends.length) continue;
    if (free.length === ends.length && free.length >= 2) {
      const after = newLink(plan, subnet, free, taken);
      taken.add(after.id);
      proposed.set(after.id, { before: null, after, joins: free });
    } else {
      const [segment, ...others] = new Set(ends.flatMap((end) => linkOf.get(end) ?? []));
      if (!segment || others.length > 0 || segment.medium !== "switch") continue;
      const earlier = proposed.get(segment.id);
      const joins = [...(earlier?.joins ?? []), ...free];
      const after = { ...segment, ends: [...segment.ends, ...joins] };
      proposed.set(segment.id, { before: segment, after, joins });
    }
    for (const end of free) joined.add(end);
  }
  return [...proposed.values()];
}

const deviceOf = (end: string) => end.slice(0, end.indexOf("/"));

/** A link among interfaces: named after its two ends, or after its subnet if there are more. */
function newLink(plan: Plan, subnet: string, ends: string[], taken: ReadonlySet<string>): Link {
  const prefix = subnet.slice(subnet.indexOf(" ") + 1);
  const labels = ends.map(
    (end) => plan.devices.find(({ id }) => id === deviceOf(end))?.label ?? deviceOf(end),
  );
  const two = ends.length === 2;
  const label = (two ? labels.join(" – ") : `Segment ${prefix}`).slice(0, 200);
  const id = freeName(idOf(two ? ends.map(deviceOf).join(" ") : `segment ${prefix}`), (name) =>
    taken.has(name),
  );
  return { id, label, medium: two ? "cable" : "switch", ends };
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
