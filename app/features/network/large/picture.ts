import { paint, tokensOf } from "./paint.ts";
import type { Scene } from "./scene.ts";

/** The longest side of a picture in pixels: what browsers still draw. */
const LONGEST = 8000;

/** The whole drawing as a picture; rejected where the browser cannot draw it. */
export function pictureOf(scene: Scene): Promise<Blob> {
  const { width, height } = scene.drawing;
  const scale = Math.min(2, LONGEST / Math.max(width, height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(width * scale);
  canvas.height = Math.round(height * scale);
  const context = canvas.getContext("2d");
  const tokens = tokensOf(document.documentElement);
  if (context) {
    const area = { width: canvas.width, height: canvas.height };
    paint(context, scene, { box: { x: 0, y: 0, width, height }, area }, tokens, 1);
    context.globalCompositeOperation = "destination-over";
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.fillStyle = tokens.ground;
    context.fillRect(0, 0, canvas.width, canvas.height);
  }
  return new Promise((resolve, reject) => {
    canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error("the picture is too large"))));
  });
}
