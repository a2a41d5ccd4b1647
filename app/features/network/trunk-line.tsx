import { Link } from "react-router";
import { middleOf, pathOf } from "../../drawing/lines.ts";
import type { Point } from "../../drawing/types.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { MapAnswer, MapLink } from "../../queries/map.ts";
import { toggleHref } from "../../search/links.ts";
import { openHref } from "../../search/opened.ts";
import { MenuHere } from "../../ui/menu.tsx";
import type { Line } from "./line.ts";
import { ClosedPlate, linkDescription } from "./link-line.tsx";

interface TrunkLineProps {
  line: Line;
  trunk: NonNullable<Line["trunk"]>;
  pathname: string;
}

/** Several links between the same two interfaces as one line with their number; a click draws them one by one. */
export function TrunkLine({ line, trunk, pathname }: TrunkLineProps) {
  const { params } = usePlan();
  if (line.points.length < 2) return null;
  const { links, name } = trunk;
  const down = links.filter((link) => link.down).length;
  const lame = links.some((link) => link.ends.some((end) => !end.up));
  const path = pathOf(line.points);
  const whole = `${nameOf(links)}${down > 0 ? `, ${down} of ${links.length} down` : ""}`;
  const items = [
    { text: `Open ${nameOf(links)}`, to: openHref(params, name, true) },
    ...links.map(({ id, label, down: isDown }) => ({
      text: `${isDown ? "Restore" : "Fail"} ${label}`,
      to: toggleHref(pathname, params, `link:${id}`),
    })),
  ];
  const stroke = down === links.length ? "var(--stop)" : "var(--iron)";
  const dashes = down === links.length ? "2 5" : lame ? "6 4" : undefined;
  return (
    <MenuHere items={items}>
      <Link
        to={openHref(params, name, true)}
        aria-label={`Open ${whole}`}
        preventScrollReset
        className="group"
        data-trunk={name}
      >
        <title>{`Open ${whole}\n${links.map(linkDescription).join("\n")}`}</title>
        <path d={path} fill="none" stroke="transparent" strokeWidth="16" />
        <path
          d={path}
          fill="none"
          stroke={stroke}
          strokeWidth="6"
          strokeDasharray={dashes}
          className="group-hover:stroke-[8] group-focus-visible:stroke-[9]"
        />
        <path d={path} fill="none" stroke="var(--ground)" strokeWidth="2.4" />
      </Link>
    </MenuHere>
  );
}

/** What several lines are called together: by their first, and how many there are. */
function nameOf(links: readonly MapLink[]): string {
  return `${links.length} lines: ${links.map(({ label }) => label).join(", ")}`;
}

/** The number of lines in each folded group, and how many are up, above the flows' ribbons. */
export function TrunkCounts({ lines }: { lines: readonly Line[] }) {
  return (
    <g pointerEvents="none">
      {lines.map(({ key, trunk, points }) => {
        if (!trunk || points.length < 2) return null;
        const { links, name } = trunk;
        const up = links.filter((link) => !link.down).length;
        const at = middleOf(points);
        if (up === 0) return <ClosedPlate key={key} at={at} />;
        const text = up < links.length ? `${up}/${links.length}` : String(up);
        return <Count key={key} at={at} text={text} of={name} />;
      })}
    </g>
  );
}

function Count({ at, text, of }: { at: Point; text: string; of: string }) {
  const width = 12 + 8 * text.length;
  return (
    <g transform={`translate(${at.x - width / 2} ${at.y - 9})`} data-lines-left={of}>
      <rect width={width} height="18" rx="3" fill="var(--panel)" stroke="var(--iron)" strokeWidth="1.5" />
      <text
        x={width / 2}
        y="13.5"
        textAnchor="middle"
        fontSize="14"
        fontWeight="600"
        fontFamily="var(--font-sign)"
        fill="var(--ink)"
      >
        {text}
      </text>
    </g>
  );
}

/** Where lines were opened, a sign on the first that folds them again. */
export function FoldTrunks({ answer, lines }: { answer: MapAnswer; lines: readonly Line[] }) {
  const { params } = usePlan();
  return answer.trunks.map((trunk) => {
    const first = lines.find((line) => line.link === trunk.links[0]);
    if (!first || first.trunk || first.points.length < 2) return null;
    const at = middleOf(first.points);
    const links = trunk.links.flatMap((id) => answer.links.filter((link) => link.id === id));
    return (
      <Link
        key={trunk.name}
        to={openHref(params, trunk.name, false)}
        aria-label={`Fold ${nameOf(links)}`}
        preventScrollReset
        data-only-on-screen=""
      >
        <title>{`Fold ${nameOf(links)}`}</title>
        <rect
          x={at.x - 8}
          y={at.y - 8}
          width="16"
          height="16"
          rx="3"
          fill="var(--panel)"
          stroke="var(--iron)"
          strokeWidth="1.5"
        />
        <path d={`M${at.x - 4} ${at.y}h8`} stroke="var(--iron)" strokeWidth="2" />
      </Link>
    );
  });
}
