import { useState } from "react";
import { Form, Link, useSubmit } from "react-router";
import type { SummaryOption } from "../../../core/authoring/index.ts";
import { useEditing } from "../../plan/editing.ts";
import { ChangeList } from "../../plan/impact/change-list.tsx";
import { FlowResult } from "../../plan/impact/impact-view.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { Refusals } from "../../plan/refusals.tsx";
import { useRights } from "../../plan/rights.tsx";
import type { SummariesAnswer } from "../../queries/summaries.ts";
import { deviceHref } from "../../search/links.ts";
import { FormPick } from "../../ui/select.tsx";
import { Ruler } from "./ruler.tsx";

/** What can be written shorter, and what that would cover. */
export function SummariesView({ answer }: { answer: SummariesAnswer }) {
  const { page, params } = usePlan();
  const submit = useSubmit();
  const editing = useEditing(page, "summaries");
  const { summary, chosen, groups } = answer;
  const label = answer.devices.find((device) => device.id === answer.device)?.label ?? answer.device;
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <h1 className="font-semibold font-sign text-[26px]">Summaries</h1>
      <Form
        method="get"
        className="mt-1"
        onChange={(event) => {
          const { target } = event;
          if (target instanceof HTMLInputElement && target.type === "checkbox") submit(event.currentTarget);
        }}
      >
        {params.getAll("down").map((ref) => (
          <input key={ref} type="hidden" name="down" value={ref} />
        ))}
        <div className="flex flex-wrap items-end gap-3">
          <div className="flex flex-col">
            <label htmlFor="summary-device" className="text-[13px] text-ink-2">
              Device
            </label>
            <FormPick
              id="summary-device"
              name="device"
              key={answer.device}
              defaultValue={answer.device}
              onPicked={(device) => {
                // The routes chosen on another device do not apply.
                const next = new URLSearchParams(params.getAll("down").map((ref) => ["down", ref]));
                next.set("device", device);
                submit(next);
              }}
              choices={answer.devices.map((device) => ({
                value: device.id,
                label: `${device.label}${device.alike ? ` (${device.alike} similar)` : ""}`,
              }))}
            />
          </div>
          <div className="flex flex-col">
            <label htmlFor="summary-block" className="text-[13px] text-ink-2">
              Only routes inside
            </label>
            <input
              id="summary-block"
              name="block"
              key={answer.block}
              defaultValue={answer.block}
              placeholder="such as 172.20.96.0/20"
              className="field addr w-64"
              autoComplete="off"
            />
          </div>
          <button type="submit" className="button">
            Show
          </button>
        </div>
        {groups.length === 0 && (
          <p className="mt-3 text-ink-2">
            {answer.device
              ? `No routes on ${label} can be summarized: no two have the same next hop.`
              : "No routes yet. Add routes first."}
          </p>
        )}
        <fieldset className="mt-3">
          <legend className="sr-only">Routes to summarize</legend>
          {groups.map((group) => (
            <div key={group.way} className="mt-1 flex items-baseline gap-x-4">
              <span className="addr w-48 shrink-0 text-ink-2">{group.way}</span>
              <span className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
                {group.routes.map((route) => (
                  <label key={route.identity} className="flex items-center gap-1">
                    <input
                      type="checkbox"
                      name="route"
                      value={route.identity}
                      defaultChecked={chosen.includes(route.identity)}
                      key={`${answer.device} ${route.identity} ${chosen.includes(route.identity)}`}
                    />
                    <span className="addr">{route.to}</span>
                    {route.note && <span className="text-ink-2">“{route.note}”</span>}
                  </label>
                ))}
              </span>
            </div>
          ))}
        </fieldset>
      </Form>
      <Refusals errors={editing.errors} className="mt-2" />
      {summary?.obstacle && (
        <p role="status" className="mt-3">
          These routes cannot be summarized: {summary.obstacle}.
        </p>
      )}
      {summary?.ruler && <Ruler ruler={summary.ruler} />}
      {summary && !summary.obstacle && summary.options.length === 0 && (
        <p className="mt-3">These routes cannot be summarized further.</p>
      )}
      <div className="mt-4 grid gap-5 xl:grid-cols-2">
        {summary?.options.map((option) => (
          <Option
            key={option.kind}
            option={option}
            label={label}
            answer={answer}
            busy={editing.busy}
            onTake={() => editing.save(option.edit)}
          />
        ))}
      </div>
    </div>
  );
}

