import { Link, useLocation } from "react-router";
import { stageOf } from "../../../core/plan/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { toggleHref } from "../../search/links.ts";
import { Tip } from "../../ui/tooltip.tsx";
import { MomentBar } from "./moment-bar.tsx";
import { StageBar } from "./stage-bar.tsx";

/** The conditions of the page: the moment of a change, and failed elements as labels that a click removes. */
export function Conditions() {
  const { page, frame } = usePlan();
  const stage = stageOf(page.revision);
  if (!stage) return <Failed />;
  return (
    <div className="flex min-w-0 flex-wrap items-center gap-x-4 gap-y-2">
      <StageBar stage={stage} />
      {frame.conditions.plates.length + frame.conditions.unknown.length > 0 && <Failed />}
    </div>
  );
}

function Failed() {
  const { frame, params } = usePlan();
  const { pathname } = useLocation();
  const { plates, unknown, moment } = frame.conditions;
  if (moment && plates.length === 0 && unknown.length === 0) return <MomentBar moment={moment} />;
  if (plates.length === 0 && unknown.length === 0) {
    return (
      <p role="status" className="font-medium text-ink-2">
        No failures
      </p>
    );
  }
  const others = new URLSearchParams([...params].filter(([key]) => key !== "down"));
  return (
    <div role="status" className="flex flex-wrap items-center gap-2">
      {moment && <MomentBar moment={moment} />}
      <span className="font-medium text-ink-2">Failed</span>
      {plates.map((plate) => (
        <Tip key={plate.ref} text={`Restore ${plate.label} (${plate.ref})`}>
          <Link
            to={toggleHref(pathname, params, plate.ref)}
            aria-label={`Restore ${plate.label}`}
            className="flex items-stretch overflow-hidden rounded-[3px] border-2 border-stop bg-panel"
          >
            <Stripes />
            <span className="px-2 py-0.5 font-medium">{plate.label}</span>
            <span aria-hidden="true" className="self-center pr-2 text-ink-2">
              ×
            </span>
          </Link>
        </Tip>
      ))}
      {plates.length > 1 && (
        <Link to={`${pathname}?${others}`} className="name-link text-ink-2">
          Restore all
        </Link>
      )}
      {unknown.map((ref) => (
        <span key={ref} className="text-warn">
          <span className="addr">{ref}</span> is not part of this plan
        </span>
      ))}
      {frame.flapping && <span className="font-medium text-stop">A watch is flapping</span>}
    </div>
  );
}

/** The stripes of a closed road. */
function Stripes() {
  return (
    <svg width="18" height="26" aria-hidden="true" className="block bg-panel">
      <path d="M0 8L8 0h6L0 14zM0 20L18 2v6L0 26zM6 26L18 14v6l-6 6z" fill="var(--stop)" />
    </svg>
  );
}
