import { formatElement } from "../../network/index.ts";
import { overloads } from "../../resilience/index.ts";
import type { Check, Report } from "../check.ts";
import { pathEvidence } from "../finding.ts";

/** A gateway or a link that cannot carry what comes to it, most often once something else has failed (rule 19). */
export const backupTooSmall: Check = {
  code: "backup-too-small",
  title: "What takes over has not enough room",
  consequence: "on-failure",
  severity: "warning",
  run: (context): Report[] => {
    const { network, gateways } = context;
    const asked = context.flows.filter(({ flow }) => flow.mbps !== undefined);
    const loads = asked.map(({ flow, question }) => ({ question, mbps: flow.mbps ?? 0 }));
    return overloads(context.engine, gateways, loads, (failed) => context.settle(failed)).map((over) => {
      const { kind, index, mbps, room, failed } = over;
      const label =
        kind === "gateway" ? gateways[index].id : (network.links.ids[index] ?? bundleText(network, index));
      const flows = over.flows.map((f) => asked[f].flow.id);
      const refs = failed.map((element) => formatElement(network, element));
      const when = refs.length ? `Once ${refs.join(" with ")} fails` : "With nothing failed";
      return {
        device: null,
        subject: `${kind} ${label}`,
        text: `${when} the ${kind} ${label} is to carry ${rounded(mbps)} Mbit/s of ${flows.join(", ")}, and has room for ${rounded(room)}.`,
        evidence: flows.map((flow) => pathEvidence(flow, refs)),
      };
    });
  },
};

const rounded = (mbps: number) => Number(mbps.toFixed(2));

function bundleText(
  { links, interfaces, devices }: Parameters<typeof formatElement>[0],
  link: number,
): string {
  const end = links.ends[links.endStart[link]];
  return `bundle ${devices[interfaces.device[end]].id}/${interfaces.names[end]}`;
}
