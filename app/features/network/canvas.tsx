import { useQueryClient } from "@tanstack/react-query";
import { type RefObject, useMemo, useRef, useState } from "react";
import { useLocation } from "react-router";
import { type Edit, type Plan, settingsOf } from "../../../core/plan/index.ts";
import { lineOf, withPins } from "../../drawing/lines.ts";
import type { Drawing, NodeDrawing, Point } from "../../drawing/types.ts";
import { fetchDocument } from "../../plan/document.ts";
import { useEditing } from "../../plan/editing.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { FlowAnswer } from "../../queries/flows.ts";
import type { MapAnswer } from "../../queries/map.ts";
import { Button } from "../../ui/button.tsx";
import { keepFile } from "../../ui/keep-file.ts";
import { Menu } from "../../ui/menu.tsx";
import { Notice } from "../../ui/toast.tsx";
import { DevicePlate } from "./device-plate.tsx";
import { drawingAsPng, drawingAsSvg } from "./export-drawing.ts";
import { GatewayShields } from "./gateway-shields.tsx";
import { Legend } from "./legend.tsx";
import type { Line } from "./line.ts";
import { EndLabels, LinkLine } from "./link-line.tsx";
import { Ribbons, StandbyWay } from "./ribbons.tsx";
import { useDragging } from "./use-dragging.ts";
import { boxIn, useViewBox } from "./use-view-box.ts";

interface CanvasProps {
  answer: MapAnswer;
  drawing: Drawing;
  flow: FlowAnswer | null;
}

