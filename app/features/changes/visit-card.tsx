import { itemText, stepItem } from "../../../core/plan/index.ts";
import { BETWEEN_DEVICES } from "../../../core/steps/index.ts";
import type { TextedRunbook, TextedVisit } from "../../../exchange/texts/index.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { elementLabel, plainText } from "../../plan/sentence-parts.ts";
import { CheckList } from "./check-list.tsx";
import { loopingRanges } from "./looping-ranges.ts";
import type { ChangeShown } from "./shown.ts";
import { StepText, type Form as TextForm } from "./texts.tsx";
import { Tick } from "./tick.tsx";

interface VisitCardProps {
  visit: TextedVisit;
  index: number;
  change: ChangeShown["change"];
  runbook: TextedRunbook;
  live: ChangeShown["seen"];
  own: ChangeShown["own"];
  form: TextForm;
  /** Whether the change is being taken back: steps in reverse, and what undoes each. */
  back: boolean;
  /** Whether it is the next one. */
  here: boolean;
}

/** One visit: checks before, configuration, checks after, and disruptions meanwhile. */
export function VisitCard({ visit, index, change, live, own, form, back, here }: VisitCardProps) {
  const { labels } = usePlan();
  const name = visit.device === null ? BETWEEN_DEVICES : (labels.devices.get(visit.device) ?? visit.device);
  const ticked = new Set(change.ticks.map(({ item }) => item));
  const steps = visit.steps
    .map((step, n) => ({ step, n }))
    .filter(({ n }) => !back || ticked.has(stepItem(index, n)));
  const [first, last] = back ? [visit.after, visit.before] : [visit.before, visit.after];
  return (
    <li
      aria-label={`Visit ${index + 1}`}
      className={`mt-3 border bg-panel px-3 py-2 ${here ? "border-2 border-iron" : "border-rule"}`}
    >
      <h3 className="font-semibold text-[16px]">
        Visit {index + 1}: {name}
        {visit.anyOrder.map((run) => (
          <span key={run.join()} className="font-normal text-[13px] text-ink-2">
            {" "}
            · steps {run.join(", ")} in any order (proven)
          </span>
        ))}
      </h3>
      <CheckList
        title={back ? "Before the rollback" : "Before"}
        item={itemText({ visit: index + 1, what: "before" })}
        checks={first}
        change={change}
        live={live}
      />
      <ol className="my-1">
        {(back ? steps.toReversed() : steps).map(({ step, n }) => (
          <li key={stepItem(index, n)} className="border-rule border-t py-1">
            <Tick
              item={stepItem(index, n)}
              change={change}
              label={
                <span>
                  <span className="text-ink-2">{n + 1}.</span>{" "}
                  {plainText((back ? step.undoTexts : step.texts).sentence, labels)}
                </span>
              }
              back={back}
            />
            <StepText step={step} form={form} back={back} own={own[stepItem(index, n)]} />
          </li>
        ))}
      </ol>
      <CheckList
        title={back ? "After the rollback" : "After"}
        item={itemText({ visit: index + 1, what: "after" })}
        checks={last}
        change={change}
        live={live}
      />
      <Meanwhile visit={visit} />
    </li>
  );
}

/** Disruptions from this visit on, and those under a further failure. */
function Meanwhile({ visit: { breaks, unreached, loops, risks } }: { visit: TextedVisit }) {
  const { labels } = usePlan();
  const flow = (id: string) => labels.flows.get(id) ?? id;
  if (breaks.length + unreached.length + loops.length + risks.length === 0) return null;
  return (
    <ul className="mt-1 text-[14px]">
      {breaks.map(({ flow: id, until }) => (
        <li key={id} className="font-semibold text-stop">
          Interrupts {flow(id)} until visit {until}.
        </li>
      ))}
      {unreached.slice(0, 8).map(({ subnet, from, until }) => (
        <li key={`${subnet} ${from}`} className="text-stop">
          {labels.devices.get(from) ?? from} cannot reach <span className="addr">{subnet}</span> until visit{" "}
          {until}.
        </li>
      ))}
      {unreached.length > 8 && <li className="text-stop">and {unreached.length - 8} more</li>}
      {loopingRanges(loops).map(({ range, until }) => (
        <li key={range} className="text-warn">
          No host uses <span className="addr">{range}</span>; packets to it loop until visit {until}.
        </li>
      ))}
      {risks.map(({ failed, flow: id }) => (
        <li key={`${failed} ${id}`} className="text-warn">
          At this point, a failure of {elementLabel(failed, labels)} would break {flow(id)}.
        </li>
      ))}
    </ul>
  );
}
