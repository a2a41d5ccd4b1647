import type { Drawing, NodeDrawing, Point } from "../../../drawing/types.ts";
import type { MapAnswer, MapDevice } from "../../../queries/map.ts";
import type { Line } from "../line.ts";
import { linesOf } from "../line.ts";

/** A device with its box on the drawing. */
export interface Plate {
  readonly device: MapDevice;
  readonly node: NodeDrawing;
}

/** A site as one symbol: its area, its number of devices, and whether any is down. */
export interface SiteSign {
  readonly site: NodeDrawing;
  readonly devices: number;
  readonly down: number;
}

/** All links between two sites as one line. */
export interface Bundle {
  readonly from: Point;
  readonly to: Point;
  readonly links: number;
  readonly down: number;
}

/** The object under the pointer. */
export type Hit =
  | { readonly kind: "device"; readonly plate: Plate }
  | { readonly kind: "link"; readonly line: Line }
  | { readonly kind: "site"; readonly sign: SiteSign };

/** The drawing of a large plan with a spatial index: the objects in an area, or under a point. */
export interface Scene {
  readonly drawing: Drawing;
  readonly plates: readonly Plate[];
  readonly lines: readonly Line[];
  readonly signs: readonly SiteSign[];
  readonly bundles: readonly Bundle[];
  readonly plateOf: ReadonlyMap<string, Plate>;
  readonly platesIn: Grid;
  readonly linesIn: Grid;
}

export function sceneOf(answer: MapAnswer, drawing: Drawing, pins: ReadonlyMap<string, Point>): Scene {
  const nodes = new Map(drawing.nodes.map((node) => [`${node.kind}:${node.id}`, node]));
  const plates = answer.devices.flatMap((device): Plate[] => {
    const node = nodes.get(`device:${device.id}`);
    return node ? [{ device, node }] : [];
  });
  const lines = linesOf(answer, drawing, nodes, pins).filter(({ points }) => points.length > 1);
  const platesIn = new Grid();
  const linesIn = new Grid();
  for (const [n, { node }] of plates.entries()) platesIn.addBox(n, node);
  for (const [n, { points }] of lines.entries())
    for (let k = 1; k < points.length; k++) linesIn.addSegment(n, points[k - 1], points[k]);
  const sites = new Map(drawing.sites.map((site) => [site.id, site]));
  return {
    drawing,
    plates,
    lines,
    signs: drawing.sites.map((site) => {
      const own = answer.devices.filter((device) => device.site === site.id);
      return { site, devices: own.length, down: own.filter(({ up }) => !up).length };
    }),
    bundles: bundlesOf(answer, lines, sites),
    plateOf: new Map(plates.map((plate) => [plate.device.id, plate])),
    platesIn,
    linesIn,
  };
}

function bundlesOf(
  answer: MapAnswer,
  lines: readonly Line[],
  sites: ReadonlyMap<string, NodeDrawing>,
): Bundle[] {
  const siteOf = new Map(answer.devices.map(({ id, site }) => [id, site]));
  const bundles = new Map<string, { from: Point; to: Point; links: number; down: number }>();
  for (const { from, to, shown } of lines) {
    const [a, b] = [siteOf.get(from) ?? "", to === null ? "" : (siteOf.get(to) ?? "")].sort();
    const [here, there] = [sites.get(a), sites.get(b)];
    if (a === b || !here || !there) continue;
    const key = `${a}|${b}`;
    const known = bundles.get(key) ?? { from: middle(here), to: middle(there), links: 0, down: 0 };
    known.links++;
    if (shown.down) known.down++;
    bundles.set(key, known);
  }
  return [...bundles.values()];
}

export function middle({ x, y, width, height }: Omit<NodeDrawing, "id" | "kind">): Point {
  return { x: x + width / 2, y: y + height / 2 };
}

/** How near a pointer must be to a line, in pixels. */
const NEAR = 7;