export function Canvas({ answer, drawing, flow }: CanvasProps) {
  const { page, params } = usePlan();
  const cache = useQueryClient();
  const { pathname } = useLocation();
  const svg = useRef<SVGSVGElement>(null);
  const [moving, setMoving] = useState<{ id: string; at: Point } | null>(null);
  const { save } = useEditing(page);

  const pins = useMemo(() => {
    const map = new Map(
      answer.devices.flatMap((device) => (device.place ? [[device.id, device.place] as const] : [])),
    );
    if (moving) map.set(moving.id, moving.at);
    return map;
  }, [answer.devices, moving]);
  const placed = useMemo(() => withPins(drawing, pins), [drawing, pins]);
  const nodes = useMemo(
    () => new Map(placed.nodes.map((node) => [`${node.kind}:${node.id}`, node])),
    [placed],
  );
  const lines = useMemo(() => linesOf(answer, placed, nodes, pins), [answer, placed, nodes, pins]);
  const box = useViewBox(svg, drawing, boxIn(params.get("part")));
  const drag = useDragging(svg, (id, at, done) => {
    if (!done) return setMoving({ id, at });
    setMoving(null);
    pin(id, at);
  });

  function pin(id: string, at: Point) {
    fetchDocument(cache, page).then((plan) => {
      const edit = pinEdit(plan, id, at);
      if (edit) save(edit);
    });
  }

  return (
    <>
      {/* biome-ignore lint/a11y/useSemanticElements: a drawing that holds links is a group, and no fieldset. */}
      <svg
        ref={svg}
        viewBox={box.viewBox}
        preserveAspectRatio="xMidYMid meet"
        className="absolute inset-0 h-full w-full touch-none select-none"
        aria-label="Drawing of the network"
        role="group"
        {...box.handlers}
      >
        {placed.sites.map((site) => (
          <SiteBox key={site.id} site={site} scale={box.scale} />
        ))}
        {flow?.standby && <StandbyWay lines={lines} trip={flow.standby} now={flow.now} />}
        {lines.map((line) => (
          <LinkLine key={line.key} line={line} answer={answer} pathname={pathname} />
        ))}
        {flow && <Ribbons lines={lines} trip={flow.now} />}
        {lines.map((line) => (
          <EndLabels key={line.key} line={line} answer={answer} scale={box.scale} />
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
        {answer.devices.map((device) => {
          const node = nodes.get(`device:${device.id}`);
          if (!node) return null;
          return (
            <DevicePlate
              key={device.id}
              device={device}
              node={node}
              onWay={isOnWay(flow, device.id)}
              pathname={pathname}
              onPointerDown={(event) => drag.start(event, node)}
            />
          );
        })}
        <GatewayShields lines={lines} answer={answer} flow={flow} />
        {isFar(box.scale) &&
          placed.sites.map((site) => (
            <SiteName key={site.id} site={site} scale={box.scale} onShow={() => box.show(site)} />
          ))}
      </svg>
      <MapControls box={box} svg={svg} drawing={drawing} />
    </>
  );
}

/** Below so many pixels to a unit the names on the plates are not read: the sites' names take their place. */
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

const siteText = (id: string) => id.replaceAll("-", " ").toUpperCase();

/** From afar a site is one sign; a click comes near. */
function SiteName({ site, scale, onShow }: { site: NodeDrawing; scale: number; onShow: () => void }) {
  const text = siteText(site.id);
  const size = 14 / scale;
  const width = text.length * size * 0.52 + size;
  const [x, y] = [site.x + site.width / 2, site.y + site.height / 2];
  return (
    // biome-ignore lint/a11y/useSemanticElements: a part of a drawing cannot be an HTML button.
    <g
      role="button"
      tabIndex={0}
      aria-label={`Zoom in on ${text.toLowerCase()}`}
      data-only-on-screen=""
      className="cursor-pointer"
      onClick={onShow}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        onShow();
      }}
    >
      <rect
        x={x - width / 2}
        y={y - size * 0.75}
        width={width}
        height={size * 1.5}
        rx={size * 0.2}
        fill="var(--panel)"
        stroke="var(--iron)"
        strokeWidth={1.2 / scale}
      />
      <text
        x={x}
        y={y + size * 0.35}
        textAnchor="middle"
        fontSize={size}
        fontFamily="var(--font-sign)"
        fontWeight="600"
        fill="var(--ink)"
      >
        {text}
      </text>
    </g>
  );
}

interface MapControlsProps {
  box: ReturnType<typeof useViewBox>;
  svg: RefObject<SVGSVGElement | null>;
  drawing: Drawing;
}

/** Zooming, what the signs mean, and the drawing to take along. */
function MapControls({ box, svg, drawing }: MapControlsProps) {
  const { page, params } = usePlan();
  const [told, setTold] = useState({ text: "", grave: false });
  const asSvg = () => (svg.current ? drawingAsSvg(svg.current, drawing) : "");
  const keepPng = () =>
    drawingAsPng(asSvg(), drawing).then(
      (picture) => keepFile("map.png", picture),
      ({ message }: Error) =>
        setTold({ text: `The picture could not be made: ${message}. Take the SVG instead.`, grave: true }),
    );
  /** With the revision, the conditions and the part of the drawing that are seen, whatever becomes of the plan. */
  const copyLink = () => {
    const pinned = new URLSearchParams(params);
    pinned.set("revision", String(page.revision));
    if (box.part) pinned.set("part", box.part);
    else pinned.delete("part");
    const address = `${location.origin}${location.pathname}?${pinned}`;
    return navigator.clipboard.writeText(address).then(
      () => setTold({ text: "The link is in the clipboard.", grave: false }),
      () => setTold({ text: `The clipboard cannot be written; the link is ${address}`, grave: true }),
    );
  };
  return (
    <div className="absolute bottom-3 left-3 flex gap-1">
      <Button onClick={box.closer} aria-label="Zoom in">
        +
      </Button>
      <Button onClick={box.farther} aria-label="Zoom out">
        −
      </Button>
      <Button onClick={box.whole}>Fit</Button>
      <Legend />
      <Menu
        trigger={<Button>Export</Button>}
        items={[
          { text: "Drawing as SVG", run: () => keepFile("map.svg", asSvg(), "image/svg+xml") },
          { text: "Picture as PNG", run: () => void keepPng() },
          { text: "Link to this view", run: () => void copyLink() },
        ]}
      />
      <Notice
        text={told.text}
        grave={told.grave}
        open={told.text !== ""}
        onOpenChange={() => setTold({ text: "", grave: false })}
      />
    </div>
  );
}

function isOnWay(flow: FlowAnswer | null, device: string): boolean {
  const ends = flow ? [flow.now.outbound.hops.at(0)?.device, flow.now.outbound.hops.at(-1)?.device] : [];
  return ends.includes(device);
}

function linesOf(
  answer: MapAnswer,
  placed: Drawing,
  nodes: ReadonlyMap<string, NodeDrawing>,
  pins: ReadonlyMap<string, Point>,
): Line[] {
  const links = new Map(answer.links.map((link) => [link.id, link]));
  return placed.edges.flatMap((edge) => {
    const link = links.get(edge.link);
    if (!link) return [];
    const shared = link.ends.length !== 2;
    const from = link.ends[shared ? edge.part : 0]?.device;
    const to = shared ? null : link.ends[1].device;
    if (!from) return [];
    const a = nodes.get(`device:${from}`);
    const b = nodes.get(to === null ? `link:${link.id}` : `device:${to}`);
    const moved = pins.has(from) || (to !== null && pins.has(to));
    return [
      {
        key: `${edge.link} ${edge.part}`,
        link: edge.link,
        part: edge.part,
        points: lineOf(edge, a, b, moved),
        labels: moved ? [] : edge.labels,
        from,
        to,
      },
    ];
  });
}

/** The edit that pins a device's plate at a place. */
function pinEdit(plan: Plan, id: string, at: Point): Edit | null {
  const device = plan.devices.find((entry) => entry.id === id);
  if (!device) return null;
  const before = settingsOf(device);
  const after = { ...before, place: { x: Math.round(at.x), y: Math.round(at.y) } };
  const label = `Pin ${device.label ?? id} on the map`;
  return { label, changes: [{ in: "device-settings", device: id, before, after }] };
}
