import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { withPins } from "../../../drawing/lines.ts";
import type { Drawing, Point } from "../../../drawing/types.ts";
import { usePlan } from "../../../plan/open-plan.tsx";
import type { FlowAnswer } from "../../../queries/flows.ts";
import type { MapAnswer } from "../../../queries/map.ts";
import { toggleHref, withParam } from "../../../search/links.ts";
import { isOnWay } from "../canvas.tsx";
import { DevicePlate } from "../device-plate.tsx";
import { GatewayShields } from "../gateway-shields.tsx";
import { downIn, pinsOf } from "../line.ts";
import { LinkLine } from "../link-line.tsx";
import { MapControls } from "../map-controls.tsx";
import { Ribbons, StandbyWay } from "../ribbons.tsx";
import { useDragging } from "../use-dragging.ts";
import { usePinning } from "../use-pinning.ts";
import { type Camera, seenIn } from "./camera.ts";
import { MovingPicture } from "./moving-picture.ts";
import { isFolded, paint, tokensOf } from "./paint.ts";
import { pictureOf } from "./picture.ts";
import {
  type Hit,
  hitAt,
  middle,
  nearestPlate,
  nextPlate,
  type Plate,
  type Scene,
  sceneOf,
} from "./scene.ts";
import { SiteButton } from "./site-button.tsx";
import { useCamera } from "./use-camera.ts";

interface LargeMapProps {
  answer: MapAnswer;
  drawing: Drawing;
  flow: FlowAnswer | null;
}

const arrows: Record<string, Point> = {
  ArrowLeft: { x: -1, y: 0 },
  ArrowRight: { x: 1, y: 0 },
  ArrowUp: { x: 0, y: -1 },
  ArrowDown: { x: 0, y: 1 },
};

/** The map of a large plan: painted on a canvas, with real elements only for the hovered or focused item and the
 * selected flow. From afar a site is one symbol. */
export function LargeMap({ answer, drawing, flow }: LargeMapProps) {
  const { planId, params } = usePlan();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const [pointed, setPointed] = useState<Hit | null>(null);
  const [focused, setFocused] = useState<string | null>(null);
  const [dragged, setDragged] = useState<{ id: string; at: Point } | null>(null);
  const pin = usePinning();

  const scene = useMemo(() => {
    const pins = pinsOf(answer);
    return sceneOf(answer, withPins(drawing, pins), pins);
  }, [answer, drawing]);
  const moving = useRef(new MovingPicture());
  const draw = useCallback(
    (camera: Camera, moves: boolean) =>
      drawScene(canvas.current, svg.current, scene, camera, moves, moving.current),
    [scene],
  );
  const camera = useCamera(frame, drawing, params.get("part"), draw);
  useRepainting(camera.redraw, scene);
  useFocus(svg, focused);
  const drag = useDragging(svg, (id, at, done) => {
    setDragged(done ? null : { id, at });
    if (done) pin(id, at);
  });
  const press = usePressing(camera.pan);

  const folded = isFolded(camera.rest, scene);
  const under = (event: React.MouseEvent): Hit | null => {
    const area = frame.current?.getBoundingClientRect();
    if (!area) return null;
    const place = camera.placeAt({ x: event.clientX - area.left, y: event.clientY - area.top });
    return hitAt(scene, place, camera.scale, folded);
  };
  const act = (hit: Hit) => {
    if (hit.kind === "site") return camera.show(hit.sign.site);
    const ref = hit.kind === "device" ? `device:${hit.plate.device.id}` : `link:${hit.line.link}`;
    const to = params.has("edit") ? withParam(params, "edit", ref) : toggleHref(pathname, params, ref);
    navigate(to, { preventScrollReset: true });
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.key === "+") return camera.closer();
    if (event.key === "-") return camera.farther();
    const direction = arrows[event.key];
    if (!direction) return;
    event.preventDefault();
    const from = focused === null ? null : scene.plateOf.get(focused);
    const next = from ? nextPlate(scene, from, direction) : nearestPlate(scene, middle(seenIn(camera.now())));
    if (!next) return;
    setFocused(next.device.id);
    camera.bring(next.node);
  };
  const shown = platesShown(scene, pointed, focused, dragged);
  return (
    <div
      ref={frame}
      className="absolute inset-0"
      data-down={downIn(answer)}
      data-map-ready={scene.plates.length}
    >
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
      <svg
        key={planId}
        ref={svg}
        preserveAspectRatio="none"
        className="absolute inset-0 h-full w-full touch-none select-none"
        role="application"
        aria-label={`Map of ${scene.plates.length} devices. Arrow keys go from device to device, Enter fails or restores, plus and minus zoom.`}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: keyboard control of the map needs the focus.
        tabIndex={0}
        onKeyDown={onKeyDown}
        onPointerDown={(event) => event.target === svg.current && press.start(event)}
        onPointerMove={(event) => event.buttons === 0 && !dragged && setPointed(sameHit(under(event)))}
        onPointerLeave={() => setPointed(null)}
        onClick={(event) => {
          const hit = event.target === svg.current && !press.moved() ? under(event) : null;
          if (hit) act(hit);
        }}
      >
        {flow?.standby && <StandbyWay lines={scene.lines} trip={flow.standby} now={flow.now} />}
        {flow && <Ribbons lines={scene.lines} trip={flow.now} />}
        {pointed?.kind === "link" && <LinkLine line={pointed.line} pathname={pathname} />}
        {pointed?.kind === "site" && (
          <SiteButton sign={pointed.sign} onShow={() => camera.show(pointed.sign.site)} />
        )}
        {!folded && flow && <GatewayShields lines={scene.lines} flow={flow} only={carriersOf(flow)} />}
        {shown.map(({ device, node }) => (
          <g key={device.id} data-plate={device.id}>
            <DevicePlate
              device={device}
              node={node}
              onWay={isOnWay(flow, device.id)}
              pathname={pathname}
              onPointerDown={(event) => drag.start(event, node)}
            />
          </g>
        ))}
      </svg>
      <MapControls
        box={camera}
        exports={{
          svg: () => location.assign(`/plans/${planId}/network-report?as=drawing-svg`),
          png: () => pictureOf(scene),
        }}
      />
    </div>
  );

  /** The same hit again is the same state: moving about over one thing draws nothing. */
  function sameHit(hit: Hit | null): Hit | null {
    return keyOf(hit) === keyOf(pointed) ? pointed : hit;
  }
}

