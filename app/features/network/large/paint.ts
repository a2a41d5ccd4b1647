import { plateOutline } from "../../../ui/plate.tsx";
import { endsOn, type Line } from "../line.ts";
import { siteText } from "../site-text.ts";
import type { Box } from "../use-view-box.ts";
import { type Camera, originOf, scaleOf, seenIn } from "./camera.ts";
import type { Plate, Scene, SiteSign } from "./scene.ts";

/** Colours and typefaces as they are shown now. */
export interface Tokens {
  readonly [name: string]: string;
}

const names = ["ground", "sunk", "panel", "iron", "ink", "ink-2", "stop", "rule"] as const;

const kept = new Map<string, Tokens>();

/** Read once for light and once for dark: it is asked for every frame. */
export function tokensOf(element: Element): Tokens {
  const scheme = window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
  const known = kept.get(scheme);
  if (known) return known;
  const style = getComputedStyle(element);
  const read = (name: string) => style.getPropertyValue(`--${name}`).trim();
  const tokens = Object.fromEntries([...names, "font-sign", "font-addr"].map((name) => [name, read(name)]));
  kept.set(scheme, tokens);
  return tokens;
}

/** Scale limits in pixels per unit: below the first a site is one symbol; below the next, plates have no names; then
 * ends have no labels. */
const FOLDED = 0.2;
const NAMED = 0.3;
const LABELLED = 0.5;

export function isFolded(camera: Camera, scene: Scene): boolean {
  return scaleOf(camera) < FOLDED && scene.signs.length > 0;
}

/** How far labels extend beyond their objects, in units. */
const OVERHANG = 20;

/** Draws the camera's view in time proportional to the visible part. A line is drawn simplified if only one of its ends
 * is visible, unless the view is a part of a larger picture. */
export function paint(
  context: CanvasRenderingContext2D,
  scene: Scene,
  camera: Camera,
  tokens: Tokens,
  ratio: number,
  sight: Box = seenIn(camera),
) {
  const scale = scaleOf(camera);
  const origin = originOf(camera);
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, context.canvas.width, context.canvas.height);
  context.setTransform(scale * ratio, 0, 0, scale * ratio, origin.x * ratio, origin.y * ratio);
  const brush = { context, scene, tokens, scale, seen: grown(seenIn(camera), OVERHANG), sight };
  if (isFolded(camera, scene)) {
    paintBundles(brush);
    for (const sign of scene.signs) paintSign(brush, sign);
    return;
  }
  paintGrounds(brush);
  paintLines(brush);
  if (scale >= LABELLED) paintEndLabels(brush);
  paintPlates(brush);
}

interface Brush {
  readonly context: CanvasRenderingContext2D;
  readonly scene: Scene;
  readonly tokens: Tokens;
  readonly scale: number;
  /** The painted part of the drawing, including everything visible around it. */
  readonly seen: Box;
  readonly sight: Box;
}

function grown({ x, y, width, height }: Box, by: number): Box {
  return { x: x - by, y: y - by, width: width + 2 * by, height: height + 2 * by };
}

function isVisible({ seen }: Brush, box: Box): boolean {
  return (
    box.x < seen.x + seen.width &&
    box.x + box.width > seen.x &&
    box.y < seen.y + seen.height &&
    box.y + box.height > seen.y
  );
}

function paintBundles({ context, scene, tokens, scale }: Brush) {
  for (const down of [false, true]) {
    context.beginPath();
    for (const bundle of scene.bundles) {
      if (bundle.down > 0 !== down) continue;
      context.moveTo(bundle.from.x, bundle.from.y);
      context.lineTo(bundle.to.x, bundle.to.y);
    }
    context.strokeStyle = down ? tokens.stop : tokens.iron;
    context.globalAlpha = down ? 1 : FAINT;
    context.lineWidth = (down ? 2 : 1) / scale;
    context.stroke();
  }
  context.globalAlpha = 1;
}

