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

/** Conditions that are remembered for each plan: those of the page, and those of the case that is opened on it. */
const KEPT = 8;
const remembered = new WeakMap<Engine, Map<string, Standing>>();

/**
 * The same with more elements down, by their references; those that the plan does not have are passed over. The same
 * conditions give the same engine, so that what was worked out under them is not worked out anew.
 */
export function standingUnder(standing: Standing, down: readonly string[]): Standing {
  const { engine, gateways } = standing;
  const elements = [...new Set(down.flatMap((ref) => findElement(engine.network, ref) ?? []))].sort(
    (a, b) => a - b,
  );
  if (elements.length === 0) return standing;
  const held = remembered.get(engine) ?? new Map<string, Standing>();
  remembered.set(engine, held);
  const key = elements.join(" ");
  const found = held.get(key) ?? { engine: engineUnder(engine, elements), gateways };
  held.delete(key);
  held.set(key, found);
  if (held.size > KEPT) held.delete(held.keys().next().value as string);
  return found;
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