/** The object at a point of the drawing; `scale` in pixels per unit, `folded` if sites are one symbol. */
export function hitAt(scene: Scene, at: Point, scale: number, folded: boolean): Hit | null {
  const inside = ({ x, y, width, height }: NodeDrawing) =>
    at.x >= x && at.x <= x + width && at.y >= y && at.y <= y + height;
  if (folded) {
    const sign = scene.signs.find(({ site }) => inside(site));
    if (sign) return { kind: "site", sign };
    return null;
  }
  for (const n of scene.platesIn.near(at, 0)) {
    const plate = scene.plates[n];
    if (inside(plate.node)) return { kind: "device", plate };
  }
  const reach = NEAR / scale;
  let best: Line | null = null;
  let least = reach;
  for (const n of scene.linesIn.near(at, reach)) {
    const line = scene.lines[n];
    for (let k = 1; k < line.points.length; k++) {
      const away = distanceTo(line.points[k - 1], line.points[k], at);
      if (away > least) continue;
      least = away;
      best = line;
    }
  }
  return best && { kind: "link", line: best };
}

function distanceTo(a: Point, b: Point, at: Point): number {
  const [dx, dy] = [b.x - a.x, b.y - a.y];
  const length = dx * dx + dy * dy;
  const along = length === 0 ? 0 : ((at.x - a.x) * dx + (at.y - a.y) * dy) / length;
  const part = Math.max(0, Math.min(1, along));
  return Math.hypot(at.x - a.x - part * dx, at.y - a.y - part * dy);
}

/** The plate whose middle is nearest to a point. */
export function nearestPlate({ plates }: Scene, at: Point): Plate | null {
  const away = ({ node }: Plate) => Math.hypot(middle(node).x - at.x, middle(node).y - at.y);
  return plates.reduce<Plate | null>(
    (best, plate) => (best && away(best) <= away(plate) ? best : plate),
    null,
  );
}

/** The plate that is next in a direction: the nearest whose way there is more along it than across. */
export function nextPlate(scene: Scene, from: Plate, direction: Point): Plate | null {
  const start = middle(from.node);
  let best: Plate | null = null;
  let least = Number.POSITIVE_INFINITY;
  for (const plate of scene.plates) {
    if (plate === from) continue;
    const to = middle(plate.node);
    const along = (to.x - start.x) * direction.x + (to.y - start.y) * direction.y;
    const across = Math.abs((to.x - start.x) * direction.y) + Math.abs((to.y - start.y) * direction.x);
    if (along <= 0 || across > along) continue;
    const cost = along + 2 * across;
    if (cost < least) {
      least = cost;
      best = plate;
    }
  }
  return best;
}

/** Side of the squares into which the drawing is cut, in its units. */
const CELL = 256;

/** Things by the squares of the drawing that they touch. */
export class Grid {
  private readonly cells = new Map<number, number[]>();

  addBox(item: number, { x, y, width, height }: NodeDrawing) {
    this.forEachCell(x, y, x + width, y + height, (key) => this.put(key, item));
  }

  addSegment(item: number, a: Point, b: Point) {
    const steps = Math.max(1, Math.ceil(Math.hypot(b.x - a.x, b.y - a.y) / (CELL / 2)));
    for (let n = 0; n <= steps; n++) {
      const x = a.x + ((b.x - a.x) * n) / steps;
      const y = a.y + ((b.y - a.y) * n) / steps;
      // A step may cut a corner: the squares beside it count too.
      this.forEachCell(x - CELL / 4, y - CELL / 4, x + CELL / 4, y + CELL / 4, (key) => this.put(key, item));
    }
  }

  /** Things that may lie within a distance of a point. */
  near({ x, y }: Point, reach: number): Set<number> {
    return this.within(x - reach, y - reach, x + reach, y + reach);
  }

  /** Things that may lie in a part of the drawing. */
  within(left: number, top: number, right: number, bottom: number): Set<number> {
    const found = new Set<number>();
    this.forEachCell(left, top, right, bottom, (key) => {
      for (const item of this.cells.get(key) ?? []) found.add(item);
    });
    return found;
  }

  private put(key: number, item: number) {
    const cell = this.cells.get(key);
    if (!cell) this.cells.set(key, [item]);
    else if (cell[cell.length - 1] !== item) cell.push(item);
  }

  private forEachCell(left: number, top: number, right: number, bottom: number, call: (key: number) => void) {
    for (let row = Math.floor(top / CELL); row <= Math.floor(bottom / CELL); row++)
      for (let column = Math.floor(left / CELL); column <= Math.floor(right / CELL); column++)
        call(row * 65536 + column);
  }
}
