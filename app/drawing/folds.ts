import type { Plan } from "../../core/plan/index.ts";
import type { Drawing, NodeDrawing } from "./types.ts";

/** The pairs of a plan that are drawn as one plate. */
export interface Folds {
  /** The device whose plate stands for each member of a folded pair. */
  readonly plate: ReadonlyMap<string, string>;
  /** The pair behind each such plate. */
  readonly pair: ReadonlyMap<string, Plan["pairs"][number]>;
}

/** Which pairs are drawn as two plates: all of them, or these. */
export type Opened = "all" | readonly string[];

export function foldsOf(plan: Plan, opened: Opened): Folds {
  const folded = opened === "all" ? [] : plan.pairs.filter(({ id }) => !opened.includes(id));
  return {
    plate: new Map(
      folded.flatMap(({ members, active }) => members.map((member) => [member, active] as const)),
    ),
    pair: new Map(folded.map((pair) => [pair.active, pair])),
  };
}

/** An end that is not drawn, for another one of the same plate already joins that segment; by part of its link. */
export interface Twin {
  readonly link: string;
  readonly part: number;
  readonly like: number;
}

/** Gives the other members of folded pairs the same box, and their ends the same lines: who asks for one finds it. */
export function withTwins(drawing: Drawing, folds: Folds, twins: readonly Twin[]): Drawing {
  const boxes = new Map(drawing.nodes.flatMap((node) => (node.kind === "device" ? [[node.id, node]] : [])));
  const nodes = drawing.nodes.map((node): NodeDrawing => {
    const pair = node.kind === "device" ? folds.pair.get(node.id) : undefined;
    return pair ? { ...node, pair: pair.id } : node;
  });
  for (const [member, plate] of folds.plate) {
    const box = boxes.get(plate);
    if (box && member !== plate) nodes.push({ ...box, id: member, plate, pair: folds.pair.get(plate)?.id });
  }
  const edges = twins.flatMap(({ link, part, like }) => {
    const edge = drawing.edges.find((one) => one.link === link && one.part === like);
    return edge ? [{ ...edge, part, like }] : [];
  });
  return { ...drawing, nodes, edges: [...drawing.edges, ...edges] };
}
