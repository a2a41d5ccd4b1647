import type { Device } from "./device.ts";
import { parseElement } from "./elements.ts";
import type { Report } from "./errors.ts";
import type { Plan } from "./plan.ts";

/** Links that ride on others (rule 16.1): the underlying links exist, and no link carries itself. */
export function checkCarried(plan: Plan, report: Report) {
  const links = new Map(plan.links.map((link) => [link.id, link]));
  const carrying = new Set(plan.links.flatMap((link) => link.over ?? []));
  for (const [i, link] of plan.links.entries()) {
    if (link.ends.length === 0 && !carrying.has(link.id))
      report(["links", i, "ends"], "a link needs ends, unless other links ride on it (`over`)");
    if (ridesOn(link.id, link.id, links)) report(["links", i, "over"], `the link ${link.id} rides on itself`);
  }
}

function ridesOn(id: string, under: string, links: ReadonlyMap<string, Plan["links"][number]>): boolean {
  const seen = new Set<string>();
  const open = [...(links.get(id)?.over ?? [])];
  for (let at = open.pop(); at !== undefined; at = open.pop()) {
    if (at === under) return true;
    if (seen.has(at)) continue;
    seen.add(at);
    open.push(...(links.get(at)?.over ?? []));
  }
  return false;
}

/** A risk includes nothing that only watches or that is a risk itself. */
export function checkRisks(plan: Plan, report: Report) {
  for (const [i, risk] of plan.risks.entries()) {
    for (const [k, text] of risk.of.entries()) {
      const kind = parseElement(text)?.kind;
      const at = ["risks", i, "of", k];
      if (kind === "watch" || kind === "risk" || kind === "direction")
        report(
          at,
          `a shared risk can include links, devices, interfaces and sites; ${text} is a ${kind === "direction" ? "direction of a link" : kind}`,
        );
    }
  }
}

/** Pairs (rule 17): two devices of the plan, each in one pair; heartbeats connect them; monitored items exist on both.
 * */
export function checkPairs(plan: Plan, devices: ReadonlyMap<string, Device>, report: Report) {
  const paired = new Map<string, string>();
  for (const [i, pair] of plan.pairs.entries()) {
    const at = ["pairs", i];
    for (const [k, id] of pair.members.entries()) {
      const other = paired.get(id);
      if (other !== undefined)
        report([...at, "members", k], `${id} is already a member of the pair ${other}`);
      paired.set(id, pair.id);
    }
    for (const [k, id] of pair.heartbeats.entries()) {
      const link = plan.links.find((entry) => entry.id === id);
      if (link && !pair.members.every((member) => link.ends.some((end) => end.startsWith(`${member}/`))))
        report([...at, "heartbeats", k], `the link ${id} does not join ${pair.members.join(" and ")}`);
    }
    for (const [k, name] of pair.monitor.entries()) {
      const without = pair.members.find((id) => {
        const device = devices.get(id);
        return (
          device &&
          !device.interfaces.some((port) => port.name === name) &&
          !device.watches.some((watch) => watch.id === name)
        );
      });
      if (without) report([...at, "monitor", k], `${without} has no interface or watch ${name}`);
    }
  }
}