function drawScene(
  canvas: HTMLCanvasElement | null,
  svg: SVGSVGElement | null,
  scene: Scene,
  camera: Camera,
  moves: boolean,
  moving: MovingPicture,
) {
  const context = canvas?.getContext("2d");
  if (!canvas || !context) return;
  const ratio = window.devicePixelRatio || 1;
  const [width, height] = [camera.area.width * ratio, camera.area.height * ratio].map(Math.round);
  const resized = canvas.width !== width || canvas.height !== height;
  if (resized) {
    canvas.width = width;
    canvas.height = height;
  }
  const seen = seenIn(camera);
  svg?.setAttribute("viewBox", `${seen.x} ${seen.y} ${seen.width} ${seen.height}`);
  const tokens = tokensOf(canvas);
  // A canvas of another size is blank and cannot be reused.
  if (moves && !resized) return moving.show(context, scene, camera, tokens, ratio);
  paint(context, scene, camera, tokens, ratio);
  moving.painted(scene, camera, tokens, ratio);
}

/** Repaints when the scene or the colors change. */
function useRepainting(redraw: () => void, scene: Scene) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: another scene is what there is to paint.
  useEffect(() => {
    redraw();
    const dark = window.matchMedia("(prefers-color-scheme: dark)");
    dark.addEventListener("change", redraw);
    document.fonts?.ready.then(redraw);
    return () => dark.removeEventListener("change", redraw);
  }, [redraw, scene]);
}

/** Gives the focus to the plate of a device once it is there. */
function useFocus(svg: React.RefObject<SVGSVGElement | null>, device: string | null) {
  useEffect(() => {
    if (device === null) return;
    svg.current?.querySelector<SVGAElement>(`[data-plate="${CSS.escape(device)}"] a`)?.focus();
  }, [svg, device]);
}

/** Dragging the background. Movements of a few pixels are a click. */
function usePressing(pan: (dx: number, dy: number) => void) {
  const held = useRef<{ x: number; y: number } | null>(null);
  const far = useRef(false);
  const latest = useRef(pan);
  latest.current = pan;
  useEffect(() => {
    const onMove = (event: PointerEvent) => {
      const from = held.current;
      if (!from) return;
      const [dx, dy] = [event.clientX - from.x, event.clientY - from.y];
      if (!far.current && Math.hypot(dx, dy) < 4) return;
      held.current = { x: event.clientX, y: event.clientY };
      far.current = true;
      latest.current(dx, dy);
    };
    const onUp = () => {
      held.current = null;
    };
    window.addEventListener("pointermove", onMove);
    window.addEventListener("pointerup", onUp);
    return () => {
      window.removeEventListener("pointermove", onMove);
      window.removeEventListener("pointerup", onUp);
    };
  }, []);
  return {
    start: (event: React.PointerEvent) => {
      if (event.button !== 0) return;
      far.current = false;
      held.current = { x: event.clientX, y: event.clientY };
    },
    /** Whether the ground has been dragged since it was last pressed. */
    moved: () => far.current,
  };
}

/** The plates that are there to be touched: pointed at, focused, and dragged. */
function platesShown(
  scene: Scene,
  pointed: Hit | null,
  focused: string | null,
  moving: { id: string; at: Point } | null,
): Plate[] {
  const ids = [pointed?.kind === "device" ? pointed.plate.device.id : null, focused, moving?.id ?? null];
  return [...new Set(ids)].flatMap((id): Plate[] => {
    const plate = id === null ? undefined : scene.plateOf.get(id);
    if (!plate) return [];
    const node = moving?.id === id ? { ...plate.node, ...moving.at } : plate.node;
    return [{ ...plate, node }];
  });
}

function keyOf(hit: Hit | null): string {
  if (!hit) return "";
  if (hit.kind === "device") return `device ${hit.plate.device.id} ${hit.plate.device.up}`;
  if (hit.kind === "link") return `link ${hit.line.key} ${hit.line.shown.down}`;
  return `site ${hit.sign.site.id}`;
}

function carriersOf(flow: FlowAnswer): ReadonlySet<number> {
  return new Set([...flow.now.carriers, ...(flow.standby?.carriers ?? [])]);
}
