import { Link } from "react-router";
import type { CandidateView, DeviceAnswer, Stack } from "../../queries/device.ts";
import { deviceHref } from "../../search/links.ts";
import { Shield } from "../../ui/shield.tsx";
import { StatePill } from "../../ui/state-pill.tsx";
import { usePlan } from "../open-plan.tsx";
import { Told } from "../told.tsx";

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
  exact: "exactly this prefix",
  none: "does not match",
};

/** Destinations from wide to narrow, each with its candidates in the order of preference. */
export function Stacks(props: StacksProps) {
  const { stacks, shown, answer } = props;
  const visible = stacks
    .map((stack) => ({ ...stack, candidates: stack.candidates.filter(shown) }))
    .filter((stack) => stack.candidates.length > 0 && !(answer.lookup?.answer && stack.match === "none"));
  const narrowed = stacks.length - visible.length;
  return (
    <table className="w-full min-w-[700px] border-collapse text-left">
      <thead className="sticky top-0 z-[1] bg-ground text-[13px] text-ink-2">
        <tr className="border-rule border-b">
          <th className="w-32 py-1 pl-4 font-normal">state</th>
          <th className="w-[82px] font-normal">from</th>
          <th className="w-36 font-normal">next hop</th>
          <th className="w-16 font-normal">out</th>
          <th className="w-14 pr-3 text-right font-normal">distance</th>
          <th className="w-12 pr-4 text-right font-normal">metric</th>
          <th className="font-normal">because</th>
        </tr>
      </thead>
      {visible.map((stack) => (
        <StackRows key={stack.to} stack={stack} {...props} />
      ))}
      {visible.length === 0 && (
        <tbody>
          <tr>
            <td colSpan={7} className="px-4 py-6 text-ink-2">
              {stacks.length === 0
                ? "This table is empty: the device has no interface with an address here. Add routes below once it has."
                : `No route is shown; ${narrowed} destinations are left out by the filters above.`}
            </td>
          </tr>
        </tbody>
      )}
    </table>
  );
}

function StackRows({ stack, ...props }: StacksProps & { stack: Stack }) {
  const { planId, params } = usePlan();
  const chosen = stack.match === "longest" || stack.match === "exact";
  return (
    <tbody
      className={`border-rule border-b ${chosen ? "border-y-2 border-y-ink bg-chosen-soft" : ""}`}
      data-destination={stack.to}
    >
      <tr>
        <th colSpan={7} scope="rowgroup" className="px-4 pt-2 pb-0.5 font-normal">
          <span className="flex items-center gap-3">
            <span
              aria-hidden="true"
              className="inline-block h-2 rounded-[1px] bg-iron"
              style={{ width: 8 + stack.length * (stack.to.includes(":") ? 0.75 : 2.75) }}
            />
            <Link
              to={deviceHref(planId, props.answer.device.id, params, { lookup: stack.to })}
              className="addr font-semibold text-[15px]"
            >
              {stack.to}
            </Link>
            {stack.match && <span className="text-ink-2">{matchWords[stack.match]}</span>}
          </span>
        </th>
      </tr>
      {stack.candidates.map((candidate) => (
        <CandidateRow
          key={`${candidate.source} ${candidate.via} ${candidate.out} ${candidate.position}`}
          candidate={candidate}
          {...props}
        />
      ))}
    </tbody>
  );
}

function CandidateRow({
  candidate,
  answer,
  busy,
  onEdit,
  onBeside,
  onSwitch,
  onRemove,
}: StacksProps & { candidate: CandidateView }) {
  const { planId, params, frame } = usePlan();
  const out = candidate.state === "unusable" || candidate.state === "disabled";
  const struck = out ? "text-ink-3 line-through" : "";
  const gateway =
    candidate.gateway >= 0 && candidate.to.endsWith("/0") ? frame.gateways[candidate.gateway] : null;
  const routeName = `${candidate.to}${candidate.via ? ` via ${candidate.via}` : ""}`;
  const editable = candidate.position >= 0 && onEdit;
  return (
    <tr className="group align-top" data-state={candidate.state}>
      <td className="py-[3px] pl-4">
        <StatePill state={candidate.state} />
        {candidate.draft && (
          <span className="ml-1 font-semibold text-[12px] text-warn">{candidate.draft} in the draft</span>
        )}
      </td>
      <td className="py-[3px] pr-2">{candidate.source}</td>
      <td className={`addr py-[3px] ${struck}`}>
        {candidate.via ? (
          <Link to={deviceHref(planId, answer.device.id, params, { lookup: candidate.via })}>
            {candidate.via}
          </Link>
        ) : candidate.discard ? (
          candidate.discard === "drop" ? (
            "discard"
          ) : (
            "reject"
          )
        ) : candidate.toVrf ? (
          `VRF ${candidate.toVrf}`
        ) : candidate.source === "local" ? (
          "itself"
        ) : (
          "attached"
        )}
      </td>
      <td className={`addr py-[3px] ${struck}`}>{candidate.out ?? candidate.leavesBy ?? ""}</td>
      <td className="py-[3px] pr-3 text-right">{candidate.distance ?? "–"}</td>
      <td className="py-[3px] pr-4 text-right">{candidate.metric}</td>
      <td className="py-[3px] pr-4">
        <span className="flex flex-wrap items-start gap-x-3">
          <span className="flex min-w-[180px] flex-1 items-start gap-2 text-ink-2">
            {gateway && candidate.state !== "unusable" && (
              <Shield
                gateway={candidate.gateway}
                label={gateway.label}
                size={20}
                outline={candidate.state !== "in-use"}
              />
            )}
            <span>
              {candidate.reason && <Told text={candidate.reason.text} here={answer.device.id} />}
              {!candidate.reason && candidate.chain.length > 0 && (
                <Chain chain={candidate.chain} here={answer.device.id} />
              )}
              {candidate.watch && !candidate.reason && ` while watch ${candidate.watch} is up`}
              {candidate.note && <span className="text-ink-3"> “{candidate.note}”</span>}
            </span>
          </span>
          {editable && (
            <span className="ml-auto flex shrink-0 gap-3 text-[13px] text-ink-2">
              <button
                type="button"
                className="name-link"
                onClick={() => onBeside?.(candidate)}
                disabled={busy}
                aria-label={`Companions of ${routeName}`}
              >
                Companions
              </button>
              <button type="button" className="name-link" onClick={() => onEdit(candidate)} disabled={busy}>
                Change
              </button>
              <button
                type="button"
                className="name-link"
                onClick={() => onSwitch?.(candidate)}
                disabled={busy}
              >
                {candidate.state === "disabled" ? "Enable" : "Disable"}
              </button>
              <button
                type="button"
                className="name-link"
                onClick={() => onRemove?.(candidate)}
                disabled={busy}
                aria-label={`Remove ${routeName}`}
              >
                Remove
              </button>
            </span>
          )}
        </span>
      </td>
    </tr>
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
          <Told text={route} here={here} />
        </span>
      ))}
    </span>
  );
}
