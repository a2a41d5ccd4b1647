import { Fragment, useMemo, useRef, useState } from "react";
import { useLocation } from "react-router";
import { withPins } from "../../drawing/lines.ts";
import type { Drawing, NodeDrawing, Point } from "../../drawing/types.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { FlowAnswer } from "../../queries/flows.ts";
import type { MapAnswer } from "../../queries/map.ts";
import { keepFile } from "../../ui/keep-file.ts";
import { DevicePlate } from "./device-plate.tsx";
import { DrawnButton } from "./drawn-button.tsx";
import { drawingAsPng, drawingAsSvg } from "./export-drawing.ts";
import { GatewayShields } from "./gateway-shields.tsx";
import { downIn, linesOf, pinsOf } from "./line.ts";
import { EndLabels, LinkLine } from "./link-line.tsx";
import { MapControls } from "./map-controls.tsx";
import { FoldPair, PairPlate } from "./pair-plate.tsx";
import { Ribbons, StandbyWay } from "./ribbons.tsx";
import { placeSigns } from "./sign-places.ts";
import { siteText } from "./site-text.ts";
import { FoldTrunks, TrunkCounts, TrunkLine } from "./trunk-line.tsx";
import { useDragging } from "./use-dragging.ts";
import { usePinning } from "./use-pinning.ts";
import { boxIn, FOOT, useViewBox } from "./use-view-box.ts";

interface CanvasProps {
  answer: MapAnswer;
  drawing: Drawing;
  flow: FlowAnswer | null;
}

export function Canvas({ answer, drawing, flow }: CanvasProps) {
  const { params } = usePlan();
  const { pathname } = useLocation();
  const svg = useRef<SVGSVGElement>(null);
  const [moving, setMoving] = useState<{ id: string; at: Point } | null>(null);
  const pin = usePinning();

  const pins = useMemo(() => {
    const map = pinsOf(answer);
    if (moving) map.set(moving.id, moving.at);
    return map;
  }, [answer, moving]);
  const placed = useMemo(() => withPins(drawing, pins), [drawing, pins]);
  const nodes = useMemo(
    () => new Map(placed.nodes.map((node) => [`${node.kind}:${node.id}`, node])),
    [placed],
  );
  const lines = useMemo(() => linesOf(answer, placed, nodes, pins), [answer, placed, nodes, pins]);
  const drawn = useMemo(() => lines.filter(({ hidden }) => !hidden), [lines]);
  const box = useViewBox(svg, drawing, boxIn(params.get("part")));
  const drag = useDragging(svg, (id, at, done) => {
    if (!done) return setMoving({ id, at });
    setMoving(null);
    pin(id, at);
  });

  const asSvg = () => (svg.current ? drawingAsSvg(svg.current, drawing) : "");

  return (
    <>
      {/* biome-ignore lint/a11y/useSemanticElements: a drawing that holds links is a group, and no fieldset. */}
      <svg
        ref={svg}
        viewBox={box.viewBox}
        preserveAspectRatio="xMidYMid meet"
        // Content moved to the bottom may extend below the buttons.
        className="absolute inset-x-0 top-0 w-full touch-none select-none overflow-visible"
        style={{ height: `calc(100% - ${FOOT}px)` }}
        aria-label="Network map"
        role="group"
        data-map-ready=""
        data-down={downIn(answer)}
        {...box.handlers}
      >
        {placed.sites.map((site) => (
          <SiteBox key={site.id} site={site} scale={box.scale} />
        ))}
        {flow?.standby && <StandbyWay lines={lines} trip={flow.standby} now={flow.now} />}
        {drawn.map((line) =>
          line.trunk ? (
            <TrunkLine key={line.key} line={line} trunk={line.trunk} pathname={pathname} />
          ) : (
            <LinkLine key={line.key} line={line} pathname={pathname} />
          ),
        )}
        {flow && <Ribbons lines={lines} trip={flow.now} />}
        <TrunkCounts lines={drawn} />
        {!params.has("edit") && <FoldTrunks answer={answer} lines={drawn} />}
        {drawn.map((line) => (
          <EndLabels key={line.key} line={line} scale={box.scale} />
        ))}
        {placed.nodes
          .filter((node) => node.kind === "link")
          .map((node) => (
            <rect
              key={node.id}
              x={node.x}
              y={node.y}
              width={node.width}
              height={node.height}
              rx="2"
              fill="var(--iron)"
            />
          ))}
        <Plates answer={answer} nodes={nodes} flow={flow} onPointerDown={drag.start} />
        <GatewayShields lines={lines} flow={flow} />
        {isFar(box.scale) && <SiteNames {...placed} scale={box.scale} onShow={box.show} />}
      </svg>
      <MapControls
        box={box}
        exports={{
          svg: () => keepFile("map.svg", asSvg(), "image/svg+xml"),
          png: () => drawingAsPng(asSvg(), drawing),
        }}
      />
    </>
  );
}

