import { type RefObject, useEffect, useRef } from "react";
import type { NodeDrawing, Point } from "../../drawing/types.ts";

/** How far a pointer must go before a press counts as dragging, in pixels. */
const SLACK = 4;

/** Dragging a plate. `move` receives each position, and with `done` the last one; a press without movement is a click.
 * */
export function useDragging(
  svg: RefObject<SVGSVGElement | null>,
  move: (id: string, at: Point, done: boolean) => void,
) {
  const held = useRef<{ id: string; grip: Point; from: Point; last: Point | null } | null>(null);
  const latest = useRef(move);
  latest.current = move;

  useEffect(() => {
    const place = (event: PointerEvent): Point => {
      const matrix = svg.current?.getScreenCTM()?.inverse();
      const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
      return { x: point.x, y: point.y };
    };
    const onMove = (event: PointerEvent) => {
      const now = held.current;
      if (!now) return;
      if (!now.last && Math.hypot(event.clientX - now.from.x, event.clientY - now.from.y) < SLACK) return;
      const point = place(event);
      now.last = { x: point.x - now.grip.x, y: point.y - now.grip.y };
      latest.current(now.id, now.last, false);
    };
    const onUp = () => {
      const now = held.current;
      held.current = null;
      if (!now?.last) return;
      latest.current(now.id, now.last, true);
      // The click that follows a drag must not fail the device.
      const swallow = (event: MouseEvent) => {
        event.preventDefault();
        event.stopPropagation();
      };
      window.addEventListener("click", swallow, { capture: true, once: true });
      setTimeout(() => window.removeEventListener("click", swallow, { capture: true }), 0);
    };
    window.addEventListener("pointermove", onMove);
    window.addEventListener("pointerup", onUp);
    return () => {
      window.removeEventListener("pointermove", onMove);
      window.removeEventListener("pointerup", onUp);
    };
  }, [svg]);

  return {
    start: (event: React.PointerEvent, node: NodeDrawing) => {
      if (event.button !== 0) return;
      const matrix = svg.current?.getScreenCTM()?.inverse();
      const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
      held.current = {
        id: node.id,
        grip: { x: point.x - node.x, y: point.y - node.y },
        from: { x: event.clientX, y: event.clientY },
        last: null,
      };
    },
  };
}
