import { Link } from "react-router";
import type { RouteReport } from "../../../core/reports/index.ts";
import type { HopView, TripView, WayView } from "../../queries/flows.ts";
import { deviceHref } from "../../search/links.ts";
import { RoleSign } from "../../ui/plate.tsx";
import { PopoverBox } from "../../ui/popover.tsx";
import { Shield, shieldColour } from "../../ui/shield.tsx";
import { DropSign, endText } from "../../ui/verdict.tsx";
import { LinkedSentence } from "../linked-sentence.tsx";
import { usePlan } from "../open-plan.tsx";

interface LanesProps {
  trip: TripView;
  /** What to mark differences against, or null. */
  healthy: TripView | null;
  quiet?: boolean;
  /** The conditions for links, if they differ from the page's. */
  under?: URLSearchParams;
}

/** Two lanes of hops facing each other: out, and back in the other direction. */
export function Lanes({ trip, healthy, quiet, under }: LanesProps) {
  const colour = trip.carriers.length ? shieldColour(trip.carriers[0]) : "var(--iron)";
  const common = { colour, quiet, under };
  return (
    <div className="space-y-2">
      <Lane name="Forward" way={trip.outbound} was={healthy?.outbound ?? null} {...common} />
      {trip.reply ? (
        <Lane name="Return" way={trip.reply} was={healthy?.reply ?? null} back {...common} />
      ) : (
        <p className="pl-16 text-ink-2">No reply: the packet did not arrive.</p>
      )}
      {trip.ways > 1 && (
        <p className="pl-16 text-ink-2">The load is shared over {trip.ways} paths; the worst one is shown.</p>
      )}
    </div>
  );
}

interface LaneProps {
  name: string;
  way: WayView;
  was: WayView | null;
  colour: string;
  back?: boolean;
  quiet?: boolean;
  under?: URLSearchParams;
}

function Lane({ name, way, was, colour, back, quiet, under }: LaneProps) {
  const boxes = way.hops.map((hop, i) => (
    <HopBox
      // biome-ignore lint/suspicious/noArrayIndexKey: a device can stand twice in a lane, and the order is the identity.
      key={`${i} ${hop.device}`}
      hop={hop}
      drop={i === way.hops.length - 1 ? way.drop : null}
      ended={i === way.hops.length - 1 && way.result === "delivered"}
      changed={
        was !== null &&
        !was.hops.some(
          (h) =>
            h.device === hop.device &&
            h.match === hop.match &&
            h.nextHop === hop.nextHop &&
            h.out === hop.out,
        )
      }
      quiet={quiet}
      under={under}
    />
  ));
  return (
    <section aria-label={`${name} path`} className="flex items-stretch gap-3">
      <div className="flex w-[72px] shrink-0 items-center gap-2">
        <span
          className="h-full"
          style={back ? { borderLeft: `3px double ${colour}`, width: 6 } : { background: colour, width: 6 }}
        />
        <h3 className="text-ink-2">{name}</h3>
      </div>
      <ol className={`flex min-w-0 flex-1 gap-[18px] overflow-x-auto pb-1 ${back ? "flex-row-reverse" : ""}`}>
        {boxes.map((box, i) => (
          <li key={box.key} className="relative min-w-[124px] max-w-[210px] flex-1">
            {box}
            {i < boxes.length - 1 && (
              <span
                aria-hidden="true"
                className={`absolute top-4 text-ink-2 ${back ? "-left-[17px]" : "-right-[17px]"}`}
              >
                {back ? "←" : "→"}
              </span>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}

interface HopBoxProps {
  hop: HopView;
  drop: WayView["drop"];
  ended: boolean;
  changed: boolean;
  quiet?: boolean;
  under?: URLSearchParams;
}

function HopBox({ hop, drop, ended, changed, quiet, under }: HopBoxProps) {
  const { frame, planId, params: shown } = usePlan();
  const params = under ?? shown;
  const border = drop
    ? "border-stop bg-stop-soft"
    : changed
      ? "border-ink border-2 bg-chosen-soft"
      : ended
        ? "border-ink bg-panel"
        : "border-rule bg-panel";
  const soft = "text-ink-2";
  return (
    <div
      className={`h-full rounded-[3px] border px-2 py-1.5 text-[13px] leading-[18px] ${border} ${quiet ? "opacity-80" : ""}`}
    >
      <p className="flex items-center gap-1.5">
        <RoleSign role={hop.role} size={9} />
        <Link
          to={deviceHref(planId, hop.device, params, hop.match && !ended ? { lookup: hop.match } : {})}
          className="min-w-0 break-words font-semibold hover:underline"
        >
          {hop.label}
        </Link>
        {hop.gateway >= 0 && (
          <span className="ml-auto">
            <Shield gateway={hop.gateway} label={frame.gateways[hop.gateway].label} size={18} />
          </span>
        )}
      </p>
      {hop.vrf && <p className={soft}>VRF {hop.vrf}</p>}
      {ended && hop.out === null ? (
        <p className={soft}>arrives</p>
      ) : (
        <>
          {hop.match && <p className="addr break-all">{hop.match}</p>}
          {hop.route && <p className={`${soft} break-words`}>{actionWords(hop)}</p>}
          {/* A host that the plan does not draw takes it from here. */}
          {ended && <p className={soft}>arrives at an assumed host</p>}
        </>
      )}
      {hop.translated && (
        <p className={soft}>
          source translated to <span className="addr">{hop.translated}</span>
        </p>
      )}
      {drop && (
        <p className="mt-1 text-stop">
          <span className="flex items-center gap-1 font-semibold">
            <DropSign code={drop.code} size={15} />
            {endText(drop.code)}
          </span>
          <LinkedSentence text={drop.text} here={hop.device} />
        </p>
      )}
      {!quiet && hop.near.length > 0 && (
        <PopoverBox
          label="Less specific matches"
          trigger={
            <button
              type="button"
              className={`mt-0.5 text-left underline decoration-rule underline-offset-3 ${soft}`}
            >
              {hop.near.length === 1 ? "1 less specific match" : `${hop.near.length} less specific matches`}
            </button>
          }
        >
          <ul>
            {hop.near.map((route) => (
              <li
                key={`${route.to} ${route.via} ${route.out} ${route.source}`}
                className="border-rule border-t pt-0.5"
              >
                <span
                  className={`addr ${route.state === "unusable" || route.state === "disabled" ? "line-through" : ""}`}
                >
                  {route.to}
                </span>{" "}
                {nearWords(route)}
              </li>
            ))}
          </ul>
        </PopoverBox>
      )}
    </div>
  );
}

function actionWords(hop: HopView): string {
  const route = hop.route;
  if (!route) return "";
  if (route.discard) return route.discard === "drop" ? "discarded" : "rejected";
  if (route.toVrf) return `looked up in VRF ${route.toVrf}`;
  const way = hop.nextHop ? `via ${hop.nextHop}` : "attached";
  return `${way}, out ${hop.out ?? ""}${route.distance ? `, distance ${route.distance}` : ""}`;
}

function nearWords(route: RouteReport): string {
  const way = route.via ? `via ${route.via}` : (route.out ?? "");
  const why = route.reason?.text ?? (route.state === "in-use" ? "less specific" : route.state);
  return `${way}: ${why}`;
}
