import { type Consequence, checks, type Finding, findAll } from "../../core/findings/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import type { Looked } from "../search/looked.ts";

/** All findings of a plan under conditions, and whether their fixes were looked for. */
export interface FindingSet {
  findings: Finding[];
  /** The kinds among them, in the order of the checks. */
  kinds: FindingKind[];
  fixes: boolean;
}

export interface FindingKind {
  code: string;
  title: string;
  consequence: Consequence;
}

export interface FindingsAnswer {
  /** Without fixes, which the browser proves; null where the plan is too large to look through within one request. */
  set: FindingSet | null;
}

const known = new WeakMap<Scenario["engine"], Map<string, FindingSet>>();

/** Findings, kept with the plan that they are of. */
export function findingSet(p: Scenario, down: readonly string[], fixes: boolean): FindingSet {
  let sets = known.get(p.engine);
  if (!sets) {
    sets = new Map();
    known.set(p.engine, sets);
  }
  const key = [...new Set(down)].sort().join(" ");
  const held = sets.get(`${key} fixes`) ?? (fixes ? undefined : sets.get(key));
  if (held) return held;
  const findings = findAll(p.under(down), { fixes });
  const kinds = checks
    .filter((check) => findings.some((finding) => finding.code === check.code))
    .map(({ code, title, consequence }) => ({ code, title, consequence }));
  const set = { findings, kinds, fixes };
  sets.set(fixes ? `${key} fixes` : key, set);
  return set;
}

/** Devices up to which the server looks through a plan for a page. */
const MAX_DEVICES = 60;

export function findingsAnswer(p: Scenario, looked: Looked): FindingsAnswer {
  return {
    set: p.plan.devices.length <= MAX_DEVICES ? findingSet(p, looked.down, false) : null,
  };
}
