import { type GatewayRecord, gatewaysOf } from "../../core/forwarding/index.ts";
import { compile } from "../../core/network/index.ts";
import { createEngine, type Engine } from "../../core/outage/index.ts";
import type { Plan } from "../../core/plan/index.ts";

/** A plan made ready for questions. */
export interface Prepared {
  readonly plan: Plan;
  readonly engine: Engine;
  readonly gateways: readonly GatewayRecord[];
}

const KEPT = 6;
const known = new Map<string, Prepared>();

/** The prepared plan of a revision; the latest few are kept. */
export function prepare(plan: Plan, key: string): Prepared {
  const held = known.get(key);
  if (held) {
    known.delete(key);
    known.set(key, held);
    return held;
  }
  const engine = createEngine(compile(plan));
  const prepared = { plan, engine, gateways: gatewaysOf(engine.healthy.world) };
  known.set(key, prepared);
  if (known.size > KEPT) known.delete(known.keys().next().value as string);
  return prepared;
}

export function isPrepared(key: string): boolean {
  return known.has(key);
}
