import type { Box } from "../use-view-box.ts";
import { type Camera, scaleOf, seenIn } from "./camera.ts";
import { paint, type Tokens } from "./paint.ts";
import type { Scene } from "./scene.ts";

/** How much more than the window is painted, to each side, as a part of its width and height. */
const MARGIN = 0.25;
/** How much nearer or farther a picture is shown than it was painted before it is painted anew. */
const STRETCH = 2;
/** How high a stripe is, in pixels of the window. */
const STRIPE = 64;
/** The part of a frame available for painting missing content; the rest of its 16 ms is for display. */
const BUDGET_MS = 5;

interface Size {
  readonly width: number;
  readonly height: number;
}

/** The camera over all that a picture shows whose middle the given one sees. */
export function wider({ box, area }: Camera): Camera {
  const grow = 1 + 2 * MARGIN;
  const seen = seenIn({ box, area });
  return {
    area: { width: area.width * grow, height: area.height * grow },
    box: {
      x: seen.x - seen.width * MARGIN,
      y: seen.y - seen.height * MARGIN,
      width: seen.width * grow,
      height: seen.height * grow,
    },
  };
}

/** Whether a picture can replace what a camera sees: it covers the visible part at about the same scale. plain-ok */
export function standsFor(picture: Camera, camera: Camera, drawing: Size): boolean {
  const stretched = scaleOf(camera) / scaleOf(picture);
  return stretched <= STRETCH && stretched >= 1 / STRETCH && covers(picture, camera, drawing);
}

/** Whether a picture shows all that a camera sees of the drawing. */
function covers(picture: Camera, camera: Camera, drawing: Size): boolean {
  const [seen, shown] = [seenIn(camera), seenIn(picture)];
  const within = (from: number, to: number, first: number, last: number, whole: number) =>
    Math.max(from, 0) >= first - 0.5 && Math.min(to, whole) <= last + 0.5;
  return (
    within(seen.x, seen.x + seen.width, shown.x, shown.x + shown.width, drawing.width) &&
    within(seen.y, seen.y + seen.height, shown.y, shown.y + shown.height, drawing.height)
  );
}

/** Cached pictures of a large drawing that are moved along with the camera, because painting everything takes longer
 * than a frame. Missing parts are painted in stripes within the frame's budget; until then the last picture and one of
 * the whole drawing are shown. When the camera rests, the drawing itself is painted. */
export class MovingPicture {
  private shown: StripedPicture | null = null;
  private next: StripedPicture | null = null;
  private whole: StripedPicture | null = null;
  /** What the canvas shows that was painted last; null while the camera moves. */
  private rested: Camera | null = null;
  private of: { scene: Scene; tokens: Tokens; ratio: number } | null = null;

  /** Shows the camera's view, as far as painted. */
  show(context: CanvasRenderingContext2D, scene: Scene, camera: Camera, tokens: Tokens, ratio: number) {
    this.begin(scene, tokens, ratio);
    if (this.rested) {
      this.next = null;
      this.shown = StripedPicture.copyOf(context.canvas, scene, this.rested, tokens, ratio);
      this.rested = null;
    }
    if (this.next === null && !(this.shown && standsFor(this.shown.camera, camera, scene.drawing)))
      this.next = new StripedPicture(scene, wider(camera), tokens, ratio);
    this.whole ??= new StripedPicture(
      scene,
      { box: { x: 0, y: 0, ...scene.drawing }, area: camera.area },
      tokens,
      ratio,
    );
    const end = performance.now() + BUDGET_MS;
    do {
      if (this.next?.paintOn()) [this.shown, this.next] = [this.next, null];
      else if (!this.next && this.whole.paintOn()) break;
    } while (performance.now() < end);
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, context.canvas.width, context.canvas.height);
    const { shown, whole } = this;
    const covered = shown !== null && covers(shown.camera, camera, scene.drawing);
    if (!covered) whole.drawOn(context, camera);
    // Far away from where it was painted it would only be a patch of another look.
    const patch = !covered && whole.isDone && shown && scaleOf(camera) / scaleOf(shown.camera) < 1 / STRETCH;
    if (!patch) shown?.drawOn(context, camera);
  }

  /** Stores the painted view as the picture that the next movement starts with. */
  painted(scene: Scene, camera: Camera, tokens: Tokens, ratio: number) {
    this.begin(scene, tokens, ratio);
    this.rested = camera;
  }

  private begin(scene: Scene, tokens: Tokens, ratio: number) {
    const { of } = this;
    if (of?.scene === scene && of.tokens === tokens && of.ratio === ratio) return;
    this.of = { scene, tokens, ratio };
    this.shown = null;
    this.next = null;
    this.whole = null;
    this.rested = null;
  }
}

