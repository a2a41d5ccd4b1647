import type { Network } from "../../core/network/index.ts";
import type { Plan } from "../../core/plan/index.ts";
import { type Trunk, trunksOf } from "./trunks.ts";
import type { Drawing, EdgeDrawing, NodeDrawing } from "./types.ts";

/** Parts of a plan that are drawn as one: a pair as one plate, links between the same two interfaces as one line. */
export interface Folds {
  /** The device whose plate represents each member of a folded pair. */
  readonly plate: ReadonlyMap<string, string>;
  /** The pair behind each such plate. */
  readonly pair: ReadonlyMap<string, Plan["pairs"][number]>;
  /** The folded links by each of theirs. */
  readonly trunk: ReadonlyMap<string, Trunk>;
}

/** Which pairs and lines are drawn one by one: all of them, or these. */
export type Opened = "all" | readonly string[];

export function foldsOf(network: Network, opened: Opened): Folds {
  const isFolded = (name: string) => opened !== "all" && !opened.includes(name);
  const folded = network.plan.pairs.filter(({ id }) => isFolded(id));
  const trunks = trunksOf(network).filter(({ name }) => isFolded(name));
  return {
    plate: new Map(
      folded.flatMap(({ members, active }) => members.map((member) => [member, active] as const)),
    ),
    pair: new Map(folded.map((pair) => [pair.active, pair])),
    trunk: new Map(trunks.flatMap((trunk) => trunk.links.map((link) => [link, trunk] as const))),
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

/** Gives all links of folded lines the line of the first, from the same end as they are written. */
export function withTrunks(drawing: Drawing, folds: Folds): Drawing {
  const edges = drawing.edges.flatMap((edge): EdgeDrawing[] => {
    const trunk = folds.trunk.get(edge.link);
    if (!trunk) return [edge];
    return trunk.links.map((link, n) => {
      const turned = trunk.turned[n];
      const points = turned ? edge.points.toReversed() : edge.points;
      const labels = turned ? edge.labels.toReversed() : edge.labels;
      return { ...edge, link, points, labels, trunk: trunk.name };
    });
  });
  return { ...drawing, edges };
}
