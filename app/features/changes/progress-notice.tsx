import { useEffect, useState } from "react";
import { Form, Link, useNavigation } from "react-router";
import { stageRevision, ticksOf } from "../../../core/plan/index.ts";
import { BETWEEN_DEVICES } from "../../../core/steps/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { ImpactView } from "../../plan/impact/impact-view.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { useRights } from "../../plan/rights.tsx";
import { pageHref } from "../../search/links.ts";
import { Button } from "../../ui/button.tsx";
import { Waiting } from "../../ui/waiting.tsx";
import type { Progress } from "./progress.ts";
import type { ChangeShown } from "./shown.ts";

interface ProgressNoticeProps {
  shown: ChangeShown;
  standing: Progress;
}

/** Where the network stands in the middle of a change, and both ways out. */
export function ProgressNotice({ shown, standing }: ProgressNoticeProps) {
  const { planId, params, labels } = usePlan();
  const { edits } = useRights();
  const outside = useOutside(shown.change);
  const busy = useNavigation().state === "submitting";
  const { change, runbook } = shown;
  const { done, of, inLine, next, proven, back } = standing;
  const visit = next && runbook.visits[next.visit];
  const name = (id: string | null) => (id === null ? BETWEEN_DEVICES : (labels.devices.get(id) ?? id));
  return (
    <section
      aria-label="Progress"
      className="mt-3 flex max-w-4xl flex-wrap items-center gap-x-4 gap-y-2 border-2 border-iron bg-panel px-3 py-2"
    >
      <p role="status" data-testid="standing">
        <strong>
          {done === 0
            ? "No steps done yet"
            : done === of
              ? `All ${of} steps are done`
              : `${done} of ${of} steps are done`}
        </strong>
        {next && visit && (
          <>
            . {back ? "Next: take back step" : "Next: step"} {next.step + 1} of visit {next.visit + 1},{" "}
            {name(visit.device)}.
          </>
        )}
        {outside && (
          <span className="block font-semibold text-stop">
            {outside === "early" ? "The window has not begun yet." : "The window is over."}
          </span>
        )}
        {!proven && (
          <span className="block font-semibold text-stop">
            Steps were performed in an unverified order. The predicted disruptions may not apply.
          </span>
        )}
      </p>
      {!proven && <TrueState change={change} />}
      <span className="flex flex-wrap items-center gap-2">
        {inLine > 0 && inLine < of && (
          <Link
            className="name-link"
            to={pageHref(planId, "map", params, { after: `${change.number}.${inLine}` })}
          >
            Show network after step {inLine}
          </Link>
        )}
        {edits && (done > 0 || back) && (
          <Form method="post">
            <input type="hidden" name="do" value={back ? "go on" : "turn back"} />
            <Button type="submit" look={back ? "chosen" : "plain"} aria-pressed={back} disabled={busy}>
              {back ? "Rolling back: continue instead" : "Roll back"}
            </Button>
          </Form>
        )}
        {edits && done === of && <Close as="done" text="Close as carried out" busy={busy} />}
        {edits &&
          done === 0 &&
          change.ticks.length + change.events.filter(({ kind }) => kind === "ticked").length > 0 && (
            <Close as="turned back" text="Close as rolled back" busy={busy} />
          )}
      </span>
    </section>
  );
}

/** For steps that were ticked in an unproven order: a link to the network with these steps, and their impact. */
function TrueState({ change }: Pick<ChangeShown, "change">) {
  const { planId, params } = usePlan();
  const ticks = ticksOf(change.events).length;
  const revision = stageRevision({ change: change.number, steps: ticks, byTicks: true });
  const { answer, pending, error, retry } = useAsking(
    { planId, revision: revision ?? change.draft, approved: change.base },
    "draft",
    revision === null ? null : { down: [] },
  );
  if (revision === null) return null;
  return (
    <div className="basis-full">
      <Link
        className="name-link"
        to={pageHref(planId, "map", params, { after: `${change.number}.t${ticks}` })}
      >
        Show the network with the steps done so far
      </Link>
      {(pending || error !== "") && (
        <Waiting text="Computing the impact of these steps …" error={error} retry={retry} />
      )}
      {answer?.effect && <ImpactView effect={{ ...answer.effect, routes: [] }} findings={answer} />}
    </div>
  );
}

/** Whether it is before or after the window of a change; null within it, where it has none, and before the page is live. */
function useOutside({ windowFrom, windowTo }: ChangeShown["change"]): "early" | "late" | null {
  const [now, setNow] = useState<number | null>(null);
  useEffect(() => {
    setNow(Date.now());
    const timer = setInterval(() => setNow(Date.now()), 30_000);
    return () => clearInterval(timer);
  }, []);
  if (now === null) return null;
  if (windowFrom && now < new Date(windowFrom).getTime()) return "early";
  return windowTo && now > new Date(windowTo).getTime() ? "late" : null;
}

function Close({ as, text, busy }: { as: "done" | "turned back"; text: string; busy: boolean }) {
  return (
    <Form method="post">
      <input type="hidden" name="do" value={as} />
      <Button type="submit" look="strong" disabled={busy}>
        {text}
      </Button>
    </Form>
  );
}
