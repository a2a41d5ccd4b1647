import { useState } from "react";
import { useNavigate } from "react-router";
import { durationText, idOf, type Outage, type Plan } from "../../../core/plan/index.ts";
import { secondsText } from "../../../core/words/index.ts";
import type { useEditing } from "../../plan/editing.ts";
import { elementChoices } from "../../plan/forms/choices.ts";
import { DURATION_FORMS, parseDuration } from "../../plan/forms/durations.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { Refusals } from "../../plan/refusals.tsx";
import { useRights } from "../../plan/rights.tsx";
import { elementLabel } from "../../plan/sentence-parts.ts";
import { Button } from "../../ui/button.tsx";
import { SuggestField } from "../../ui/suggest-field.tsx";
import { chosenElements, outageHref } from "./outage-address.ts";

interface ChoiceProps {
  plan: Plan | null;
  fail: string[];
  /** Whether `fail` are the failed elements of the conditions, because no others were chosen. */
  fromConditions: boolean;
  healMs: number | null;
  outage: Outage | null;
  editing: ReturnType<typeof useEditing>;
}

/** The elements that fail and when they are restored; can be saved in the plan. */
export function Choice(props: ChoiceProps) {
  const { plan, fail, fromConditions, healMs, outage, editing } = props;
  const { edits } = useRights();
  return (
    <>
      {outage && <SavedSteps outage={outage} />}
      {fromConditions && fail.length > 0 && (
        <p className="mt-1 text-ink-2">The elements that are already failed fail at 0 s.</p>
      )}
      <div className="mt-2 flex flex-wrap items-end gap-4">
        {plan && (
          <RunForm
            key={`${fail.join()} ${healMs} ${outage?.id}`}
            plan={plan}
            fail={outage ? [] : fail}
            healMs={healMs}
          />
        )}
        {edits && !outage && fail.length > 0 && plan && (
          <SaveForm steps={stepsOf(fail, healMs)} editing={editing} />
        )}
      </div>
      <Refusals errors={editing.errors} />
    </>
  );
}

function stepsOf(fail: string[], healMs: number | null): Outage["steps"] {
  return [{ atMs: 0, fail }, ...(healMs === null ? [] : [{ atMs: healMs, restore: fail }])];
}

/** A saved outage in a sentence, step after step. */
function SavedSteps({ outage }: { outage: Outage }) {
  const { labels } = usePlan();
  const names = (refs: readonly string[] = []) => refs.map((ref) => elementLabel(ref, labels)).join(", ");
  const stepText = (step: Outage["steps"][number]) => {
    const parts = [
      step.fail?.length ? `${names(step.fail)} fails` : "",
      step.shut?.length ? `${names(step.shut)} is shut down` : "",
      step.restore?.length ? `${names(step.restore)} is restored` : "",
    ];
    return `at ${secondsText(step.atMs)} s ${parts.filter(Boolean).join(", ")}`;
  };
  return (
    <p className="mt-1">
      <span className="font-medium">{outage.label ?? outage.id}:</span>{" "}
      {outage.steps.map(stepText).join("; ")}
    </p>
  );
}

/** Durations after which failed elements are often restored. */
const PRESETS_MS = [20_000, 120_000, 600_000] as const;

/** Chooses elements by label and when they are restored, and simulates the outage. */
function RunForm({ plan, fail, healMs }: { plan: Plan; fail: string[]; healMs: number | null }) {
  const { page, params } = usePlan();
  const navigate = useNavigate();
  const [refs, setRefs] = useState(fail.join(", "));
  const [heal, setHeal] = useState(healMs === null ? "" : durationText(healMs));
  const [error, setError] = useState("");
  const run = (event: React.FormEvent) => {
    event.preventDefault();
    const chosen = chosenElements(refs, elementChoices(plan));
    if (!chosen.ok) return setError(chosen.error);
    const ms = heal.trim() === "" ? null : parseDuration(heal);
    if (heal.trim() !== "" && ms === null) return setError(`Restored after: enter ${DURATION_FORMS}.`);
    setError("");
    void navigate(outageHref(page.planId, params, chosen.refs, ms));
  };
  return (
    <form onSubmit={run} aria-label="Outage" className="flex flex-wrap items-end gap-2">
      <div className="flex flex-col">
        <label htmlFor="time-fail" className="text-[13px] text-ink-2">
          Failed elements
        </label>
        <SuggestField
          id="time-fail"
          label="Failed elements"
          value={refs}
          onChange={setRefs}
          choices={elementChoices(plan)}
          many
          placeholder="links, devices, sites …"
          className="w-96 max-w-full"
        />
      </div>
      <div className="flex flex-col">
        <label htmlFor="time-heal" className="text-[13px] text-ink-2">
          Restored after
        </label>
        <span className="flex gap-1">
          <input
            id="time-heal"
            value={heal}
            onChange={(event) => setHeal(event.target.value)}
            placeholder="never"
            className="field w-24"
          />
          {PRESETS_MS.map((ms) => (
            <Button
              key={ms}
              look={heal === durationText(ms) ? "chosen" : "plain"}
              onClick={() => setHeal(durationText(ms))}
            >
              {durationText(ms)}
            </Button>
          ))}
        </span>
      </div>
      <Button type="submit" look="strong">
        Run simulation
      </Button>
      {error !== "" && (
        <p role="alert" className="w-full text-stop">
          {error}
        </p>
      )}
    </form>
  );
}

/** Saves the chosen outage in the plan. */
function SaveForm({ steps, editing }: { steps: Outage["steps"]; editing: ChoiceProps["editing"] }) {
  const [name, setName] = useState("");
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        const id = idOf(name);
        if (!id) return;
        const after = { id, label: name.trim(), steps };
        editing.save({
          label: `Save the outage ${name.trim()}`,
          changes: [{ in: "plan", collection: "outages", before: null, after }],
        });
        setName("");
      }}
    >
      <div className="flex flex-col">
        <label htmlFor="time-name" className="text-[13px] text-ink-2">
          Save outage as
        </label>
        <input
          id="time-name"
          value={name}
          onChange={(event) => setName(event.target.value)}
          placeholder="name"
          className="field w-48"
        />
      </div>
      <Button type="submit" disabled={editing.busy || !name.trim()}>
        Save
      </Button>
    </form>
  );
}
