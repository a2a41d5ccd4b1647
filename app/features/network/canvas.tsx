import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { useLocation } from "react-router";
import { type Edit, type Plan, settingsOf } from "../../../core/plan/index.ts";
import { lineOf, withPins } from "../../drawing/lines.ts";
import type { Drawing, NodeDrawing, Point } from "../../drawing/types.ts";
import { fetchDocument } from "../../plan/document.ts";
import { useEditing } from "../../plan/editing.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { FlowAnswer } from "../../queries/flows.ts";
import type { MapAnswer } from "../../queries/map.ts";
import { DevicePlate } from "./device-plate.tsx";
import { GatewayShields } from "./gateway-shields.tsx";
import type { Line } from "./line.ts";
import { EndLabels, LinkLine } from "./link-line.tsx";
import { Ribbons, StandbyWay } from "./ribbons.tsx";
import { useDragging } from "./use-dragging.ts";
import { useViewBox } from "./use-view-box.ts";

interface CanvasProps {
  answer: MapAnswer;
  drawing: Drawing;
  flow: FlowAnswer | null;
}

export function Canvas({ answer, drawing, flow }: CanvasProps) {
  const { page } = usePlan();
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
  const box = useViewBox(svg, drawing);
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
          <g key={site.id}>
            <rect x={site.x} y={site.y} width={site.width} height={site.height} rx="4" fill="var(--sunk)" />
            <text
              x={site.x + 8}
              y={site.y + 14}
              fontSize="13"
              fontFamily="var(--font-sign)"
              fontWeight="600"
              fill="var(--ink-2)"
              letterSpacing="0.8"
            >
              {site.id.replaceAll("-", " ").toUpperCase()}
            </text>
          </g>
        ))}
        {flow?.standby && <StandbyWay lines={lines} trip={flow.standby} now={flow.now} />}
        {lines.map((line) => (
          <LinkLine key={line.key} line={line} answer={answer} pathname={pathname} />
        ))}
        {flow && <Ribbons lines={lines} trip={flow.now} />}
        {lines.map((line) => (
          <EndLabels key={line.key} line={line} answer={answer} />
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
      </svg>
      <div className="absolute bottom-3 left-3 flex gap-1">
        <button type="button" className="button" onClick={box.closer} aria-label="Closer">
          +
        </button>
        <button type="button" className="button" onClick={box.farther} aria-label="Farther">
          −
        </button>
        <button type="button" className="button" onClick={box.whole}>
          Whole
        </button>
      </div>
    </>
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