interface OptionProps {
  option: SummaryOption;
  label: string;
  answer: SummariesAnswer;
  busy: boolean;
  onTake: () => void;
}

function Option({ option, label, busy, onTake }: OptionProps) {
  const { page, params, labels } = usePlan();
  const [steps, setSteps] = useState(false);
  const { edits } = useRights();
  const { owned, unowned, flows, swallows } = option;
  const breaks = option.steps.filter((step) => step.breaks.length > 0);
  const elsewhere = swallows.filter((part) => part.kind === "elsewhere");
  return (
    <section
      aria-label={option.kind === "exact" ? "The same addresses" : "One summary"}
      className="border-ink border-t-2 pt-2"
      data-option={option.kind}
    >
      <h2 className="font-semibold font-sign text-[18px]">
        {option.kind === "exact" ? "Exact: same addresses only" : "One summary"}
      </h2>
      <p className="addr text-[15px]">{option.prefixes.join(", ")}</p>
      <p>
        {option.saved > 0
          ? `${option.saved} fewer routes on ${label}.`
          : `As many routes as now on ${label}.`}{" "}
        {swallows.length === 0
          ? "It covers no other addresses."
          : `It also covers ${swallows.length === 1 ? "one range" : `${swallows.length} ranges`} without a route today.`}
      </p>
      {elsewhere.length > 0 && (
        <p className="text-stop">
          It covers networks located elsewhere:{" "}
          {elsewhere.map((part) => `${part.prefix} at ${part.by.join(", ")}`).join("; ")}.
        </p>
      )}
      <p className={owned.length + flows.length === 0 ? "font-medium" : "text-stop"} data-testid="proof">
        {owned.length + flows.length === 0
          ? "No flows or assigned addresses are affected."
          : `${flows.length} flows and ${owned.length} assigned ranges change:`}
      </p>
      <ul>
        {flows.slice(0, 6).map((flow) => (
          <li key={flow.id} className="flex flex-wrap items-center gap-2">
            {flow.label}
            {flow.before && <FlowResult scenario={flow.before} />}→
            {flow.after && <FlowResult scenario={flow.after} strong />}
          </li>
        ))}
        {owned.slice(0, 6).map((range) => (
          <li key={`${range.range} ${range.from.join()}`}>
            <Link
              className="addr"
              to={deviceHref(page.planId, range.from[0], params, { lookup: range.range.split("/")[0] })}
            >
              {range.range}
            </Link>{" "}
            from {range.from.slice(0, 3).join(", ")}: ends at {range.before.at}, then at {range.after.at}
          </li>
        ))}
      </ul>
      {unowned.length > 0 && (
        <p className="text-ink-2">
          Unassigned addresses: {[...new Set(unowned.map((range) => range.range))].slice(0, 4).join(", ")}
          {unowned.length > 4 ? " and more" : ""} {endsOf(unowned, labels.devices)}.
        </p>
      )}
      {breaks.length > 0 && (
        <p className="text-stop">
          Interrupted during the change: {[...new Set(breaks.flatMap((step) => step.breaks))].join(", ")}.
        </p>
      )}
      <button
        type="button"
        className="name-link text-ink-2"
        aria-expanded={steps}
        onClick={() => setSteps(!steps)}
      >
        {steps ? "Hide the steps" : `Show the ${option.steps.length} steps in a safe order`}
      </button>
      {steps && <ChangeList changes={option.edit.changes} />}
      <p className="mt-2">
        {edits && (
          <button type="button" className="button button-strong" disabled={busy} onClick={onTake}>
            Apply summary
          </button>
        )}
      </p>
    </section>
  );
}

/** The outcome for unowned ranges, as text. */
function endsOf(ranges: SummaryOption["unowned"], labels: ReadonlyMap<string, string>): string {
  const ends = new Set(
    ranges.map(
      ({ after }) =>
        `${(after.code ?? after.result).replaceAll("-", " ")} at ${labels.get(after.at) ?? after.at}`,
    ),
  );
  return `now end differently: ${[...ends].slice(0, 3).join(", ")}`;
}
