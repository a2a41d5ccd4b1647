import { useVirtualizer } from "@tanstack/react-virtual";
import { CirclePause, CirclePlay, ListTree, Pencil, Trash2 } from "lucide-react";
import { memo, type RefObject, useMemo, useRef } from "react";
import { Link } from "react-router";
import type { CandidateView, DeviceAnswer, Stack } from "../../queries/device.ts";
import { deviceHref } from "../../search/links.ts";
import { Shield } from "../../ui/shield.tsx";
import { StatePill } from "../../ui/state-pill.tsx";
import { Tip } from "../../ui/tooltip.tsx";
import { LinkedSentence } from "../linked-sentence.tsx";
import { usePlan } from "../open-plan.tsx";

interface StacksProps {
  answer: DeviceAnswer;
  stacks: Stack[];
  shown: (candidate: CandidateView) => boolean;
  busy: boolean;
  onEdit?: (candidate: CandidateView) => void;
  onBeside?: (candidate: CandidateView) => void;
  onSwitch?: (candidate: CandidateView) => void;
  onRemove?: (candidate: CandidateView) => void;
}

const matchWords = {
  longest: "longest match",
  holds: "matches",
  exact: "exact match",
  inside: "more specific",
  none: "does not match",
};

const columns = [
  { text: "destination", looks: "py-1 pl-4" },
  { text: "state", looks: "" },
  { text: "source", looks: "" },
  { text: "next hop", looks: "" },
  { text: "interface", looks: "" },
  { text: "distance", looks: "pr-3 text-right" },
  { text: "metric", looks: "pr-4 text-right" },
  { text: "reason", looks: "w-full" },
];

/** Destinations from less to more specific, one line a route, the candidates of one in the order of preference. */
export function Stacks(props: StacksProps) {
  const { stacks, shown, answer } = props;
  const visible = useMemo(
    () =>
      stacks
        .map((stack) => ({ ...stack, candidates: stack.candidates.filter(shown) }))
        .filter((stack) => stack.candidates.length > 0 && !(answer.lookup?.answer && stack.match === "none")),
    [stacks, shown, answer.lookup],
  );
  const narrowed = stacks.length - visible.length;
  const table = useRef<HTMLTableElement>(null);
  const sight = useInSight(visible.length, table);
  return (
    <table
      ref={table}
      aria-rowcount={sight.all ? undefined : visible.length + 1}
      className="w-full min-w-[760px] border-collapse text-left text-[13px] leading-[18px]"
    >
      <thead className="sticky top-0 z-[1] bg-ground text-ink-2">
        <tr className="border-rule border-b">
          {columns.map(({ text, looks }) => (
            <th key={text} className={`whitespace-nowrap pr-2 font-normal ${looks}`}>
              {text}
            </th>
          ))}
          <th className={props.onEdit ? "w-[104px]" : "w-0"}>
            <span className="sr-only">edit</span>
          </th>
        </tr>
      </thead>
      <Gap height={sight.before} />
      {sight.places.map((place) => (
        <StackRows
          key={visible[place].to}
          stack={visible[place]}
          place={place}
          measure={sight.measure}
          {...props}
        />
      ))}
      <Gap height={sight.after} />
      {visible.length === 0 && (
        <tbody>
          <tr>
            <td colSpan={9} className="px-4 py-6 text-[14px] text-ink-2">
              {stacks.length === 0
                ? "No routes: the device has no interface address in this VRF. Add an interface address first."
                : `The filters above hide all ${narrowed} destinations.`}
            </td>
          </tr>
        </tbody>
      )}
    </table>
  );
}

/** Up to this number all destinations are drawn, so that the browser's own search finds them. */
const ALL_DRAWN = 150;
const LINE_HEIGHT = 25;

