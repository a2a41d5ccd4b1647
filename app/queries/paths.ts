import type { Scenario } from "../../core/scenario/index.ts";
import type { Looked } from "../search/looked.ts";
import { conditionsOf } from "./conditions.ts";
import { ownAddresses } from "./device.ts";
import type { FlowOutcome, FlowQuery } from "./flows.ts";
import { chosenFlow } from "./map.ts";

export interface PathsAnswer {
  flow: FlowOutcome;
  /** The sender's own addresses, to choose the source from. */
  sources: string[];
  /** Every host of the plan. */
  hosts: string[];
}

/** The forward and the return path. */
export function pathsAnswer(model: Scenario, looked: Looked, asked: FlowQuery): PathsAnswer {
  const conditions = conditionsOf(model, looked);
  const flow = chosenFlow(model, conditions, asked);
  const from = (flow?.ok ? flow.answer.asked.from : asked.from) ?? "";
  return {
    flow,
    sources: ownAddresses(model, from.split("/")[0]),
    hosts: model.plan.devices.filter((device) => device.role === "host").map((device) => device.id),
  };
}
