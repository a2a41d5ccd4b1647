import type { Plan } from "../../core/plan/index.ts";
import { Draft, type End } from "./draft.ts";

/**
 * Routers in one long line, with a LAN on each. Routes lead along the line; each second router finds its next hop
 * through a chain of routes: a loopback three routers on, by the loopback of the next.
 */
export function chain(routers: number, flows = Math.min(routers - 1, 40), family: 4 | 6 = 4): Plan {
  const draft = new Draft(`chain of ${routers}`, family);
  const name = (r: number) => `r${r}`;
  const bits = family === 4 ? 32 : 128;
  for (let r = 0; r < routers; r++) draft.device(name(r), "router");
  const ends: [End, End][] = [];
  for (let r = 0; r + 1 < routers; r++) ends.push(draft.join(name(r), name(r + 1)));
  const lans = Array.from({ length: routers }, (_, r) => draft.lan(name(r), r));
  const loops = Array.from({ length: routers }, (_, r) => draft.loopback(name(r), r));
  for (let r = 0; r < routers; r++) {
    const right = ends[r]?.[0].far;
    const left = ends[r - 1]?.[1].far;
    if (right) draft.route(name(r), { to: `${loops[r + 1]}/${bits}`, via: right });
    if (left) draft.route(name(r), { to: `${loops[r - 1]}/${bits}`, via: left });
    for (let to = 0; to < routers; to++) {
      if (to === r) continue;
      const direct = to > r ? right : left;
      const chained = loops[to > r ? r + 1 : r - 1];
      draft.route(name(r), { to: lans[to], via: r % 2 ? direct : chained });
    }
  }
  for (let f = 0; f < flows; f++)
    draft.flow(
      f % routers,
      (f + 5 + f * 3) % routers === f % routers ? (f + 1) % routers : (f + 5 + f * 3) % routers,
    );
  return draft.plan();
}