/** Which destinations are visible in the scrolling parent, and the heights of the others. */
function useInSight(count: number, table: RefObject<HTMLTableElement | null>) {
  const all = count <= ALL_DRAWN;
  const virtual = useVirtualizer({
    count: all ? 0 : count,
    getScrollElement: () => table.current?.closest<HTMLElement>("[data-scrolls]") ?? null,
    estimateSize: () => LINE_HEIGHT,
    overscan: 15,
    initialRect: { width: 1000, height: 700 },
  });
  if (all) {
    return {
      all,
      places: Array.from({ length: count }, (_, i) => i),
      before: 0,
      after: 0,
      measure: undefined,
    };
  }
  const items = virtual.getVirtualItems();
  return {
    all,
    places: items.map((item) => item.index),
    before: items[0]?.start ?? 0,
    after: virtual.getTotalSize() - (items.at(-1)?.end ?? 0),
    measure: virtual.measureElement,
  };
}

function Gap({ height }: { height: number }) {
  return height > 0 ? (
    <tbody aria-hidden="true">
      <tr style={{ height }}>
        <td colSpan={9} />
      </tr>
    </tbody>
  ) : null;
}

interface StackRowsProps extends StacksProps {
  stack: Stack;
  /** Which of those shown it is. */
  place: number;
  measure: ((body: HTMLElement | null) => void) | undefined;
}

/** Drawn anew only where something of it changes: scrolling and a growing editor leave the lines alone. */
const StackRows = memo(function StackRows({ stack, place, measure, ...props }: StackRowsProps) {
  const chosen = stack.match === "longest" || stack.match === "exact";
  return (
    <tbody
      ref={measure}
      data-index={place}
      className={`border-rule border-b ${chosen ? "border-y-2 border-y-ink bg-chosen-soft" : ""}`}
      data-destination={stack.to}
    >
      {stack.candidates.map((candidate, n) => (
        <CandidateRow
          key={`${candidate.source} ${candidate.via} ${candidate.out} ${candidate.position}`}
          candidate={candidate}
          stack={stack}
          first={n === 0}
          {...props}
        />
      ))}
    </tbody>
  );
});

interface CandidateRowProps extends StacksProps {
  candidate: CandidateView;
  stack: Stack;
  /** The one that is preferred over the others: it names the destination for all of them. */
  first: boolean;
}

function CandidateRow({ candidate, stack, first, answer, ...doing }: CandidateRowProps) {
  const { planId, params } = usePlan();
  const out = candidate.state === "unusable" || candidate.state === "disabled";
  const strikeClass = out ? "text-ink-3 line-through" : "";
  return (
    <tr className="align-top" data-state={candidate.state}>
      <th scope="row" className="py-[3px] pr-2 pl-4 font-normal">
        {first ? (
          <>
            <Link
              to={deviceHref(planId, answer.device.id, params, { lookup: stack.to })}
              className="addr whitespace-nowrap font-semibold text-[14px]"
            >
              {stack.to}
            </Link>
            {stack.match && <span className="block text-ink-2">{matchWords[stack.match]}</span>}
          </>
        ) : (
          <span className="sr-only">{stack.to}</span>
        )}
      </th>
      <td className="whitespace-nowrap py-[2px] pr-2">
        <StatePill state={candidate.state} />
        {candidate.draft && (
          <span className="block font-semibold text-[12px] text-warn leading-[15px]">
            {candidate.draft} in the draft
          </span>
        )}
      </td>
      <td className="whitespace-nowrap py-[3px] pr-3">{candidate.source}</td>
      <td className={`addr whitespace-nowrap py-[3px] pr-3 ${strikeClass}`}>
        <NextHop candidate={candidate} device={answer.device.id} />
      </td>
      <td className={`py-[3px] pr-3 ${strikeClass}`}>
        <span
          className="addr block max-w-[132px] truncate"
          title={candidate.out ?? candidate.leavesBy ?? undefined}
        >
          {candidate.out ?? candidate.leavesBy ?? ""}
        </span>
      </td>
      <td className="py-[3px] pr-3 text-right">{candidate.distance ?? "–"}</td>
      <td className="py-[3px] pr-4 text-right">{candidate.metric}</td>
      <td className="py-[3px] pr-2">
        <Because candidate={candidate} here={answer.device.id} />
      </td>
      <td className="py-[2px] pr-3">
        {candidate.position >= 0 && doing.onEdit && <RowActions candidate={candidate} {...doing} />}
      </td>
    </tr>
  );
}

