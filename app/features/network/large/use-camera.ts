import { type RefObject, useCallback, useEffect, useRef, useState } from "react";
import type { Drawing, Point } from "../../../drawing/types.ts";
import { ASSUMED, type Box, boxIn, boxText, FOOT, wholeOf, withMargin } from "../use-view-box.ts";
import { type Camera, moved, placeAt, scaleOf, showing, zoomed } from "./camera.ts";

/** The whole drawing, with space below it for the map's buttons in a window of the usual height. */
function aboveFoot(drawing: Pick<Drawing, "width" | "height">): Box {
  const whole = wholeOf(drawing);
  return { ...whole, height: (whole.height * ASSUMED.height) / (ASSUMED.height - FOOT) };
}

/** How long the camera must stand still before the page follows it, in milliseconds. */
const SETTLED_MS = 120;

/** The camera over a large drawing. Movement draws frames without React; the page is updated when it rests. `draw`
 * paints the view and receives whether the camera is moving. */
export function useCamera(
  frame: RefObject<HTMLDivElement | null>,
  drawing: Drawing,
  asked: string | null,
  draw: (camera: Camera, moves: boolean) => void,
) {
  const whole = aboveFoot(drawing);
  const camera = useRef<Camera>({ box: boxIn(asked) ?? whole, area: ASSUMED });
  const [rest, setRest] = useState(camera.current);
  const latest = useRef(draw);
  latest.current = draw;
  const waiting = useRef<{ frame: number; timer: ReturnType<typeof setTimeout> | undefined }>({
    frame: 0,
    timer: undefined,
  });

  const moves = useRef(false);
  const redraw = useCallback(() => {
    if (waiting.current.frame) return;
    waiting.current.frame = requestAnimationFrame(() => {
      waiting.current.frame = 0;
      latest.current(camera.current, moves.current);
    });
  }, []);

  const look = useCallback(
    (next: Camera) => {
      camera.current = next;
      moves.current = true;
      redraw();
      clearTimeout(waiting.current.timer);
      waiting.current.timer = setTimeout(() => {
        moves.current = false;
        redraw();
        setRest(camera.current);
      }, SETTLED_MS);
    },
    [redraw],
  );

  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const observer = new ResizeObserver(([{ contentRect }]) => {
      const { width, height } = contentRect;
      if (width > 0 && height > 0) look({ ...camera.current, area: { width, height } });
    });
    observer.observe(element);
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const { left, top } = element.getBoundingClientRect();
      const at = { x: event.clientX - left, y: event.clientY - top };
      look(zoomed(camera.current, event.deltaY > 0 ? 1.12 : 1 / 1.12, at));
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => {
      observer.disconnect();
      element.removeEventListener("wheel", onWheel);
      clearTimeout(waiting.current.timer);
      cancelAnimationFrame(waiting.current.frame);
      waiting.current.frame = 0;
    };
  }, [frame, look]);

  const { width, height } = drawing;
  useEffect(() => {
    look({ ...camera.current, box: boxIn(asked) ?? aboveFoot({ width, height }) });
  }, [look, width, height, asked]);

  const middle = () => ({ x: camera.current.area.width / 2, y: camera.current.area.height / 2 });
  return {
    /** The camera at its last rest. */
    rest,
    scale: scaleOf(rest),
    part: boxText(rest.box) === boxText(whole) ? "" : boxText(rest.box),
    now: () => camera.current,
    redraw,
    placeAt: (at: Point) => placeAt(camera.current, at),
    pan: (dx: number, dy: number) => look(moved(camera.current, dx, dy)),
    bring: (box: Box) => look(showing(camera.current, box)),
    show: (box: Box) => look({ ...camera.current, box: withMargin(box) }),
    closer: () => look(zoomed(camera.current, 1 / 1.25, middle())),
    farther: () => look(zoomed(camera.current, 1.25, middle())),
    whole: () => look({ ...camera.current, box: whole }),
  };
}
