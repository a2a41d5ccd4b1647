import { containsAddress, formatPrefix, hostPrefix, isGloballyRoutable } from "../address/index.ts";
import { harmsAnything } from "../impact/index.ts";
import type { Edit } from "../plan/index.ts";
import { repairOf } from "../remedies/index.ts";
import type { Scenario } from "../scenario/index.ts";
import { type Question, walkBothWays } from "../walk/index.ts";
import { Context } from "./context.ts";
import { exitsWithoutTranslation, lastInside } from "./outside.ts";

/** Searches for routes in one run of all checks at most: each tries neighbors along a path. */
const MAX_SEARCHES = 12;

/**
 * Edits that make a failing question work, for saved flows and for queries: a translation of its private source, missing routes.
 * Each is proven: the question works with it, and no other traffic gets worse.
 */
export function remediesOf(scenario: Scenario, question: Question): Edit[] {
  return remediesIn(new Context(scenario), question);
}

function remediesIn(context: Context, question: Question): Edit[] {
  const { scenario } = context;
  const translation = translationOf(context, question);
  const proven = translation && isProven(scenario, question, translation) ? [translation] : [];
  const routes = repairOf(scenario, question);
  return routes ? [...proven, routes] : proven;
}

/** The same for a check, under the failures that it assumes. Empty after `MAX_SEARCHES` searches. */
export function flowRemedies(context: Context, question: Question, failed: readonly string[] = []): Edit[] {
  const searches = context.once("searches for remedies", () => ({ count: 0 }));
  if (searches.count++ >= MAX_SEARCHES) return [];
  return failed.length > 0
    ? remediesOf(context.scenario.under(failed), question)
    : remediesIn(context, question);
}

function isProven(scenario: Scenario, question: Question, edit: Edit): boolean {
  const outcome = scenario.afterEdit(edit);
  if (!outcome.ok) return false;
  const works = walkBothWays(outcome.scenario.engine.healthy.world, question).verdict === "works";
  return works && !harmsAnything(scenario, outcome.scenario, edit);
}

/** Translating a private source on every exit of the device by which it leaves for the internet; null where it does not. */
function translationOf(context: Context, question: Question): Edit | null {
  const { outbound, reply } = walkBothWays(context.healthy, question).worst;
  const exit = lastInside(context, outbound);
  const source = outbound.packet?.source;
  if (!exit || exit.translated || !source || isGloballyRoutable(source)) return null;
  if (reply?.drop?.code !== "private-at-internet" && reply?.drop?.code !== "no-route") return null;
  const device = context.network.devices[exit.device];
  const subnet = context.attachments.find((a) => containsAddress(a.prefix, source));
  const from = formatPrefix(subnet?.prefix ?? hostPrefix(source));
  const out = context.network.interfaces.names[exit.out];
  const exits = [out, ...exitsWithoutTranslation(context, exit, source)];
  return {
    label: `Translate ${from} on ${exits.join(" and ")} of ${device.label}`,
    changes: exits.map((name) => ({
      in: "device",
      device: device.id,
      collection: "sourceNat",
      before: null,
      after: { out: name, from: [from], to: "interface" },
    })),
  };
}
