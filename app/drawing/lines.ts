import type { Drawing, EdgeDrawing, NodeDrawing, Point } from "./types.ts";

/** Moves boxes to their pins; lines of moved boxes are redrawn as elbows. */
export function withPins(drawing: Drawing, pins: ReadonlyMap<string, Point>): Drawing {
  if (pins.size === 0) return drawing;
  const nodes = drawing.nodes.map((node) => {
    const pin = node.kind === "device" ? pins.get(node.plate ?? node.id) : undefined;
    return pin ? { ...node, x: pin.x, y: pin.y } : node;
  });
  return { ...drawing, nodes };
}

const CORNER = 8;

/** A path with rounded corners. */
export function pathOf(points: readonly Point[], corner = CORNER): string {
  if (points.length < 2) return "";
  const parts = [`M${points[0].x} ${points[0].y}`];
  for (let i = 1; i < points.length - 1; i++) {
    const [a, b, c] = [points[i - 1], points[i], points[i + 1]];
    const before = towards(b, a, Math.min(corner, distance(a, b) / 2));
    const after = towards(b, c, Math.min(corner, distance(b, c) / 2));
    parts.push(`L${before.x} ${before.y}Q${b.x} ${b.y} ${after.x} ${after.y}`);
  }
  const last = points[points.length - 1];
  parts.push(`L${last.x} ${last.y}`);
  return parts.join("");
}

function distance(a: Point, b: Point): number {
  return Math.hypot(a.x - b.x, a.y - b.y);
}

function towards(from: Point, to: Point, by: number): Point {
  const d = distance(from, to) || 1;
  return { x: from.x + ((to.x - from.x) * by) / d, y: from.y + ((to.y - from.y) * by) / d };
}

/** The same line moved sideways, to the right of its direction; corners are met where the sides meet. */
export function beside(points: readonly Point[], by: number): Point[] {
  const sides = points.slice(1).map((p, i) => normal(points[i], p));
  return points.map((p, i) => {
    const a = sides[Math.max(0, i - 1)];
    const b = sides[Math.min(i, sides.length - 1)];
    const dot = a.x * b.x + a.y * b.y;
    const scale = dot > -0.9 ? by / (1 + dot) : by / 2;
    return { x: p.x + (a.x + b.x) * scale, y: p.y + (a.y + b.y) * scale };
  });
}

function normal(a: Point, b: Point): Point {
  const d = distance(a, b) || 1;
  return { x: -(b.y - a.y) / d, y: (b.x - a.x) / d };
}

/** An elbow between two boxes: straight if one is below the other, else with a step half way. */
function elbow(a: NodeDrawing, b: NodeDrawing, spread: number): Point[] {
  const middle = (n: NodeDrawing) => ({ x: n.x + n.width / 2 + spread, y: n.y + n.height / 2 });
  const [from, to] = [middle(a), middle(b)];
  const below = b.y >= a.y + a.height;
  const above = a.y >= b.y + b.height;
  if (!below && !above) {
    const right = b.x > a.x;
    const y = (from.y + to.y) / 2;
    return [
      { x: right ? a.x + a.width : a.x, y },
      { x: right ? b.x : b.x + b.width, y },
    ];
  }
  const y1 = below ? a.y + a.height : a.y;
  const y2 = below ? b.y : b.y + b.height;
  const half = (y1 + y2) / 2;
  if (Math.abs(from.x - to.x) < 4)
    return [
      { x: from.x, y: y1 },
      { x: from.x, y: y2 },
    ];
  return [
    { x: from.x, y: y1 },
    { x: from.x, y: half },
    { x: to.x, y: half },
    { x: to.x, y: y2 },
  ];
}

/** The line of an edge: the computed one, or an elbow if one of its boxes was moved. */
export function lineOf(
  edge: EdgeDrawing,
  from: NodeDrawing | undefined,
  to: NodeDrawing | undefined,
  moved: boolean,
): Point[] {
  if ((!moved && edge.points.length > 1) || !from || !to) return edge.points;
  return elbow(from, to, (edge.part % 5) * 8);
}

/** The place half way along a line. */
export function middleOf(points: readonly Point[]): Point {
  const lengths = points.slice(1).map((p, i) => distance(points[i], p));
  let left = lengths.reduce((sum, length) => sum + length, 0) / 2;
  for (const [i, length] of lengths.entries()) {
    if (left <= length) return towards(points[i], points[i + 1], left);
    left -= length;
  }
  return points[0] ?? { x: 0, y: 0 };
}
