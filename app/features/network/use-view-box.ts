import { type RefObject, useCallback, useEffect, useRef, useState } from "react";
import type { Drawing } from "../../drawing/types.ts";

/** A part of the drawing as written in an address: left, top, width and height in units; null if invalid. */
export function boxIn(text: string | null): Box | null {
  const numbers = (text ?? "").split(",").map(Number);
  const [x, y, width, height] = numbers;
  const sound = numbers.length === 4 && numbers.every(Number.isFinite) && width > 0 && height > 0;
  return sound ? { x, y, width, height } : null;
}

export function boxText({ x, y, width, height }: Box): string {
  return [x, y, width, height].map(Math.round).join(",");
}

/** All of a drawing; a small one is not blown up. */
export function wholeOf({ width, height }: Pick<Drawing, "width" | "height">): Box {
  return { x: 0, y: 0, width: Math.max(width, 200), height: Math.max(height, 150) };
}

/** What the map's buttons take at its foot, in pixels: a drawing that is seen as a whole ends above them. */
export const FOOT = 52;

/** The map's size until the browser has measured it: that in a window of the usual size. */
export const ASSUMED = { width: 808, height: 748 };

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The visible part of the drawing: the wheel zooms, dragging the background moves. */
export function useViewBox(svg: RefObject<SVGSVGElement | null>, drawing: Drawing, part: Box | null) {
  const whole = wholeOf(drawing);
  const [box, setBox] = useState<Box>(part ?? whole);
  const from = useRef<{ x: number; y: number; box: Box } | null>(null);
  const { width, height } = drawing;
  const asked = part && boxText(part);

  useEffect(() => {
    setBox(boxIn(asked) ?? wholeOf({ width, height }));
  }, [width, height, asked]);

  const zoom = useCallback((by: number, at = { x: 0.5, y: 0.5 }) => {
    setBox((now) => ({
      x: now.x + now.width * at.x * (1 - by),
      y: now.y + now.height * at.y * (1 - by),
      width: now.width * by,
      height: now.height * by,
    }));
  }, []);

  const area = useArea(svg);
  useWheel(svg, zoom);

  const handlers = {
    onPointerDown: (event: React.PointerEvent) => {
      if (event.target !== svg.current) return;
      from.current = { x: event.clientX, y: event.clientY, box };
      svg.current?.setPointerCapture(event.pointerId);
    },
    onPointerMove: (event: React.PointerEvent) => {
      const start = from.current;
      if (!start || !svg.current) return;
      const scale = svg.current.getScreenCTM()?.a ?? 1;
      setBox({
        ...start.box,
        x: start.box.x - (event.clientX - start.x) / scale,
        y: start.box.y - (event.clientY - start.y) / scale,
      });
    },
    onPointerUp: () => {
      from.current = null;
    },
  };
  return {
    viewBox: `${box.x} ${box.y} ${box.width} ${box.height}`,
    /** The visible part as written in an address; "" for the whole drawing. */
    part: boxText(box) === boxText(whole) ? "" : boxText(box),
    /** Pixels to a unit of the drawing. */
    scale: Math.min(area.width / box.width, area.height / box.height),
    handlers,
    /** Shows a part of the drawing as large as it fits. */
    show: (part: Box) => setBox(withMargin(part)),
    closer: () => zoom(1 / 1.25),
    farther: () => zoom(1.25),
    whole: () => setBox(whole),
  };
}

export function withMargin({ x, y, width, height }: Box): Box {
  const margin = 0.06 * Math.max(width, height);
  return { x: x - margin, y: y - margin, width: width + 2 * margin, height: height + 2 * margin };
}

/** The current size of an element in pixels. */
function useArea(svg: RefObject<SVGSVGElement | null>) {
  const [area, setArea] = useState({ ...ASSUMED, height: ASSUMED.height - FOOT });
  useEffect(() => {
    const element = svg.current;
    if (!element) return;
    const observer = new ResizeObserver(([{ contentRect }]) =>
      setArea({ width: contentRect.width, height: contentRect.height }),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, [svg]);
  return area;
}

/** Zooms by the wheel. React listens to wheels passively; the page must not scroll under the map. */
function useWheel(
  svg: RefObject<SVGSVGElement | null>,
  zoom: (by: number, at: { x: number; y: number }) => void,
) {
  useEffect(() => {
    const element = svg.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const area = element.getBoundingClientRect();
      const at = { x: (event.clientX - area.x) / area.width, y: (event.clientY - area.y) / area.height };
      zoom(event.deltaY > 0 ? 1.12 : 1 / 1.12, at);
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
  }, [svg, zoom]);
}
