import type { GatewayRecord } from "../forwarding/index.ts";
import { compile, findElement, formatElement } from "../network/index.ts";
import { createEngine, type Engine, engineUnder } from "../outage/index.ts";
import type { Plan } from "../plan/index.ts";

/** A plan made ready for questions, perhaps under conditions: the engine's base is what is down. */
export interface Standing {
  readonly engine: Engine;
  readonly gateways: readonly GatewayRecord[];
}

export function standingOf(plan: Plan): Standing {
  const engine = createEngine(compile(plan));
  return { engine, gateways: engine.gateways };
}

/** The same with more elements down, by their references; those that the plan does not have are passed over. */
export function standingUnder({ engine, gateways }: Standing, down: readonly string[]): Standing {
  const elements = down.flatMap((ref) => findElement(engine.network, ref) ?? []);
  return { engine: engineUnder(engine, elements), gateways };
}

/** An edited plan under the same conditions as before; what the edit left alone is not compiled anew. */
export function standingAfter(before: Standing, plan: Plan): Standing {
  const { network, base } = before.engine;
  const engine = createEngine(compile(plan, network));
  const after = { engine, gateways: engine.gateways };
  return standingUnder(
    after,
    base.map((element) => formatElement(network, element)),
  );
}
