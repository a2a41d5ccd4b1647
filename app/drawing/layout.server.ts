import { createHash } from "node:crypto";
import ELK, { type ElkExtendedEdge, type ElkNode, type ElkPort } from "elkjs/lib/elk.bundled.js";
import { LRUCache } from "lru-cache";
import { compile, type Network } from "../../core/network/index.ts";
import type { Plan } from "../../core/plan/index.ts";
import { type Folds, foldsOf, type Opened, type Twin, withTrunks, withTwins } from "./folds.ts";
import { endLabels } from "./labels.ts";
import { type Drawing, type EdgeDrawing, LARGE_PLAN, type NodeDrawing, type Point } from "./types.ts";

const elk = new ELK();
const known = new LRUCache<string, Promise<Drawing>>({ max: 40 });

/** The map's layout, grouped by site; pins are applied in the page. Cached per topology. Pairs that are not `opened`
 * are one plate. */
export function layoutOf(plan: Plan, opened: Opened = "all"): Promise<Drawing> {
  const network = compile(plan);
  const many = plan.devices.length > LARGE_PLAN;
  const folds = foldsOf(network, many ? "all" : opened);
  const { graph, twins } = graphOf(network, folds);
  const effort = effortOf(graph);
  const large = many || effort > MAX_EFFORT;
  const key = createHash("sha256")
    .update(JSON.stringify([graph, twins, [...folds.plate], [...folds.trunk]]))
    .digest("hex");
  let drawing = known.get(key);
  if (!drawing) {
    drawing = large
      ? elk.layout(packed(graph)).then((root) => withStraightEdges(drawingOf(root), plan))
      : bestOf(graph, effort).then((root) => withTrunks(withTwins(drawingOf(root), folds, twins), folds));
    known.set(key, drawing);
    drawing.catch(() => known.delete(key));
  }
  return drawing;
}

/** The most effort at which several layout methods are tried; above it, only a linear one. Effort counts lines and the
 * positions where lines cross a layer. Seconds of processor time with each of the three methods and with the linear
 * one: 60 devices with 120 links (effort 321) 1.0 and 0.6, a mesh of 12 (298) 2.3 and 1.0, 118 devices with 230 links
 * (569) 5.7 and 1.8, a mesh of 16 (696) 8.6 and 1.4; the demo (42) 0.8 and 0.5. */
const MAX_EFFORT_OF_BEST = 150;
/** Above it plates are set side by side, and lines are straight. */
const MAX_EFFORT = 1400;

function effortOf(graph: ElkNode): number {
  const plates = (graph.children ?? []).flatMap((node) => node.children ?? [node]);
  // Lines go down from the plate that comes first, to the layer below the lowest that they come from.
  const order = new Map<string, number>();
  for (const [n, plate] of plates.entries()) {
    order.set(plate.id, n);
    for (const port of plate.ports ?? []) order.set(port.id, n);
  }
  const lines = (graph.edges ?? [])
    .map(({ sources, targets }) => [order.get(sources[0]) ?? 0, order.get(targets[0]) ?? 0])
    .map(([a, b]) => (a < b ? [a, b] : [b, a]))
    .sort(([a], [b]) => a - b);
  const layer = new Int32Array(plates.length);
  for (const [a, b] of lines) layer[b] = Math.max(layer[b], layer[a] + 1);
  return lines.reduce((sum, [a, b]) => sum + Math.max(1, layer[b] - layer[a]), 0);
}

/** Sizes in drawing units, which are pixels where the drawing is shown at its own size; the text is condensed. */
const PLATE_TEXT = 19;
const PLATE_HEIGHT = 34;
const END_CHARACTER = 9;

const textWidth = (text: string, size: number) => Math.ceil(text.length * size * 0.44);

/** Segments that more than two interfaces share are drawn as a bar of their own. */
const isBar = (link: Plan["links"][number]) => link.ends.length !== 2;

const spacing = {
  "elk.spacing.nodeNode": "18",
  "elk.layered.spacing.nodeNodeBetweenLayers": "14",
  "elk.spacing.edgeNode": "12",
  "elk.spacing.edgeEdge": "10",
  "elk.layered.spacing.edgeNodeBetweenLayers": "10",
  "elk.layered.spacing.edgeEdgeBetweenLayers": "7",
};