interface PlatesProps {
  answer: MapAnswer;
  nodes: ReadonlyMap<string, NodeDrawing>;
  flow: FlowAnswer | null;
  onPointerDown: (event: React.PointerEvent, node: NodeDrawing) => void;
}

/** A plate for each device; a folded pair has one, and an opened one a sign that folds it. */
function Plates({ answer, nodes, flow, onPointerDown }: PlatesProps) {
  const { params } = usePlan();
  const { pathname } = useLocation();
  const edits = params.has("edit");
  return answer.devices.map((device) => {
    const node = nodes.get(`device:${device.id}`);
    if (!node || node.plate !== undefined) return null;
    const pair = answer.pairs.find(({ members }) => members.includes(device.id));
    const shared = {
      node,
      pathname,
      onPointerDown: (event: React.PointerEvent) => onPointerDown(event, node),
    };
    if (!pair || node.pair !== pair.id)
      return (
        <Fragment key={device.id}>
          <DevicePlate device={device} onWay={isOnWay(flow, device.id)} {...shared} />
          {pair && !edits && <FoldPair pair={pair} node={node} />}
        </Fragment>
      );
    const members = pair.members.flatMap((id) => answer.devices.filter((one) => one.id === id));
    const onWay = pair.members.some((id) => isOnWay(flow, id));
    return <PairPlate key={device.id} pair={pair} members={members} onWay={onWay} {...shared} />;
  });
}

/** Below this scale in pixels per unit the plates' names are unreadable and the sites' names replace them. */
const FAR = 0.36;
const isFar = (scale: number) => scale < FAR;

/** A site's ground, with its name where the plates' own names can be read. */
function SiteBox({ site, scale }: { site: NodeDrawing; scale: number }) {
  return (
    <g>
      <rect x={site.x} y={site.y} width={site.width} height={site.height} rx="4" fill="var(--sunk)" />
      {!isFar(scale) && (
        <text
          x={site.x + 8}
          y={site.y + 15}
          fontSize="15"
          fontFamily="var(--font-sign)"
          fontWeight="600"
          fill="var(--ink-2)"
          letterSpacing="0.8"
        >
          {siteText(site.id)}
        </text>
      )}
    </g>
  );
}

interface SiteNamesProps {
  sites: readonly NodeDrawing[];
  nodes: readonly NodeDrawing[];
  scale: number;
  onShow: (site: NodeDrawing) => void;
}

/** From afar a site has a sign beside its plates; a click comes near. */
function SiteNames({ sites, nodes, scale, onShow }: SiteNamesProps) {
  const places = placeSigns(
    sites.map((site) => ({ ...site, text: siteText(site.id) })),
    nodes.filter((node) => node.kind === "device"),
    scale,
  );
  return sites.map((site) => {
    const place = places.get(site.id);
    const text = siteText(site.id);
    return (
      place && (
        <DrawnButton
          key={site.id}
          label={`Zoom in on ${text.toLowerCase()}`}
          data-only-on-screen=""
          onPress={() => onShow(site)}
        >
          <rect
            x={place.x}
            y={place.y}
            width={place.width}
            height={place.height}
            rx={place.size * 0.2}
            fill="var(--panel)"
            stroke="var(--iron)"
            strokeWidth={1.2 / scale}
          />
          <text
            x={place.x + place.width / 2}
            y={place.y + place.height / 2 + place.size * 0.35}
            textAnchor="middle"
            fontSize={place.size}
            fontFamily="var(--font-sign)"
            fontWeight="600"
            fill="var(--ink)"
          >
            {text}
          </text>
        </DrawnButton>
      )
    );
  });
}

export function isOnWay(flow: FlowAnswer | null, device: string): boolean {
  const ends = flow ? [flow.now.outbound.hops.at(0)?.device, flow.now.outbound.hops.at(-1)?.device] : [];
  return ends.includes(device);
}
