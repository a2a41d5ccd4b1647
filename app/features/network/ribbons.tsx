import { beside, pathOf } from "../../drawing/lines.ts";
import type { Point } from "../../drawing/types.ts";
import type { HopView, TripView, WayView } from "../../queries/flows.ts";
import { shieldColour } from "../../ui/shield.tsx";
import type { Line } from "./line.ts";

/** The pieces of line that a hop takes, in its direction. A shared segment has one piece in and one out. */
function piecesOf(lines: readonly Line[], hop: HopView): Point[][] {
  if (!hop.link || !hop.to) return [];
  const own = lines.filter((line) => line.link === hop.link);
  const pieces: Point[][] = [];
  for (const line of own) {
    if (line.to !== null) {
      if (line.from === hop.device && line.to === hop.to) pieces.push(line.points);
      else if (line.to === hop.device && line.from === hop.to) pieces.push(line.points.toReversed());
      continue;
    }
    if (line.from === hop.device) pieces.unshift(line.points);
    else if (line.from === hop.to) pieces.push(line.points.toReversed());
  }
  return pieces;
}

const OUT_OFFSET = 5;
const BACK_OFFSET = 4;

/** The flow as two ribbons: out, and a thinner one back beside it, so that asymmetry shows. */
export function Ribbons({ lines, trip }: { lines: readonly Line[]; trip: TripView }) {
  const colour = trip.carriers.length ? shieldColour(trip.carriers[0]) : "var(--ink)";
  return (
    <g pointerEvents="none" data-testid="ribbons">
      <Ribbon lines={lines} way={trip.outbound} colour={colour} width={5} offset={OUT_OFFSET} name="out" />
      {trip.reply && (
        <Ribbon
          lines={lines}
          way={trip.reply}
          colour={colour}
          width={2.5}
          offset={BACK_OFFSET}
          dash="6 4"
          name="back"
        />
      )}
    </g>
  );
}

interface RibbonProps {
  lines: readonly Line[];
  way: WayView;
  colour: string;
  width: number;
  offset: number;
  dash?: string;
  name: string;
}

function Ribbon({ lines, way, colour, width, offset, dash, name }: RibbonProps) {
  return (
    <>
      {way.hops.flatMap((hop) =>
        piecesOf(lines, hop).map((points) => {
          const moved = beside(points, offset);
          return (
            <path
              key={`${name} ${hop.device} ${hop.vrf} ${hop.link} ${points[0].x} ${points[0].y}`}
              data-ribbon={name}
              data-link={hop.link}
              d={pathOf(moved)}
              fill="none"
              stroke={colour}
              strokeWidth={width}
              strokeDasharray={dash}
              strokeLinecap="round"
              className="transition-[stroke] duration-200"
            />
          );
        }),
      )}
    </>
  );
}

/** The way that would take over, faint, where it leaves the present one. */
export function StandbyWay({ lines, trip, now }: { lines: readonly Line[]; trip: TripView; now: TripView }) {
  const used = new Set(now.outbound.hops.map((hop) => hop.link));
  return (
    <g pointerEvents="none" opacity="0.35">
      {trip.outbound.hops
        .filter((hop) => !used.has(hop.link))
        .flatMap((hop) =>
          piecesOf(lines, hop).map((points) => (
            <path
              key={`${hop.device} ${hop.link}`}
              d={pathOf(beside(points, OUT_OFFSET))}
              fill="none"
              stroke={trip.carriers.length ? shieldColour(trip.carriers[0]) : "var(--iron)"}
              strokeWidth="5"
              strokeDasharray="1 7"
              strokeLinecap="round"
            />
          )),
        )}
    </g>
  );
}
