import type { Plan } from "../../core/plan/index.ts";
import { bfd, Draft, type End, probe } from "./draft.ts";

/**
 * Every router joined to every other. To each of the other LANs a route over the direct link and three floating ways
 * round it; on every router four BFD sessions, two probes and a group, to which its routes are tied.
 */
export function mesh(routers: number, flows = routers): Plan {
  const draft = new Draft(`mesh of ${routers}`);
  const ends: End[][] = Array.from({ length: routers }, () => []);
  const name = (r: number) => `r${r}`;
  const lans: string[] = [];
  for (let r = 0; r < routers; r++) draft.device(name(r), "router");
  for (let a = 0; a < routers; a++) {
    for (let b = a + 1; b < routers; b++) [ends[a][b], ends[b][a]] = draft.join(name(a), name(b));
  }
  for (let r = 0; r < routers; r++) lans.push(draft.lan(name(r), r));
  const away = (r: number, n: number) => (r + n + routers) % routers;
  for (let r = 0; r < routers; r++) {
    const sessions = new Map<number, string>();
    for (const n of [-2, -1, 1, 2]) {
      const peer = away(r, n);
      if (peer === r || sessions.has(peer)) continue;
      sessions.set(peer, `bfd-${peer}`);
      draft.watch(name(r), bfd(`bfd-${peer}`, ends[r][peer]));
    }
    const [near, far] = [away(r, 3), away(r, Math.max(4, routers >> 1))];
    const probes = new Map<number, string>();
    for (const [id, peer] of [
      ["near", near],
      ["far", far],
    ] as const) {
      if (peer === r) continue;
      draft.watch(name(r), probe(id, ends[r][peer].far));
      probes.set(peer, id);
    }
    const of = [...sessions.values(), ...new Set(probes.values())].slice(0, 3);
    draft.watch(name(r), { id: "any", kind: "group", need: "any", of });
    for (let to = 0; to < routers; to++) {
      if (to === r) continue;
      const watch = sessions.get(to) ?? probes.get(to);
      draft.route(name(r), { to: lans[to], via: ends[r][to].far, ...(watch ? { watch } : {}) });
      const round = [1, 2, 3].map((n) => away(to, n)).filter((next) => next !== r && next !== to);
      for (const [n, next] of [...new Set(round)].entries()) {
        const tied = n === 0 ? { watch: "any" } : {};
        draft.route(name(r), { to: lans[to], via: ends[r][next].far, distance: 10 * (n + 1), ...tied });
      }
    }
  }
  for (let f = 0; f < flows; f++) draft.flow(f % routers, away(f, 1 + (f % (routers - 1))));
  return draft.plan();
}
