import type { Point } from "../../drawing/types.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { FlowAnswer } from "../../queries/flows.ts";
import { ShieldShape, shieldLetter } from "../../ui/shield.tsx";
import type { Line } from "./line.ts";

const SIZE = 24;
/** How far from the plate a shield sits on its line. */
const AWAY = 30;

/** Each gateway's shield on its link: solid where it carries the chosen flow, outline where it does not. */
export function GatewayShields({
  lines,
  flow,
  only = null,
}: {
  lines: readonly Line[];
  flow: FlowAnswer | null;
  /** Those to show, by position; null for all. */
  only?: ReadonlySet<number> | null;
}) {
  const { frame } = usePlan();
  const carrying = new Set(flow?.now.carriers ?? frame.flows.flatMap((entry) => entry.carriers));
  return (
    <g pointerEvents="none">
      {frame.gateways.map((gateway, g) => {
        if (only && !only.has(g)) return null;
        const at = placeOf(lines, gateway.device, gateway.interface);
        if (!at) return null;
        return (
          <g key={gateway.id} transform={`translate(${at.x - SIZE / 2} ${at.y - SIZE / 2})`}>
            <title>{`Gateway ${shieldLetter(g)}: ${gateway.label}`}</title>
            <ShieldShape gateway={g} outline={!carrying.has(g)} />
          </g>
        );
      })}
    </g>
  );
}

function placeOf(lines: readonly Line[], device: string, name: string): Point | null {
  const line = lines.find(
    (entry) =>
      (entry.from === device || entry.to === device) &&
      entry.shown.ends.some((end) => end.device === device && end.interface === name),
  );
  if (!line || line.points.length < 2) return null;
  const points = line.from === device ? line.points : line.points.toReversed();
  let left = AWAY;
  for (let i = 1; i < points.length; i++) {
    const [a, b] = [points[i - 1], points[i]];
    const length = Math.hypot(b.x - a.x, b.y - a.y);
    if (left <= length || i === points.length - 1) {
      const part = Math.min(1, left / (length || 1));
      return { x: a.x + (b.x - a.x) * part, y: a.y + (b.y - a.y) * part };
    }
    left -= length;
  }
  return null;
}
