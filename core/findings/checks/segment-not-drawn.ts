import { interfaceName, undrawnSegments } from "../../network/index.ts";
import type { Check, Report } from "../check.ts";

/** One subnet on several interfaces that no link joins: they are not taken to be one segment (rule 2.8). */
export const segmentNotDrawn: Check = {
  code: "segment-not-drawn",
  title: "Interfaces of one subnet are not joined by a link",
  consequence: "lost",
  severity: "warning",
  run: ({ network, scenario }) =>
    [...undrawnSegments(network)].flatMap(([prefix, ports]): Report[] => {
      const ends = [...new Set(ports.map((i) => interfaceName(network, i)))];
      const taken = new Set(scenario.plan.links.map(({ id }) => id));
      const base = `lan-${prefix.replaceAll(/[^a-z0-9]+/g, "-")}`;
      let id = base;
      for (let n = 2; taken.has(id); n++) id = `${base}-${n}`;
      return [
        {
          device: null,
          subject: prefix,
          text: `${ends.slice(0, -1).join(", ")} and ${ends[ends.length - 1]} have addresses of ${prefix}, but no link joins them. They are treated as separate segments, so they do not reach each other.`,
          evidence: ends.map((end) => ({ kind: "interface" as const, interface: end })),
          fixes: [
            {
              label: `Join ${ends.length} interfaces by a switch`,
              changes: [
                { in: "plan", collection: "links", before: null, after: { id, medium: "switch", ends } },
              ],
            },
          ],
        },
      ];
    }),
};
