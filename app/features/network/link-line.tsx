import { Link } from "react-router";
import { middleOf, pathOf } from "../../drawing/lines.ts";
import type { Point } from "../../drawing/types.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { MapEnd, MapLink } from "../../queries/map.ts";
import { pageHref, toggleHref, withParam } from "../../search/links.ts";
import { MenuHere } from "../../ui/menu.tsx";
import { endsOn, type Line } from "./line.ts";

interface LinkLineProps {
  line: Line;
  pathname: string;
}

/** A link with the interface and address at each end; a click fails or restores it. */
export function LinkLine({ line, pathname }: LinkLineProps) {
  const { planId, params } = usePlan();
  const link = line.shown;
  if (line.points.length < 2) return null;
  const edits = params.has("edit");
  const anyDown = endsOn(line).some((end) => !end.up);
  const path = pathOf(line.points);
  const middle = middleOf(line.points);
  const ref = `link:${link.id}`;
  const items = [
    { text: `${link.down ? "Restore" : "Fail"} ${link.label}`, to: toggleHref(pathname, params, ref) },
    { text: "Impact of its failure", to: pageHref(planId, "timeline", params, { fail: ref }) },
    { text: "Edit", to: pageHref(planId, "map", params, { edit: ref }) },
  ];
  return (
    <MenuHere items={items}>
      <g>
        <Link
          to={
            edits
              ? withParam(params, "edit", `link:${link.id}`)
              : toggleHref(pathname, params, `link:${link.id}`)
          }
          aria-label={`${edits ? "Edit" : link.down ? "Restore" : "Fail"} ${link.label}`}
          preventScrollReset
          className="group"
        >
          <title>{linkDescription(link)}</title>
          <path d={path} fill="none" stroke="transparent" strokeWidth="16" />
          <path
            d={path}
            fill="none"
            stroke={link.down ? "var(--stop)" : "var(--iron)"}
            strokeWidth={link.medium === "circuit" ? 3 : 1.8}
            strokeDasharray={
              link.down ? "2 5" : anyDown ? "6 4" : link.medium === "circuit" ? "10 3" : undefined
            }
            className="group-hover:stroke-[4] group-focus-visible:stroke-[5]"
          />
          {link.down && <ClosedPlate at={middle} />}
        </Link>
      </g>
    </MenuHere>
  );
}

/** The interface and address at each end of a line, drawn over all lines. */
export function EndLabels({ line, scale }: { line: Line; scale: number }) {
  const { points, shown: link, trunk } = line;
  if (points.length < 2) return null;
  const shared = link.ends.length !== 2;
  // At folded lines stands what all of them rest on: up while any is.
  const ends = trunk
    ? link.ends.map((end, n) => ({
        ...end,
        text: trunk.texts[n],
        up: trunk.links.some((one) => isUp(one, end)),
      }))
    : link.ends;
  return (
    <>
      <EndLabel
        end={ends[shared ? line.part : 0]}
        at={points[0]}
        next={points[1]}
        laid={line.labels[0]}
        scale={scale}
      />
      {!shared && (
        <EndLabel
          end={ends[1]}
          at={points[points.length - 1]}
          next={points[points.length - 2]}
          laid={line.labels[1]}
          scale={scale}
        />
      )}
    </>
  );
}

/** Whether a link's end at the device of another end is up. */
function isUp(link: MapLink, { device }: MapEnd): boolean {
  return link.ends.some((end) => end.device === device && end.up);
}

export function linkDescription(link: MapLink): string {
  const ends = link.ends.map(
    (end) => `${end.device} ${end.interface} ${end.addresses.join(", ")}${end.up ? "" : " (down)"}`,
  );
  return `${link.down ? "Restore" : "Fail"} ${link.label} (${link.medium})\n${ends.join("\n")}`;
}

interface EndLabelProps {
  end: MapEnd;
  at: Point;
  next: Point;
  laid?: Point | null;
  scale: number;
}

/** The label size in units, and the size in pixels below which labels are unreadable and omitted. */
const UNITS = 15;
const MIN_PX = 7;

function EndLabel({ end, at, next, laid, scale }: EndLabelProps) {
  if (UNITS * scale < MIN_PX) return null;
  const vertical = Math.abs(next.x - at.x) < Math.abs(next.y - at.y);
  const down = next.y > at.y;
  const x = laid ? laid.x + 3 : vertical ? at.x + 5 : at.x + (next.x > at.x ? 6 : -6);
  const y = laid ? laid.y + 13 : vertical ? at.y + (down ? 14 : -6) : at.y - 5;
  const anchor = laid || vertical || next.x > at.x ? "start" : "end";
  const space = end.text.indexOf(" ");
  const name = space < 0 ? end.text : end.text.slice(0, space);
  return (
    <text
      x={x}
      y={y}
      textAnchor={anchor}
      fontSize={UNITS}
      fontFamily="var(--font-addr)"
      fill={end.up ? "var(--ink-2)" : "var(--stop)"}
      textDecoration={end.up ? undefined : "line-through"}
      stroke="var(--ground)"
      strokeWidth="3"
      paintOrder="stroke"
      pointerEvents="none"
    >
      <tspan fontWeight="600">{name}</tspan>
      {space >= 0 && end.text.slice(space)}
    </text>
  );
}

export function ClosedPlate({ at }: { at: Point }) {
  return (
    <g transform={`translate(${at.x - 15} ${at.y - 8})`}>
      <rect width="30" height="16" rx="2" fill="var(--panel)" stroke="var(--stop)" strokeWidth="2" />
      <path d="M2 14L12 2h6L8 14zM14 14L24 2h4v2L20 14z" fill="var(--stop)" />
    </g>
  );
}
