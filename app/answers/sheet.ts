import { askFrom, type Question, walkBothWays } from "../../core/forwarding/index.ts";
import { hasAddress, linkElement, type Network } from "../../core/network/index.ts";
import { settle } from "../../core/outage/index.ts";
import type { Plan } from "../../core/plan/index.ts";
import { countPlan, type PlanCounts } from "../../core/reports/index.ts";
import { prepare } from "./engines.ts";

export interface PlanSheet {
  name: string;
  description: string;
  counts: PlanCounts;
  works: number;
  /** Flows that still work whichever single link fails, those at the sender and the receiver left out. */
  survive: number;
  roles: Record<string, string>;
}

/** A plan at a glance: what it holds, how many of its flows work, and how many survive any one link. */
export function sheetOf(plan: Plan, key: string): PlanSheet {
  const { engine } = prepare(plan, key);
  const questions = plan.flows.flatMap((flow) => {
    const asked = askFrom(engine.network, flow);
    return asked.ok ? [asked.question] : [];
  });
  const working = questions.filter((q) => walkBothWays(engine.healthy.world, q).verdict === "works");
  let surviving = working;
  for (let link = 0; link < engine.network.links.planned && surviving.length > 0; link++) {
    const { world } = settle(engine, [linkElement(engine.network, link)]);
    surviving = surviving.filter(
      (q) => isOwnLink(engine.network, q, link) || walkBothWays(world, q).verdict === "works",
    );
  }
  return {
    name: plan.name,
    description: plan.description ?? "",
    counts: countPlan(plan),
    works: working.length,
    survive: surviving.length,
    roles: Object.fromEntries(plan.devices.map((device) => [device.id, device.role])),
  };
}

/** Whether the link ends at the sender or at the receiver: when it fails, nothing could help. */
function isOwnLink(network: Network, question: Question, link: number): boolean {
  const { links, interfaces } = network;
  for (let e = links.endStart[link]; e < links.endStart[link + 1]; e++) {
    const end = links.ends[e];
    if (interfaces.device[end] === question.device || hasAddress(network, end, question.destination))
      return true;
  }
  return false;
}
