import type { Box } from "../use-view-box.ts";
import { type Camera, scaleOf, seenIn } from "./camera.ts";
import { paint, type Tokens } from "./paint.ts";
import type { Scene } from "./scene.ts";

/** How much more than the window is painted, to each side, as a part of its width and height. */
const MARGIN = 0.25;
/** How much nearer or farther a picture is shown than it was painted before it is painted anew. */
const STRETCH = 2;

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

/** Whether a picture can stand for what a camera sees: it shows all of it that there is, and about as large. */
export function standsFor(
  picture: Camera,
  camera: Camera,
  drawing: { width: number; height: number },
): boolean {
  const stretched = scaleOf(camera) / scaleOf(picture);
  if (stretched > STRETCH || stretched < 1 / STRETCH) return false;
  const [seen, shown] = [seenIn(camera), seenIn(picture)];
  const within = (from: number, to: number, first: number, last: number, whole: number) =>
    Math.max(from, 0) >= first - 0.5 && Math.min(to, whole) <= last + 0.5;
  return (
    within(seen.x, seen.x + seen.width, shown.x, shown.x + shown.width, drawing.width) &&
    within(seen.y, seen.y + seen.height, shown.y, shown.y + shown.height, drawing.height)
  );
}

/**
 * A picture of a large drawing that is moved about while the camera moves: painting all of it for every frame would take
 * longer than a frame. Once the camera rests, the drawing itself is painted.
 */
export class MovingPicture {
  private canvas: HTMLCanvasElement | null = null;
  private painted: { camera: Camera; scene: Scene; tokens: Tokens; ratio: number } | null = null;

  /** Shows what the camera sees. */
  show(context: CanvasRenderingContext2D, scene: Scene, camera: Camera, tokens: Tokens, ratio: number) {
    const { painted } = this;
    const fits =
      painted?.scene === scene &&
      painted.tokens === tokens &&
      painted.ratio === ratio &&
      standsFor(painted.camera, camera, scene.drawing);
    const picture = fits ? painted.camera : this.paint(scene, wider(camera), tokens, ratio);
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, context.canvas.width, context.canvas.height);
    const at = placeOf(seenIn(picture), camera);
    if (this.canvas)
      context.drawImage(this.canvas, at.x * ratio, at.y * ratio, at.width * ratio, at.height * ratio);
  }

  private paint(scene: Scene, camera: Camera, tokens: Tokens, ratio: number): Camera {
    this.canvas ??= document.createElement("canvas");
    this.canvas.width = Math.round(camera.area.width * ratio);
    this.canvas.height = Math.round(camera.area.height * ratio);
    const context = this.canvas.getContext("2d");
    if (context) paint(context, scene, camera, tokens, ratio);
    this.painted = { camera, scene, tokens, ratio };
    return camera;
  }
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
