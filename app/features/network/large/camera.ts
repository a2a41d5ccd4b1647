import type { Point } from "../../../drawing/types.ts";
import type { Box } from "../use-view-box.ts";

/** The visible part and scale of a drawing, independent of painting. */
export interface Camera {
  /** The requested part; the window's shape may show more. */
  readonly box: Box;
  /** The window in pixels. */
  readonly area: { readonly width: number; readonly height: number };
}

/** Pixels to a unit of the drawing. */
export function scaleOf({ box, area }: Camera): number {
  return Math.min(area.width / box.width, area.height / box.height);
}

/** Where the drawing's origin stands in the window, in pixels. */
export function originOf(camera: Camera): Point {
  const scale = scaleOf(camera);
  const { box, area } = camera;
  return {
    x: (area.width - box.width * scale) / 2 - box.x * scale,
    y: (area.height - box.height * scale) / 2 - box.y * scale,
  };
}

/** The place of the drawing under a place of the window. */
export function placeAt(camera: Camera, at: Point): Point {
  const scale = scaleOf(camera);
  const origin = originOf(camera);
  return { x: (at.x - origin.x) / scale, y: (at.y - origin.y) / scale };
}

/** The whole visible part, including the margins around the requested box. */
export function seenIn(camera: Camera): Box {
  const { x, y } = placeAt(camera, { x: 0, y: 0 });
  const scale = scaleOf(camera);
  return { x, y, width: camera.area.width / scale, height: camera.area.height / scale };
}

/** Zooms by a factor around a point of the window. */
export function zoomed(camera: Camera, by: number, at: Point): Camera {
  const place = placeAt(camera, at);
  const { box } = camera;
  return {
    ...camera,
    box: {
      x: place.x - (place.x - box.x) * by,
      y: place.y - (place.y - box.y) * by,
      width: box.width * by,
      height: box.height * by,
    },
  };
}

/** Moves by pixels. */
export function moved(camera: Camera, dx: number, dy: number): Camera {
  const scale = scaleOf(camera);
  return { ...camera, box: { ...camera.box, x: camera.box.x - dx / scale, y: camera.box.y - dy / scale } };
}

/** Moved as little as brings a box into sight. */
export function showing(camera: Camera, { x, y, width, height }: Box): Camera {
  const seen = seenIn(camera);
  const margin = 0.05 * seen.width;
  const dx = Math.min(0, x - margin - seen.x) || Math.max(0, x + width + margin - seen.x - seen.width);
  const dy = Math.min(0, y - margin - seen.y) || Math.max(0, y + height + margin - seen.y - seen.height);
  return { ...camera, box: { ...camera.box, x: camera.box.x + dx, y: camera.box.y + dy } };
}