/** A route's target, or one word for a route without a next hop. */
function NextHop({ candidate, device }: { candidate: CandidateView; device: string }) {
  const { planId, params } = usePlan();
  if (candidate.via)
    return <Link to={deviceHref(planId, device, params, { lookup: candidate.via })}>{candidate.via}</Link>;
  if (candidate.discard) return candidate.discard === "drop" ? "discard" : "reject";
  if (candidate.toVrf) return `VRF ${candidate.toVrf}`;
  return candidate.source === "local" ? "itself" : "attached";
}

/** The reason for a route's state, and its note. */
function Because({ candidate, here }: { candidate: CandidateView; here: string }) {
  const { frame } = usePlan();
  const { reason, chain, watch, note, state } = candidate;
  const gateway =
    candidate.gateway >= 0 && candidate.to.endsWith("/0") ? frame.gateways[candidate.gateway] : null;
  return (
    <span className="flex items-start gap-2 text-ink-2">
      {gateway && state !== "unusable" && (
        <Shield gateway={candidate.gateway} label={gateway.label} size={18} outline={state !== "in-use"} />
      )}
      <span className="min-w-0 break-words">
        {reason && <LinkedSentence text={reason.text} here={here} />}
        {!reason && chain.length > 0 && <Chain chain={chain} here={here} />}
        {watch && !reason && ` while watch ${watch} is up`}
        {note && <span className="text-ink-3"> “{note}”</span>}
      </span>
    </span>
  );
}

type RowActionsProps = Pick<StacksProps, "busy" | "onEdit" | "onBeside" | "onSwitch" | "onRemove"> & {
  candidate: CandidateView;
};

/** What can be done with a route of one's own. */
function RowActions({ candidate, busy, onEdit, onBeside, onSwitch, onRemove }: RowActionsProps) {
  const name = `${candidate.to}${candidate.via ? ` via ${candidate.via}` : ""}`;
  const off = candidate.state === "disabled";
  const actions = [
    { text: "Edit", of: `Edit ${name}`, icon: Pencil, run: onEdit },
    { text: "Related changes", of: `Related changes of ${name}`, icon: ListTree, run: onBeside },
    {
      text: off ? "Enable" : "Disable",
      of: `${off ? "Enable" : "Disable"} ${name}`,
      icon: off ? CirclePlay : CirclePause,
      run: onSwitch,
    },
    { text: "Remove", of: `Remove ${name}`, icon: Trash2, run: onRemove },
  ];
  return (
    <span className="flex justify-end gap-0.5">
      {actions.map(({ text, of, icon: Icon, run }) => (
        <Tip key={text} text={text}>
          <button
            type="button"
            aria-label={of}
            disabled={busy}
            onClick={() => run?.(candidate)}
            className="rounded-[3px] p-[3px] text-ink-2 hover:bg-sunk hover:text-ink disabled:text-ink-3"
          >
            <Icon size={15} aria-hidden="true" />
          </button>
        </Tip>
      ))}
    </span>
  );
}

/** The routes through which a next hop resolves, one under the other, the attachment last. */
function Chain({ chain, here }: { chain: readonly string[]; here: string }) {
  return (
    <span className="block">
      the next hop resolves through
      {chain.map((route, i) => (
        <span key={route} className="flex items-baseline gap-1" style={{ paddingLeft: i * 12 }}>
          <svg width="10" height="10" viewBox="0 0 10 10" aria-hidden="true" className="shrink-0">
            <path d="M2 0v6h7M6.5 3.5L9 6 6.5 8.5" fill="none" stroke="currentColor" strokeWidth="1.4" />
          </svg>
          <LinkedSentence text={route} here={here} />
        </span>
      ))}
    </span>
  );
}
