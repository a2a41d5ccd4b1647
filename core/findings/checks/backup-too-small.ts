import { loadsOf, overloads } from "../../failures/index.ts";
import { formatElement } from "../../network/index.ts";
import { crowdedName, crowdedText } from "../../words/index.ts";
import type { Check, Report } from "../check.ts";
import { pathEvidence } from "../finding.ts";

/** A gateway or link without enough capacity for its traffic, usually after another failure (rule 19). */
export const backupTooSmall: Check = {
  code: "backup-too-small",
  title: "Backup path lacks capacity",
  consequence: "on-failure",
  severity: "warning",
  run: (context): Report[] => {
    const { network, gateways } = context;
    const loads = loadsOf(network, context.flows);
    return overloads(context.engine, gateways, loads, (failed) => context.settle(failed)).map((over) => {
      const flows = over.flows.map((f) => loads[f].id);
      const refs = over.failed.map((element) => formatElement(network, element));
      const when = refs.length
        ? `If ${refs.join(" and ")} ${refs.length === 1 ? "fails" : "fail"},`
        : "With no failure,";
      return {
        device: null,
        subject: crowdedName(network, gateways, over),
        text: `${when} ${crowdedText(network, gateways, over, flows)}.`,
        evidence: flows.map((flow) => pathEvidence(flow, refs)),
      };
    });
  },
};
