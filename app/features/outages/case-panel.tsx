import { Link } from "react-router";
import { useAsking } from "../../engine/asking.ts";
import { useFlowUnder } from "../../engine/flow-under.ts";
import { downOf } from "../../plan/down.ts";
import { LinkedSentence } from "../../plan/linked-sentence.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { elementLabel } from "../../plan/sentence-parts.ts";
import { Lanes } from "../../plan/trace/lanes.tsx";
import type { BoardCell } from "../../queries/board.ts";
import { pageHref, withParam } from "../../search/links.ts";
import { Waiting } from "../../ui/waiting.tsx";
import { TimeChart } from "./time-chart.tsx";

interface CasePanelProps {
  flow: string;
  failed: string[];
  cell: BoardCell | null;
  /** Overloads under the failure. */
  crowded: readonly string[];
}

/** After how long what failed heals in the time view, so that the return shows. */
const HEAL_MS = 60_000;

/** A case of the board opened: what the flow does once it has settled, both ways, and how it gets there. */
export function CasePanel({ flow, failed, cell, crowded }: CasePanelProps) {
  const { page, frame, params, labels } = usePlan();
  const { outcome, error, retry } = useFlowUnder(page, params, flow, failed);
  const down = downOf(frame);
  const timeline = useAsking(page, "timeline", { down, fail: failed, healMs: HEAL_MS, outage: "" }, {});
  const own = timeline.answer?.flows.find((entry) => entry.id === flow);
  const here = new URLSearchParams(params);
  for (const ref of failed) here.append("down", ref);
  const whole = new URLSearchParams(down.map((ref) => ["down", ref]));
  for (const ref of failed) whole.append("fail", ref);
  whole.set("heal", String(HEAL_MS));
  return (
    <section
      aria-label="Selected case"
      className="max-h-[46vh] shrink-0 overflow-y-auto border-ink border-t-2 bg-panel px-4 py-2"
    >
      <p className="flex flex-wrap items-baseline gap-x-3">
        <span className="font-semibold font-sign text-[18px]">
          {outcome?.ok ? outcome.answer.asked.label : (labels.flows.get(flow) ?? flow)}
          {outcome?.ok && `: ${outcome.answer.headline}`}
        </span>
        <span className="text-ink-2">
          with {failed.map((ref) => elementLabel(ref, labels)).join(", ")} down
        </span>
        <Link className="name-link" to={pageHref(page.planId, "map", here, { flow })}>
          Show on map
        </Link>
        <Link className="name-link" to={pageHref(page.planId, "paths", here, { flow })}>
          Hop by hop
        </Link>
        <Link className="name-link" to={`/plans/${page.planId}/timeline?${whole}`}>
          Outage timeline of all flows
        </Link>
        <Link className="name-link ml-auto" to={withParam(params, "case", null)}>
          Close
        </Link>
      </p>
      {cell && cell.broken.length > 0 && (
        <p className="text-stop">Violated expectation: {cell.broken.join("; ")}.</p>
      )}
      {cell && cell.sessions !== "" && (
        <p data-testid="sessions">
          <strong>Established sessions are lost:</strong> <LinkedSentence text={cell.sessions} />.
        </p>
      )}
      {crowded.map((text) => (
        <p key={text} data-testid="crowded">
          <strong>Capacity exceeded:</strong> <LinkedSentence text={text} />.
        </p>
      ))}
      {!outcome && <Waiting text="Loading …" error={error} retry={retry} />}
      {outcome?.ok &&
        outcome.answer.sentences.map((text) => (
          <p key={text} className="text-ink-2">
            <LinkedSentence text={text} />
          </p>
        ))}
      {own && timeline.answer && (
        <div className="mt-2">
          <TimeChart report={{ ...timeline.answer, flows: [own] }} healMs={HEAL_MS} height={120} />
        </div>
      )}
      {outcome?.ok && (
        <div className="mt-2">
          <Lanes trip={outcome.answer.now} healthy={outcome.answer.healthy} under={here} />
        </div>
      )}
    </section>
  );
}
