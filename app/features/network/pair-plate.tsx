import { Link } from "react-router";
import type { NodeDrawing } from "../../drawing/types.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { MapDevice, MapPair } from "../../queries/map.ts";
import { deviceHref, toggleHref } from "../../search/links.ts";
import { openHref } from "../../search/opened.ts";
import { MenuHere } from "../../ui/menu.tsx";
import { plateOutline } from "../../ui/plate.tsx";

interface PairPlateProps {
  pair: MapPair;
  /** Its members, in their order. */
  members: readonly MapDevice[];
  node: NodeDrawing;
  onWay: boolean;
  pathname: string;
  onPointerDown: (event: React.PointerEvent) => void;
}

const MARK = 8;

/** A pair on the map: two stacked plates that open on click; a mark per member shows which one is active. */
export function PairPlate({ pair, members, node, onWay, pathname, onPointerDown }: PairPlateProps) {
  const { planId, params } = usePlan();
  const { width: w, height: h } = node;
  const alive = members.some(({ up }) => up);
  const items = [
    { text: `Open ${pair.label}`, to: openHref(params, pair.id, true) },
    ...members.map(({ id, label, up }) => ({
      text: `${up ? "Fail" : "Restore"} ${label}`,
      to: toggleHref(pathname, params, `device:${id}`),
    })),
    ...members.map(({ id, label }) => ({ text: `Routes of ${label}`, to: deviceHref(planId, id, params) })),
  ];
  const status = members.map((member) => `${member.label} ${stateText(pair, member)}`).join(", ");
  const outline = plateOutline(members[0]?.role ?? "firewall", w, h);
  const stroke = alive ? "var(--iron)" : "var(--stop)";
  return (
    <MenuHere items={items}>
      <g transform={`translate(${node.x} ${node.y})`} onPointerDown={onPointerDown}>
        <path d={outline} transform="translate(4 -4)" fill="var(--panel)" stroke={stroke} strokeWidth="1.5" />
        <Link
          to={openHref(params, pair.id, true)}
          aria-label={`Open the pair ${pair.label}: ${status}`}
          preventScrollReset
          draggable={false}
          className="group"
        >
          <title>{`Open ${pair.label}: ${status}`}</title>
          <path
            d={outline}
            fill={onWay ? "var(--chosen)" : "var(--panel)"}
            stroke={stroke}
            strokeWidth="2"
            strokeDasharray={alive ? undefined : "5 4"}
            fillRule="evenodd"
            className="group-hover:stroke-[3] group-focus-visible:stroke-[4]"
          />
          <text
            x={w / 2}
            y={h / 2 + 3}
            textAnchor="middle"
            fontSize="19"
            fontWeight="600"
            fontFamily="var(--font-sign)"
            fill={onWay ? "var(--chosen-ink)" : alive ? "var(--ink)" : "var(--stop)"}
          >
            {pair.label}
          </text>
          {members.map((member, n) => (
            <Mark
              key={member.id}
              x={w / 2 + (n === 0 ? -MARK - 2 : 2)}
              y={h - MARK - 3}
              state={stateText(pair, member)}
            />
          ))}
        </Link>
      </g>
    </MenuHere>
  );
}

type MemberState = "is active" | "is standby" | "is down";

function stateText({ active }: MapPair, { id, up }: MapDevice): MemberState {
  if (!up) return "is down";
  return active.includes(id) ? "is active" : "is standby";
}

/** Filled for the active member, outlined for the standby, crossed for one that is down. */
function Mark({ x, y, state }: { x: number; y: number; state: MemberState }) {
  const down = state === "is down";
  const colour = down ? "var(--stop)" : "var(--iron)";
  return (
    <g>
      <rect
        x={x}
        y={y}
        width={MARK}
        height={MARK}
        fill={state === "is active" ? colour : "none"}
        stroke={colour}
        strokeWidth="1.5"
      />
      {down && <path d={`M${x} ${y + MARK}l${MARK} ${-MARK}`} stroke={colour} strokeWidth="1.5" />}
    </g>
  );
}

/** Folds a pair that was opened, at the plate of one of its members. */
export function FoldPair({ pair, node }: { pair: MapPair; node: NodeDrawing }) {
  const { params } = usePlan();
  const size = 16;
  return (
    <Link
      to={openHref(params, pair.id, false)}
      aria-label={`Fold the pair ${pair.label}`}
      preventScrollReset
      draggable={false}
      data-only-on-screen=""
    >
      <title>{`Fold ${pair.label}`}</title>
      <rect
        x={node.x + node.width - size / 2}
        y={node.y - size / 2}
        width={size}
        height={size}
        rx="3"
        fill="var(--panel)"
        stroke="var(--iron)"
        strokeWidth="1.5"
      />
      <path d={`M${node.x + node.width - 4} ${node.y}h8`} stroke="var(--iron)" strokeWidth="2" />
    </Link>
  );
}
