import type { Plan } from "../../core/plan/index.ts";
import { Random } from "../../tests/support/random.ts";
import { Draft } from "./draft.ts";

/** One router with this number of routes, with lengths distributed as in a large table, each through one of two
 * neighbors; and a provider that announces additional ones. */
export function internetTable(routes: number, announced = 0): Plan {
  const random = new Random(1);
  const draft = new Draft(`a table of ${routes} routes`);
  draft.device("edge", "router");
  draft.device("carrier", "provider", announced ? { announces: prefixes(random, announced) } : {});
  draft.device("other", "router");
  draft.device("world", "internet");
  const [first] = draft.join("edge", "carrier");
  const [second] = draft.join("edge", "other");
  draft.join("carrier", "world");
  draft.lan("edge", 0);
  draft.lan("other", 1);
  for (const to of prefixes(random, routes))
    draft.route("edge", { to, via: random.chance(0.7) ? first.far : second.far });
  draft.route("edge", { to: "10.0.1.0/24", via: second.far });
  draft.route("other", { to: "0.0.0.0/0", via: second.own });
  draft.flow(0, 1);
  return draft.plan();
}

/** Distinct prefixes of public addresses, most of them of 24 bits, few shorter than 16. */
function prefixes(random: Random, count: number): string[] {
  const seen = new Set<string>();
  while (seen.size < count) {
    const length = random.chance(0.6) ? 24 : random.chance(0.7) ? 16 + random.below(8) : 25 + random.below(5);
    const address = (20 + random.below(80)) * 2 ** 24 + random.below(2 ** 24);
    const network = address - (address % 2 ** (32 - length));
    seen.add(`${[24, 16, 8, 0].map((shift) => Math.floor(network / 2 ** shift) % 256).join(".")}/${length}`);
  }
  return [...seen];
}