/** A site folded into one symbol: its name if it fits, and its number of devices. */
function paintSign(brush: Brush, { site, devices, down }: SiteSign) {
  if (!isVisible(brush, site)) return;
  const { context, tokens, scale } = brush;
  context.fillStyle = tokens.panel;
  context.strokeStyle = down ? tokens.stop : tokens.iron;
  context.lineWidth = (down ? 2.5 : 1) / scale;
  context.fillRect(site.x, site.y, site.width, site.height);
  context.strokeRect(site.x, site.y, site.width, site.height);
  const size = 12 / scale;
  if (site.height < size * 1.2) return;
  context.font = `600 ${size}px ${tokens["font-sign"]}`;
  context.textAlign = "center";
  context.textBaseline = "middle";
  context.fillStyle = down ? tokens.stop : tokens.ink;
  const text = siteText(site.id);
  const told = down ? `${text} ${down}/${devices}` : text;
  if (context.measureText(told).width > site.width) return;
  context.fillText(told, site.x + site.width / 2, site.y + site.height / 2);
}

function paintGrounds(brush: Brush) {
  const { context, scene, tokens, scale } = brush;
  const seen = scene.drawing.sites.filter((site) => isVisible(brush, site));
  context.fillStyle = tokens.sunk;
  for (const { x, y, width, height } of seen) context.fillRect(x, y, width, height);
  // From farther away the name keeps its size on screen, over the site's area; plates have no names then.
  const size = scale < NAMED ? Math.min(15, 11 / scale) : 15;
  context.font = `600 ${size}px ${tokens["font-sign"]}`;
  context.textAlign = "left";
  context.textBaseline = "alphabetic";
  context.fillStyle = tokens["ink-2"];
  for (const { id, x, y } of seen) context.fillText(siteText(id), x + 8, y + 15);
}

/** How much of a line is seen that only passes, or among very many. */
const FAINT = 0.16;

/** Whether one of a line's ends is in sight. */
function endsHere({ sight }: Brush, { points }: Line): boolean {
  return [points[0], points[points.length - 1]].some(
    ({ x, y }) => x >= sight.x && x <= sight.x + sight.width && y >= sight.y && y <= sight.y + sight.height,
  );
}

/** Lines by how they look, each kind in one stroke. */
function paintLines(brush: Brush) {
  const { context, scene, tokens, scale, seen } = brush;
  const kinds = new Map<string, Line[]>();
  const visible = scene.linesIn.within(seen.x, seen.y, seen.x + seen.width, seen.y + seen.height);
  for (const n of visible) {
    const line = scene.lines[n];
    const kind = kindOf(brush, line);
    const known = kinds.get(kind);
    if (known) known.push(line);
    else kinds.set(kind, [line]);
  }
  const looks = {
    passing: { width: 1.2, dash: [], colour: tokens.iron, alpha: FAINT },
    plain: { width: 1.8, dash: [], colour: tokens.iron, alpha: scale < NAMED ? 0.4 : 1 },
    circuit: { width: 3, dash: [10, 3], colour: tokens.iron, alpha: scale < NAMED ? 0.4 : 1 },
    broken: { width: 1.8, dash: [6, 4], colour: tokens.iron, alpha: 1 },
    down: { width: 2.5, dash: [2, 5], colour: tokens.stop, alpha: 1 },
  };
  for (const [kind, { width, dash, colour, alpha }] of Object.entries(looks)) {
    const lines = kinds.get(kind);
    if (!lines) continue;
    context.beginPath();
    for (const { points } of lines) {
      context.moveTo(points[0].x, points[0].y);
      for (let k = 1; k < points.length; k++) context.lineTo(points[k].x, points[k].y);
    }
    context.setLineDash(scale < NAMED ? [] : dash);
    context.lineWidth = inPixels(width, scale);
    context.globalAlpha = alpha;
    context.strokeStyle = colour;
    context.stroke();
  }
  context.setLineDash([]);
  context.globalAlpha = 1;
}

