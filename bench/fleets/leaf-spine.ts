import type { Plan } from "../../core/plan/index.ts";
import { Draft } from "./draft.ts";

/** Leaves, each joined to every spine; all traffic between leaves is shared among all spines at equal cost. */
export function leafSpine(leaves: number, spines: number, flows = leaves, family: 4 | 6 = 4): Plan {
  const draft = new Draft(`${leaves} leaves and ${spines} spines`, family);
  for (let s = 0; s < spines; s++) draft.device(`spine-${s}`, "router");
  const lans: string[] = [];
  const ups: string[][] = [];
  const downs: string[][] = [];
  for (let l = 0; l < leaves; l++) {
    draft.device(`leaf-${l}`, "router");
    ups.push([]);
    downs.push([]);
    for (let s = 0; s < spines; s++) {
      const [end] = draft.join(`leaf-${l}`, `spine-${s}`);
      ups[l].push(end.far);
      downs[l].push(end.own);
    }
    lans.push(draft.lan(`leaf-${l}`, l));
  }
  for (let l = 0; l < leaves; l++) {
    for (let to = 0; to < leaves; to++)
      if (to !== l) draft.route(`leaf-${l}`, ...ups[l].map((via) => ({ to: lans[to], via })));
    for (let s = 0; s < spines; s++) draft.route(`spine-${s}`, { to: lans[l], via: downs[l][s] });
  }
  for (let f = 0; f < flows; f++) draft.flow(f % leaves, (f + 1 + (f % (leaves - 1))) % leaves);
  return draft.plan();
}
