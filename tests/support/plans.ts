import { readFileSync } from "node:fs";
import { join } from "node:path";
import { parseAddress } from "../../core/address/index.ts";
import {
  compile,
  type ElementNumber,
  elementCount,
  findElement,
  type Network,
} from "../../core/network/index.ts";
import { applyEdit, editSchema, type Plan, readPlan } from "../../core/plan/index.ts";
import { lookupReport, type RouteReport, tableReport } from "../../core/reports/index.ts";
import { createEngine, type Engine, settle } from "../../core/settle/index.ts";
import { askFrom, type Trip, type World, walkBothWays } from "../../core/walk/index.ts";
import { readPlanText } from "../../exchange/plan-text.ts";
import type { Random } from "./random.ts";

/** A plan from a document as a person would write it; throws with the document's errors. */
export function planOf(document: Record<string, unknown>): Plan {
  const reading = readPlan({ ironFork: 1, name: "test", ...document });
  if (!reading.ok)
    throw new Error(reading.errors.map((error) => `${error.path}: ${error.message}`).join("; "));
  return reading.plan;
}

export function demoPlan(name: string): Plan {
  const reading = readPlanText(readFileSync(join(import.meta.dirname, `../../demo/${name}.yaml`), "utf8"));
  if (!reading.ok)
    throw new Error(reading.errors.map((error) => `${error.path}: ${error.message}`).join("; "));
  return reading.plan;
}

/** The ferry company's plan with its change: six routes summarized, watched exits on both ends, a return path. */
export function demoChanged(): Plan {
  const text = readFileSync(join(import.meta.dirname, "../../demo/marrow-bay.change.json"), "utf8");
  const outcome = applyEdit(demoPlan("marrow-bay"), editSchema.parse(JSON.parse(text)));
  if (!outcome.ok) throw new Error(outcome.errors.map((error) => error.message).join("; "));
  return outcome.plan;
}

export function engineOf(plan: Plan): Engine {
  return createEngine(compile(plan));
}

/** Something of a network that can fail, at random: also a link in one direction. */
export function anyElement(network: Network, random: Random): ElementNumber {
  const whole = elementCount(network);
  const directions = network.links.endStart[network.links.planned];
  return random.below(whole + (random.chance(0.2) ? directions : 0));
}

export function worldWith(engine: Engine, ...failed: string[]): World {
  return settle(
    engine,
    failed.map((ref) => {
      const element = findElement(engine.network, ref);
      if (element === null) throw new Error(`no element ${ref}`);
      return element;
    }),
  ).world;
}

export function tripOf(
  world: World,
  from: string,
  to: string,
  more: { source?: string; protocol?: "tcp" | "udp"; port?: number } = {},
): Trip {
  const asked = askFrom(world.state.network, { from, to, ...more });
  if (!asked.ok) throw new Error(asked.message);
  return walkBothWays(world, asked.question);
}

export function routesOf(world: World, device: string, vrf = "main"): RouteReport[] {
  return tableReport(world, world.state.network.deviceIndex.get(device) ?? -1, vrf).routes;
}

export function matchesOf(world: World, device: string, to: string): RouteReport[] {
  const address = parseAddress(to);
  if (!address) throw new Error(to);
  return lookupReport(world, world.state.network.deviceIndex.get(device) ?? -1, "main", address).matches;
}

/** The code under which a trip ended, out or back; null where it works. */
export function endOf(trip: Trip): { device: string; code: string } | null {
  const drop = trip.worst.outbound.drop ?? trip.worst.reply?.drop;
  return drop ? { device: String(drop.device), code: drop.code } : null;
}