function kindOf(brush: Brush, line: Line): string {
  const { shown } = line;
  if (shown.down) return "down";
  if (endsOn(line).some((end) => !end.up)) return "broken";
  if (!endsHere(brush, line)) return "passing";
  return shown.medium === "circuit" ? "circuit" : "plain";
}

/** A stroke width in units, limited on screen: never too thin to see, never growing when zooming in. */
function inPixels(width: number, scale: number): number {
  return Math.min(Math.max(width, 0.7 / scale), (width * 1.3) / scale);
}

const outlines = new Map<string, Path2D>();

function outlineOf({ device, node }: Plate): Path2D {
  const key = `${device.role} ${node.width} ${node.height}`;
  let path = outlines.get(key);
  if (!path) {
    path = new Path2D(plateOutline(device.role, node.width, node.height));
    outlines.set(key, path);
  }
  return path;
}

function paintPlates({ context, scene, tokens, scale, seen }: Brush) {
  const visible = scene.platesIn.within(seen.x, seen.y, seen.x + seen.width, seen.y + seen.height);
  context.textAlign = "center";
  context.textBaseline = "alphabetic";
  context.font = `600 19px ${tokens["font-sign"]}`;
  for (const n of visible) {
    const plate = scene.plates[n];
    const { device, node } = plate;
    const { up, outline } = device;
    context.save();
    context.translate(node.x, node.y);
    context.fillStyle = tokens.panel;
    context.strokeStyle = up ? tokens.iron : tokens.stop;
    context.lineWidth = inPixels(2, scale);
    context.setLineDash(!up ? [5, 4] : outline ? [2, 4] : []);
    const path = outlineOf(plate);
    context.fill(path, "evenodd");
    if (device.role === "internet") context.fillRect(3, 3, node.width - 6, node.height - 6);
    context.stroke(path);
    if (!up) {
      context.setLineDash([]);
      context.beginPath();
      context.moveTo(0, node.height);
      context.lineTo(node.width, 0);
      context.stroke();
    }
    if (scale >= NAMED) {
      context.fillStyle = up ? tokens.ink : tokens.stop;
      context.fillText(device.label, node.width / 2, node.height / 2 + 6.5);
    }
    context.restore();
  }
}

function paintEndLabels(brush: Brush) {
  const { context, scene, tokens, seen, scale } = brush;
  const visible = scene.linesIn.within(seen.x, seen.y, seen.x + seen.width, seen.y + seen.height);
  context.font = `${Math.min(15, 15 / scale)}px ${tokens["font-addr"]}`;
  context.textBaseline = "alphabetic";
  context.lineWidth = 3;
  context.lineJoin = "round";
  context.strokeStyle = tokens.ground;
  for (const n of visible) {
    const line = scene.lines[n];
    if (!endsHere(brush, line)) continue;
    const { points } = line;
    for (const [k, end] of endsOn(line).entries()) {
      const [at, next] =
        k === 0 ? [points[0], points[1]] : [points[points.length - 1], points[points.length - 2]];
      const vertical = Math.abs(next.x - at.x) < Math.abs(next.y - at.y);
      const laid = line.labels[k];
      const right = laid || vertical || next.x > at.x;
      context.textAlign = right ? "left" : "right";
      // Lines of a large drawing start at the center of their plates: labels are placed at the plate's edge.
      const away = Math.min(70, Math.hypot(next.x - at.x, next.y - at.y) / 3);
      const length = Math.hypot(next.x - at.x, next.y - at.y) || 1;
      const x = laid ? laid.x + 3 : at.x + ((next.x - at.x) * away) / length + 5;
      const y = laid ? laid.y + 13 : at.y + ((next.y - at.y) * away) / length;
      context.strokeText(end.text, x, y);
      context.fillStyle = end.up ? tokens["ink-2"] : tokens.stop;
      context.fillText(end.text, x, y);
    }
  }
}
