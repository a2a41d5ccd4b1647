import { createHash } from "node:crypto";
import ELK, { type ElkExtendedEdge, type ElkNode } from "elkjs/lib/elk.bundled.js";
import type { Plan } from "../../core/plan/index.ts";
import type { Drawing, EdgeDrawing, NodeDrawing, Point } from "./types.ts";

const elk = new ELK();
const known = new Map<string, Promise<Drawing>>();
const KEPT = 40;

/** Where everything stands on the map, laid out by site; pins are left to the page. Kept per topology. */
export function layoutOf(plan: Plan): Promise<Drawing> {
  const graph = graphOf(plan);
  const key = createHash("sha256").update(JSON.stringify(graph)).digest("hex");
  let drawing = known.get(key);
  if (!drawing) {
    drawing = elk.layout(graph).then(drawingOf);
    known.set(key, drawing);
    drawing.catch(() => known.delete(key));
    if (known.size > KEPT) known.delete(known.keys().next().value as string);
  }
  return drawing;
}

/** Sizes in drawing units, which are pixels where the drawing is shown at its own size; the text is condensed. */
const PLATE_TEXT = 16;
const PLATE_HEIGHT = 32;
const END_LABEL = 66;

const textWidth = (text: string, size: number) => Math.ceil(text.length * size * 0.44);

/** Segments that more than two interfaces share are drawn as a bar of their own. */
const isBar = (link: Plan["links"][number]) => link.ends.length !== 2;

function graphOf(plan: Plan): ElkNode {
  const sites = new Map<string, ElkNode[]>();
  const put = (site: string, node: ElkNode) => sites.set(site, [...(sites.get(site) ?? []), node]);
  const siteOf = new Map(plan.devices.map((device) => [device.id, device.site ?? ""]));
  for (const device of plan.devices) {
    const text = textWidth(device.label ?? device.id, PLATE_TEXT) + 26;
    const links = plan.links.filter((link) =>
      link.ends.some((end) => end.startsWith(`${device.id}/`)),
    ).length;
    // Links leave up and down; each needs room for the label beside it.
    const width = Math.max(60, text, Math.ceil(links * 0.62) * END_LABEL);
    put(device.site ?? "", { id: `device:${device.id}`, width, height: PLATE_HEIGHT });
  }
  const edges: ElkExtendedEdge[] = [];
  for (const link of plan.links) {
    const devices = link.ends.map((end) => end.slice(0, end.indexOf("/")));
    if (!isBar(link)) {
      edges.push({
        id: `${link.id} 0`,
        sources: [`device:${devices[0]}`],
        targets: [`device:${devices[1]}`],
      });
      continue;
    }
    const shared = new Set(devices.map((device) => siteOf.get(device) ?? ""));
    put(shared.size === 1 ? [...shared][0] : "", {
      id: `link:${link.id}`,
      width: 20 + 30 * link.ends.length,
      height: 8,
    });
    for (const [n, device] of devices.entries()) {
      edges.push({
        id: `${link.id} ${n}`,
        sources: [`device:${device}`],
        targets: [`link:${link.id}`],
      });
    }
  }
  const spacing = {
    "elk.spacing.nodeNode": "18",
    "elk.layered.spacing.nodeNodeBetweenLayers": "42",
    "elk.spacing.edgeNode": "12",
    "elk.spacing.edgeEdge": "10",
    "elk.layered.spacing.edgeNodeBetweenLayers": "18",
    "elk.layered.spacing.edgeEdgeBetweenLayers": "9",
  };
  const children = [...sites].flatMap(([site, nodes]): ElkNode[] =>
    site === ""
      ? nodes
      : [
          {
            id: `site:${site}`,
            children: nodes,
            layoutOptions: { ...spacing, "elk.padding": "[top=20,left=10,bottom=8,right=10]" },
          },
        ],
  );
  return {
    id: "plan",
    children,
    edges,
    layoutOptions: {
      "elk.algorithm": "layered",
      "elk.direction": "DOWN",
      "elk.hierarchyHandling": "INCLUDE_CHILDREN",
      "elk.edgeRouting": "ORTHOGONAL",
      "elk.layered.considerModelOrder.strategy": "NODES_AND_EDGES",
      "elk.layered.nodePlacement.strategy": "NETWORK_SIMPLEX",
      "elk.padding": "[top=10,left=10,bottom=10,right=10]",
      ...spacing,
    },
  };
}

function drawingOf(root: ElkNode): Drawing {
  const nodes: NodeDrawing[] = [];
  const sites: NodeDrawing[] = [];
  const origin = new Map<string, Point>([["plan", { x: 0, y: 0 }]]);
  const visit = (parent: ElkNode, at: Point) => {
    for (const node of parent.children ?? []) {
      const x = at.x + (node.x ?? 0);
      const y = at.y + (node.y ?? 0);
      const box = {
        id: node.id.slice(node.id.indexOf(":") + 1),
        x,
        y,
        width: node.width ?? 0,
        height: node.height ?? 0,
      };
      origin.set(node.id, { x, y });
      if (node.id.startsWith("site:")) sites.push({ ...box, kind: "site" });
      else nodes.push({ ...box, kind: node.id.startsWith("link:") ? "link" : "device" });
      visit(node, { x, y });
    }
  };
  visit(root, { x: 0, y: 0 });
  const edges = edgesOf(root).map((edge): EdgeDrawing => {
    const container = (edge as { container?: string }).container ?? "plan";
    const at = origin.get(container) ?? { x: 0, y: 0 };
    const [section] = edge.sections ?? [];
    const points = section ? [section.startPoint, ...(section.bendPoints ?? []), section.endPoint] : [];
    const space = edge.id.lastIndexOf(" ");
    return {
      link: edge.id.slice(0, space),
      part: Number(edge.id.slice(space + 1)),
      points: points.map((p) => ({ x: p.x + at.x, y: p.y + at.y })),
    };
  });
  return { width: root.width ?? 0, height: root.height ?? 0, nodes, sites, edges };
}

function edgesOf(node: ElkNode): ElkExtendedEdge[] {
  return [...(node.edges ?? []), ...(node.children ?? []).flatMap(edgesOf)];
}
