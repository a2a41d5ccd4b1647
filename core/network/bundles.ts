import type { Interface } from "../plan/index.ts";
import type { BundleRecord } from "./network.ts";

/** How often ends assure each other (IEEE 802.1AX): milliseconds, 0 for never. */
const LACP_MS = { fast: 1000, slow: 30_000, off: 0 } as const;

/** What bundles are found by: interfaces by number, the ends of the plan's links, and the link of each interface. */
interface Wiring {
  readonly entries: readonly { readonly d: number; readonly entry: Interface }[];
  /** The interface of a device with a name. */
  readonly portOf: (device: number, name: string) => number;
  /** Ends of the plan's links; a bundle whose members stand on a link of several becomes an end of it. */
  readonly ends: number[][];
  /** The plan's link of each interface, or -1; bundles get theirs. */
  readonly link: Int32Array;
  readonly bundle: Int32Array;
  readonly memberOf: Int32Array;
}

/** The bundles of a plan (rule 15.1). Two bundles that face each other get a link of their own; its ends are `joined`,
 * numbered from `first`. A bundle whose members share a link with other interfaces is on that link. */
export function compileBundles(
  wiring: Wiring,
  first: number,
): { readonly bundles: BundleRecord[]; readonly joined: number[][] } {
  const { entries, portOf, ends, link, bundle, memberOf } = wiring;
  const found: { interface: number; members: number[]; entry: Interface }[] = [];
  for (const [i, { d, entry }] of entries.entries()) {
    if (entry.kind !== "bundle") continue;
    const members = (entry.members ?? []).map((name) => portOf(d, name));
    bundle[i] = found.length;
    for (const m of members) memberOf[m] = found.length;
    found.push({ interface: i, members, entry });
  }
  const farEnds = (m: number) => (link[m] < 0 ? [] : ends[link[m]].filter((end) => end !== m));
  const joined: number[][] = [];
  const leadsTo = found.map(({ members }, b) => {
    const far = members.flatMap(farEnds).filter((end) => memberOf[end] !== b && bundle[end] < 0);
    const plain = far.find((end) => memberOf[end] < 0);
    return { far: far.length ? memberOf[far[0]] : -1, plain: plain !== undefined };
  });
  for (const [b, { interface: i, members }] of found.entries()) {
    if (link[i] >= 0) continue;
    const { far, plain } = leadsTo[b];
    if (plain) {
      const at = members.find((m) => farEnds(m).some((end) => memberOf[end] < 0));
      link[i] = link[at as number];
      ends[link[i]].push(i);
    } else if (far >= 0 && leadsTo[far].far === b && link[found[far].interface] < 0) {
      link[i] = link[found[far].interface] = first + joined.length;
      joined.push([i, found[far].interface]);
    }
  }
  const lacpOf = (b: number) => LACP_MS[found[b].entry.lacp ?? "slow"];
  const bundles = found.map(({ interface: i, members, entry }, b): BundleRecord => {
    const leads = members.map((m) =>
      farEnds(m).filter((end) => {
        if (memberOf[end] === b || bundle[end] >= 0) return false;
        return memberOf[end] < 0 ? link[m] === link[i] : link[found[memberOf[end]].interface] === link[i];
      }),
    );
    return {
      index: b,
      interface: i,
      members,
      minUp: entry.minUp ?? 1,
      lacpMs: lacpOf(b),
      leads,
      blind: members.map((m) => link[m] >= 0 && farEnds(m).every((end) => memberOf[end] === b || end === i)),
      assured: members.map(
        (m) => lacpOf(b) > 0 && farEnds(m).some((end) => memberOf[end] >= 0 && lacpOf(memberOf[end]) > 0),
      ),
    };
  });
  return { bundles, joined };
}