/** A picture of what a camera sees, painted a stripe at a time from the top. */
class StripedPicture {
  private readonly stripes: HTMLCanvasElement[] = [];

  constructor(
    private readonly scene: Scene,
    readonly camera: Camera,
    private readonly tokens: Tokens,
    private readonly ratio: number,
    private readonly height = STRIPE,
  ) {}

  /** One that is painted already, as a single stripe. */
  static copyOf(canvas: HTMLCanvasElement, scene: Scene, camera: Camera, tokens: Tokens, ratio: number) {
    const picture = new StripedPicture(scene, camera, tokens, ratio, camera.area.height);
    const context = picture.addStripe(camera.area.height);
    context?.drawImage(canvas, 0, 0);
    return picture;
  }

  get isDone(): boolean {
    return this.stripes.length * this.height >= this.camera.area.height;
  }

  /** Paints the next stripe; whether none is left. */
  paintOn(): boolean {
    if (this.isDone) return true;
    const { camera, height, ratio } = this;
    const { area } = camera;
    const top = this.stripes.length * height;
    const tall = Math.min(height, area.height - top);
    const context = this.addStripe(tall);
    const sight = seenIn(camera);
    const scale = scaleOf(camera);
    const box = { x: sight.x, y: sight.y + top / scale, width: sight.width, height: tall / scale };
    if (context)
      paint(
        context,
        this.scene,
        { box, area: { width: area.width, height: tall } },
        this.tokens,
        ratio,
        sight,
      );
    flush(this.stripes[this.stripes.length - 1]);
    return this.isDone;
  }

  /** Draws the painted part at its position in the camera's view, replacing the previous content. */
  drawOn(context: CanvasRenderingContext2D, camera: Camera) {
    const { ratio, height } = this;
    const at = placeOf(seenIn(this.camera), camera);
    const stretched = scaleOf(camera) / scaleOf(this.camera);
    // Whole pixels, so that no seam is seen between two stripes.
    const edge = (n: number) =>
      Math.round((at.y + Math.min(n * height, this.camera.area.height) * stretched) * ratio);
    const [left, right] = [at.x * ratio, (at.x + at.width) * ratio].map(Math.round);
    context.clearRect(left, edge(0), right - left, edge(this.stripes.length) - edge(0));
    for (const [n, stripe] of this.stripes.entries())
      context.drawImage(stripe, left, edge(n), right - left, edge(n + 1) - edge(n));
  }

  /** A canvas for one more stripe of this height in window pixels. */
  private addStripe(height: number): CanvasRenderingContext2D | null {
    const canvas = document.createElement("canvas");
    canvas.width = Math.round(this.camera.area.width * this.ratio);
    canvas.height = Math.round(height * this.ratio);
    this.stripes.push(canvas);
    return canvas.getContext("2d");
  }
}

let sink: CanvasRenderingContext2D | null = null;

/** Makes a browser that batches drawing commands execute them now, so that they count for this frame. */
function flush(canvas: HTMLCanvasElement) {
  sink ??= document.createElement("canvas").getContext("2d");
  sink?.drawImage(canvas, 0, 0, 1, 1, 0, 0, 1, 1);
}

/** Where a part of the drawing stands in the window, in pixels. */
export function placeOf(part: Box, camera: Camera): Box {
  const scale = scaleOf(camera);
  const seen = seenIn(camera);
  return {
    x: (part.x - seen.x) * scale,
    y: (part.y - seen.y) * scale,
    width: part.width * scale,
    height: part.height * scale,
  };
}