/** The plan as the layout takes it: sites, in them plates with a port for each end of a link, and lines between ports. */
function graphOf(network: Network, folds: Folds): { graph: ElkNode; twins: Twin[] } {
  const { plan } = network;
  const sites = new Map<string, ElkNode[]>();
  const put = (site: string, node: ElkNode) => sites.set(site, [...(sites.get(site) ?? []), node]);
  const ports = new Map<string, ElkPort[]>(plan.devices.map((device) => [device.id, []]));
  const { edges, twins } = linesOf(network, folds, ports, put);
  for (const device of plan.devices) {
    const plate = folds.plate.get(device.id) ?? device.id;
    if (plate !== device.id) continue;
    const label = folds.pair.get(plate)?.label ?? device.label ?? device.id;
    put(device.site ?? "", plateNode(device.id, label, ports.get(plate)));
  }
  const graph: ElkNode = {
    id: "plan",
    children: [...sites].flatMap(([site, nodes]) => (site === "" ? nodes : [siteNode(site, nodes)])),
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
  return { graph, twins };
}

/** The lines; ports are added to `ports`, and bars of shared segments are put to their site. */
function linesOf(
  network: Network,
  folds: Folds,
  ports: Map<string, ElkPort[]>,
  put: (site: string, node: ElkNode) => void,
): { edges: ElkExtendedEdge[]; twins: Twin[] } {
  const { plan } = network;
  const siteOf = new Map(plan.devices.map((device) => [device.id, device.site ?? ""]));
  const edges: ElkExtendedEdge[] = [];
  const twins: Twin[] = [];
  for (const [l, link] of plan.links.entries()) {
    // What only carries other links joins nothing that is drawn.
    if (link.ends.length === 0) continue;
    const trunk = folds.trunk.get(link.id);
    if (trunk && trunk.links[0] !== link.id) continue;
    const labels = trunk?.texts ?? endLabels(network, l);
    const owners = link.ends.map((end) => end.slice(0, end.indexOf("/")));
    const devices = owners.map((device) => folds.plate.get(device) ?? device);
    const port = (n: number) => {
      const id = `${link.id} ${n}`;
      const width = labels[n].length * END_CHARACTER + 8;
      const label = { id: `label ${id}`, text: labels[n], width, height: 17 };
      ports.get(devices[n])?.push({ id, width: 1, height: 1, labels: [label] });
      return id;
    };
    if (!isBar(link)) {
      // What joins the two of a folded pair is inside its plate.
      if (devices[0] === devices[1] && owners[0] !== owners[1]) continue;
      edges.push({ id: `${link.id} 0`, sources: [port(0)], targets: [port(1)] });
      continue;
    }
    const shared = new Set(devices.map((device) => siteOf.get(device) ?? ""));
    const bar = { id: `link:${link.id}`, width: 20 + 30 * link.ends.length, height: 8 };
    put(shared.size === 1 ? [...shared][0] : "", bar);
    for (const [n, device] of devices.entries()) {
      const like = folds.pair.has(device) ? devices.indexOf(device) : n;
      if (like < n) twins.push({ link: link.id, part: n, like });
      else edges.push({ id: `${link.id} ${n}`, sources: [port(n)], targets: [bar.id] });
    }
  }
  return { edges, twins };
}

function plateNode(device: string, label: string, ports: ElkPort[] | undefined): ElkNode {
  const width = Math.max(60, textWidth(label, PLATE_TEXT) + 26);
  return {
    id: `device:${device}`,
    width,
    height: PLATE_HEIGHT,
    ports,
    layoutOptions: {
      "elk.nodeSize.constraints": "PORTS PORT_LABELS MINIMUM_SIZE",
      "elk.nodeSize.minimum": `(${width}, ${PLATE_HEIGHT})`,
      "elk.portLabels.placement": "OUTSIDE NEXT_TO_PORT_IF_POSSIBLE",
      "elk.spacing.labelPortHorizontal": "2",
      "elk.spacing.portPort": "6",
      "elk.spacing.portsSurrounding": "[top=0,left=10,bottom=0,right=10]",
    },
  };
}

function siteNode(site: string, children: ElkNode[]): ElkNode {
  return {
    id: `site:${site}`,
    children,
    layoutOptions: { ...spacing, "elk.padding": "[top=20,left=10,bottom=8,right=10]" },
  };
}

/** The window that a drawing is optimized for, in pixels: the map's part of a screen of 1280 x 800. */
const WINDOW = { width: 808, height: 748 };

/** How large a layout can be shown in that window. */
function scaleOf({ width = 1, height = 1 }: ElkNode): number {
  return Math.min(WINDOW.width / width, WINDOW.height / height);
}

/** The ways of laying out that are tried: downward, downward in narrower layers, sideways. */
const ways = [
  {},
  { "elk.layered.layering.strategy": "COFFMAN_GRAHAM" },
  { "elk.direction": "RIGHT" },
] as const;

/** Laid out in several ways; the one whose shape fits the window best, so that its text is the largest. */
async function bestOf(graph: ElkNode, effort: number): Promise<ElkNode> {
  if (effort > MAX_EFFORT_OF_BEST)
    return elk.layout(withOptions(graph, { "elk.layered.nodePlacement.strategy": "BRANDES_KOEPF" }));
  let best: ElkNode | null = null;
  for (const way of ways) {
    const laid = await elk.layout(withOptions(structuredClone(graph), way));
    if (!best || scaleOf(laid) > scaleOf(best)) best = laid;
  }
  return best ?? graph;
}

/** The same graph with more options for it and its sites. */
function withOptions(node: ElkNode, options: Readonly<Record<string, string>>): ElkNode {
  if (!node.children) return node;
  return {
    ...node,
    layoutOptions: { ...node.layoutOptions, ...options },
    children: node.children.map((child) => withOptions(child, options)),
  };
}

/** The same sites and plates set side by side, without regard to what joins them. */
function packed(graph: ElkNode): ElkNode {
  const pack = { "elk.algorithm": "rectpacking", "elk.spacing.nodeNode": "24", "elk.aspectRatio": "1.6" };
  const plain = ({ ports: _, ...node }: ElkNode): ElkNode => ({ ...node, layoutOptions: {} });
  return {
    id: graph.id,
    layoutOptions: pack,
    children: (graph.children ?? []).map((node) =>
      node.children
        ? { ...node, children: node.children.map(plain), layoutOptions: { ...node.layoutOptions, ...pack } }
        : plain(node),
    ),
  };
}

/** Every link as a straight line from plate to plate. */
function withStraightEdges(drawing: Drawing, plan: Plan): Drawing {
  const middles = new Map(
    drawing.nodes.map(({ kind, id, x, y, width, height }) => [
      `${kind}:${id}`,
      { x: x + width / 2, y: y + height / 2 },
    ]),
  );
  const edges = plan.links.flatMap((link): EdgeDrawing[] => {
    const ends = link.ends.map((end) => middles.get(`device:${end.slice(0, end.indexOf("/"))}`));
    const middle = middles.get(`link:${link.id}`);
    const pairs = isBar(link) ? ends.map((end) => [end, middle]) : [ends];
    return pairs.map((points, part) => ({
      link: link.id,
      part,
      points: points.filter((point) => point !== undefined),
      labels: [null, null],
    }));
  });
  return { ...drawing, edges };
}

function drawingOf(root: ElkNode): Drawing {
  const nodes: NodeDrawing[] = [];
  const sites: NodeDrawing[] = [];
  const origin = new Map<string, Point>([["plan", { x: 0, y: 0 }]]);
  const labels = new Map<string, Point>();
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
      for (const port of node.ports ?? []) {
        const [label] = port.labels ?? [];
        if (label)
          labels.set(port.id, {
            x: x + (port.x ?? 0) + (label.x ?? 0),
            y: y + (port.y ?? 0) + (label.y ?? 0),
          });
      }
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
      labels: [...(edge.sources ?? []), ...(edge.targets ?? [])].map((end) => labels.get(end) ?? null),
    };
  });
  return { width: root.width ?? 0, height: root.height ?? 0, nodes, sites, edges };
}

function edgesOf(node: ElkNode): ElkExtendedEdge[] {
  return [...(node.edges ?? []), ...(node.children ?? []).flatMap(edgesOf)];
}
