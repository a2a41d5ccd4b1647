/** A piece of a sweep: a range of flows, under one part of the single failures. */
export interface Cut {
  readonly firstFlow: number;
  readonly endFlow: number;
  readonly part: number;
  readonly parts: number;
}

/** Flows in a piece of a sweep to depth 1: each failure is settled once for all of them, and each is walked once a part. */
const FLOWS_TOGETHER = 500;
/** Pairs of flow and element in a piece of it: about a second's work, so that a lost piece costs little. */
const PAIRS = 1_000_000;
/** Workers that a sweep to a greater depth is cut for; its larger sets build on all single failures of a flow. */
const WORKERS = 32;
/** Flows in a piece of it at most. */
const FLOWS_IN_DEPTH = 12;

/** Cuts a sweep into independent pieces, in the order of their results. */
export function cutSweep(flows: number, elements: number, depth: 1 | 2 | 3): Cut[] {
  const size =
    depth === 1 ? FLOWS_TOGETHER : Math.min(FLOWS_IN_DEPTH, Math.max(1, Math.ceil(flows / WORKERS)));
  const cuts: Cut[] = [];
  for (let firstFlow = 0; firstFlow < flows; firstFlow += size) {
    const endFlow = Math.min(firstFlow + size, flows);
    const parts = depth === 1 ? Math.max(1, Math.round(((endFlow - firstFlow) * elements) / PAIRS)) : 1;
    for (let part = 0; part < parts; part++) cuts.push({ firstFlow, endFlow, part, parts });
  }
  return cuts;
}
