import { isIpv6LinkLocal, parsePrefix } from "../address/index.ts";
import { harmsAnything } from "../impact/index.ts";
import { dismissalKey, type Edit, type StaticRoute } from "../plan/index.ts";
import { differenceOf } from "../reachability/index.ts";
import type { Scenario } from "../scenario/index.ts";
import type { Check, Report } from "./check.ts";
import { checks } from "./checks/index.ts";
import { Context } from "./context.ts";
import { type Finding, type Fix, severities } from "./finding.ts";
import { reportsOf } from "./reports-of.ts";

/** Fixes that are proven at most; past that, findings come without. */
const MAX_PROOFS = 60;

/**
 * Everything that is wrong or could be better (rule 12), the gravest first. A fix is offered only when
 * applying it, run through the engine, removes the finding and makes nothing worse, with nothing failed or under any single
 * failure.
 */
export function findAll(scenario: Scenario, options: { fixes?: boolean } = {}): Finding[] {
  const context = new Context(scenario);
  const reasons = new Map(scenario.plan.dismissals.map((d) => [dismissalKey(d), d.reason]));
  let proofs = options.fixes === false ? 0 : MAX_PROOFS;
  const findings = checks.flatMap((check) =>
    reportsOf(context, check).map((report): Finding => {
      const { fixes = [], severity = check.severity, ...rest } = report;
      const candidates = proofs <= 0 ? [] : typeof fixes === "function" ? fixes() : fixes;
      const proven = candidates.flatMap((edit): Fix[] => {
        if (proofs-- <= 0) return [];
        return resolves(context, check, report, edit) ? [{ label: edit.label, edit }] : [];
      });
      const dismissed = reasons.get(dismissalKey({ code: check.code, ...rest }));
      const finding = { code: check.code, severity, ...rest, fixes: proven };
      return dismissed === undefined ? finding : { ...finding, dismissed };
    }),
  );
  return findings.sort((a, b) => severities.indexOf(a.severity) - severities.indexOf(b.severity));
}

/** Whether an edit removes a finding and makes nothing worse. */
function resolves(context: Context, check: Check, report: Report, edit: Edit): boolean {
  if (writesLinkLocal(edit)) return false;
  const outcome = context.scenario.afterEdit(edit);
  if (!outcome.ok) return false;
  const after = new Context(outcome.scenario, check.ofOwnRoutes ? report.device : null);
  if (check.run(after).some((other) => other.device === report.device && other.subject === report.subject))
    return false;
  if (check.fixesChangeNothing && differenceOf(context.scenario, after.scenario).length > 0) return false;
  return !harmsAnything(context.scenario, after.scenario, edit);
}

/** Whether an edit writes a route to link-local addresses: no router forwards to them (RFC 4291, 2.5.6). */
function writesLinkLocal({ changes }: Edit): boolean {
  return changes.some((change) => {
    if (change.in !== "policy-table" && !(change.in === "device" && change.collection === "routes"))
      return false;
    const to = change.after ? parsePrefix((change.after as StaticRoute).to) : null;
    return to !== null && to.length >= 10 && isIpv6LinkLocal(to.address);
  });
}
