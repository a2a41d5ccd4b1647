import { useState } from "react";
import { Form, Link } from "react-router";
import { elementRefs, idOf, type Outage, type Plan } from "../../../core/plan/index.ts";
import { secondsText } from "../../../core/words/index.ts";
import type { useEditing } from "../../plan/editing.ts";
import { KeptParams } from "../../plan/kept-params.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { Refusals } from "../../plan/refusals.tsx";
import { elementLabel } from "../../plan/told-parts.ts";

interface ChoiceProps {
  plan: Plan | null;
  fail: string[];
  /** Whether what fails is what is down in the conditions, for nothing else was chosen. */
  fromConditions: boolean;
  /** What is down in the conditions, by its labels. */
  down: readonly string[];
  healMs: number | null;
  outage: Outage | null;
  editing: ReturnType<typeof useEditing>;
}

/** What fails and when it heals; kept in the plan on request. */
export function Choice(props: ChoiceProps) {
  const { plan, fail, healMs, outage, editing } = props;
  return (
    <>
      {outage ? <SavedSteps outage={outage} /> : <ChosenFailures {...props} />}
      <div className="mt-2 flex flex-wrap items-end gap-4">
        <RunForm key={`${fail.join()} ${healMs}`} {...props} />
        {!outage && fail.length > 0 && plan && <KeepForm steps={stepsOf(fail, healMs)} editing={editing} />}
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
  const said = (step: Outage["steps"][number]) => {
    const parts = [
      step.fail?.length ? `${names(step.fail)} fails` : "",
      step.restore?.length ? `${names(step.restore)} recovers` : "",
    ];
    return `at ${secondsText(step.atMs)} s ${parts.filter(Boolean).join(", ")}`;
  };
  return (
    <p className="mt-1">
      <span className="font-medium">{outage.label ?? outage.id}:</span> {outage.steps.map(said).join("; ")}
    </p>
  );
}

/** What was chosen, each with its way out. */
function ChosenFailures({ fail, fromConditions, down }: ChoiceProps) {
  const { params, labels } = usePlan();
  return (
    <p className="mt-1 flex flex-wrap items-center gap-2">
      {fromConditions && (
        <span>
          What is down in the conditions fails at 0 s:{" "}
          <strong className="font-medium">{down.join(", ")}</strong>
        </span>
      )}
      {(fromConditions ? [] : fail).map((ref) => {
        const rest = new URLSearchParams(
          [...params].filter(([key, value]) => !(key === "fail" && value === ref)),
        );
        return (
          <Link
            key={ref}
            to={`?${rest}`}
            className="button"
            aria-label={`Take out ${elementLabel(ref, labels)}`}
          >
            {elementLabel(ref, labels)} ×
          </Link>
        );
      })}
    </p>
  );
}

function RunForm({ plan, fail, fromConditions, healMs }: ChoiceProps) {
  return (
    <Form method="get" className="flex flex-wrap items-end gap-2">
      {fromConditions && fail.map((ref) => <input key={ref} type="hidden" name="fail" value={ref} />)}
      <KeptParams but={["heal", "outage"]} />
      <div className="flex flex-col">
        <label htmlFor="time-fail" className="text-[13px] text-ink-2">
          Fail also
        </label>
        <input id="time-fail" name="fail" list="time-refs" className="field addr w-56" placeholder="link:…" />
      </div>
      <div className="flex flex-col">
        <label htmlFor="time-heal" className="text-[13px] text-ink-2">
          Recovers after, ms
        </label>
        <input
          id="time-heal"
          name="heal"
          defaultValue={healMs === null ? "" : String(healMs)}
          placeholder="never"
          inputMode="numeric"
          pattern="[0-9]*"
          className="field w-28"
        />
      </div>
      <button type="submit" className="button button-strong">
        Run it
      </button>
      <datalist id="time-refs">
        {(plan ? elementRefs(plan) : []).map((ref) => (
          <option key={ref} value={ref} />
        ))}
      </datalist>
    </Form>
  );
}

/** Keeps what was chosen as an outage of the plan. */
function KeepForm({ steps, editing }: { steps: Outage["steps"]; editing: ChoiceProps["editing"] }) {
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
          Save it with the plan as
        </label>
        <input
          id="time-name"
          value={name}
          onChange={(event) => setName(event.target.value)}
          placeholder="North goes dark"
          className="field w-48"
        />
      </div>
      <button type="submit" className="button" disabled={editing.busy || !name.trim()}>
        Save
      </button>
    </form>
  );
}
