import { useCallback, useState } from "react";
import { Form, Link, useLocation } from "react-router";
import { routeIdentity, type StaticRoute } from "../../../core/plan/index.ts";
import { useEditing } from "../../plan/editing.ts";
import { RelatedChanges } from "../../plan/editor/related-changes.tsx";
import { RouteEditor } from "../../plan/editor/route-editor.tsx";
import { removalEdit, switchEdit } from "../../plan/editor/route-edits.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { Refusals } from "../../plan/refusals.tsx";
import { Stacks } from "../../plan/trace/stacks.tsx";
import type { CandidateView, DeviceAnswer } from "../../queries/device.ts";
import { deviceHref, toggleHref, withParam } from "../../search/links.ts";
import { RoleSign } from "../../ui/plate.tsx";
import { AttachedList } from "./attached-list.tsx";

const states = ["in-use", "standby", "unusable", "disabled"] as const;
const stateWords = { "in-use": "active", standby: "standby", unusable: "unusable", disabled: "disabled" };

/** The network through one device's eyes: what it is attached to, and every route with its reason. */
export function DeviceView({ answer }: { answer: DeviceAnswer }) {
  const { page, planId, params } = usePlan();
  const { pathname } = useLocation();
  const [changed, setChanged] = useState<StaticRoute | null>(null);
  const [beside, setBeside] = useState<string | null>(null);
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set());
  const editing = useEditing(page, `routes of ${answer.device.id}`);
  const desk = useEditing(page, `desk of ${answer.device.id}`);
  const besideRoute = answer.routes.find((route) => routeIdentity(route) === beside) ?? null;
  const onTaken = useCallback((taken: { route: StaticRoute }[]) => {
    setChanged(null);
    setBeside(taken[0] ? routeIdentity(taken[0].route) : null);
  }, []);
  const { device } = answer;
  const sources = [...new Set(answer.stacks.flatMap((stack) => stack.candidates.map((c) => c.source)))];
  const toggle = (key: string) =>
    setHidden((now) => {
      const next = new Set(now);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  const shown = (candidate: CandidateView) =>
    !hidden.has(candidate.state) && !hidden.has(`from ${candidate.source}`);

  return (
    <>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-rule border-b px-4 py-3">
        <RoleSign role={device.role} size={20} />
        <h1 className="font-semibold font-sign text-[26px] leading-8">{device.label}</h1>
        <p className="text-ink-2">
          {device.role} · {device.profile} · VRF {answer.vrf}
          {device.staticDistance === null ? " · no distances" : ` · static distance ${device.staticDistance}`}
        </p>
        <Link to={toggleHref(pathname, params, `device:${device.id}`)} className="button">
          {device.up ? "Fail this device" : "Restore this device"}
        </Link>
        <Link to={withParam(params, "edit", "device")} className="button">
          Edit it
        </Link>
        <p className="ml-auto text-ink-2" data-testid="count">
          <strong className="text-[16px] text-ink">{answer.inUse}</strong> active routes
          {answer.inUse !== answer.inUseApproved && <>, {answer.inUseApproved} before the draft</>}
          {answer.inUse !== answer.inUseHealthy && (
            <>
              , <del>{answer.inUseHealthy}</del> with no failures
            </>
          )}
        </p>
      </div>
      <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
        <AttachedList answer={answer} />
        <div className="flex min-h-0 min-w-0 flex-1 flex-col">
          <div className="flex flex-wrap items-center gap-x-3 gap-y-2 border-rule border-b px-4 py-2">
            <Form method="get" className="flex items-center gap-2">
              {[...params].map(
                ([key, value]) =>
                  key !== "lookup" && (
                    <input key={`${key} ${value}`} type="hidden" name={key} value={value} />
                  ),
              )}
              <label htmlFor="lookup" className="text-ink-2">
                Which route for
              </label>
              <input
                id="lookup"
                name="lookup"
                key={answer.lookup?.text ?? ""}
                defaultValue={answer.lookup?.text ?? ""}
                placeholder="an address or prefix"
                aria-invalid={answer.lookup?.error ? true : undefined}
                aria-describedby="lookup-answer"
                className="field addr w-44"
              />
              <button type="submit" className="button">
                Look up
              </button>
            </Form>
            <p id="lookup-answer" role="status" className={answer.lookup?.error ? "text-stop" : "text-ink-2"}>
              {answer.lookup?.error ??
                (answer.lookup ? (
                  answer.lookup.answer ? (
                    <>
                      longest match{" "}
                      <span className="addr font-semibold text-ink">{answer.lookup.answer}</span>
                    </>
                  ) : (
                    "no active route matches"
                  )
                ) : (
                  ""
                ))}
              {answer.lookup && (
                <>
                  {" · "}
                  <Link
                    className="name-link"
                    to={deviceHref(
                      planId,
                      device.id,
                      new URLSearchParams([...params].filter(([key]) => key !== "lookup")),
                    )}
                  >
                    all routes
                  </Link>
                </>
              )}
            </p>
            <fieldset className="ml-auto flex flex-wrap items-center gap-3 text-[13px]">
              <legend className="sr-only">Show routes by state and source</legend>
              {states.map((state) => (
                <label key={state} className="flex items-center gap-1">
                  <input type="checkbox" checked={!hidden.has(state)} onChange={() => toggle(state)} />
                  {stateWords[state]}
                </label>
              ))}
              <span aria-hidden="true" className="h-4 border-rule border-l" />
              {sources.map((source) => (
                <label key={source} className="flex items-center gap-1">
                  <input
                    type="checkbox"
                    checked={!hidden.has(`from ${source}`)}
                    onChange={() => toggle(`from ${source}`)}
                  />
                  {source}
                </label>
              ))}
            </fieldset>
          </div>
          {answer.vrfs.length > 1 && (
            <p className="flex gap-3 border-rule border-b px-4 py-1 text-[13px]">
              VRF
              {answer.vrfs.map((vrf) => (
                <Link
                  key={vrf}
                  aria-current={vrf === answer.vrf ? "true" : undefined}
                  className={vrf === answer.vrf ? "font-semibold" : "name-link"}
                  to={deviceHref(planId, device.id, params, { vrf })}
                >
                  {vrf}
                </Link>
              ))}
            </p>
          )}
          <div className="min-h-0 flex-1 overflow-auto">
            <Stacks
              answer={answer}
              stacks={answer.stacks}
              shown={shown}
              busy={editing.busy}
              onEdit={(candidate) => setChanged(answer.routes[candidate.position])}
              onBeside={(candidate) => setBeside(routeIdentity(answer.routes[candidate.position]))}
              onSwitch={(candidate) => editing.save(switchEdit(device, answer.routes[candidate.position]))}
              onRemove={(candidate) => editing.save(removalEdit(device, answer.routes[candidate.position]))}
            />
            {answer.gone.length > 0 && (
              <section aria-label="Taken away by the draft" className="px-4 py-3">
                <h2 className="text-[13px] text-ink-2">Taken away by the draft</h2>
                {answer.gone.map((line) => (
                  <p key={line}>
                    <del className="addr text-ink-2">{line}</del>
                  </p>
                ))}
              </section>
            )}
            {[
              ...answer.policyTables.map((table) => ({ ...table, title: `Policy table ${table.name}` })),
              ...answer.otherVrfs.map((table) => ({ ...table, title: `VRF ${table.name}` })),
            ].map((table) => (
              <section key={table.title} aria-label={table.title}>
                <h2 className="border-rule border-t px-4 pt-4 font-semibold">{table.title}</h2>
                <Stacks answer={answer} stacks={table.stacks} shown={shown} busy={editing.busy} />
              </section>
            ))}
          </div>
          <Refusals errors={editing.errors} className="border-stop border-t-2 bg-panel px-4 py-1" />
          {beside && besideRoute && (
            <RelatedChanges
              device={device.id}
              route={besideRoute}
              editing={editing}
              onClose={() => setBeside(null)}
            />
          )}
          <RouteEditor
            key={changed ? JSON.stringify(changed) : "new"}
            device={device}
            old={changed}
            editing={desk}
            onTaken={onTaken}
            onLeave={() => setChanged(null)}
          />
        </div>
      </div>
    </>
  );
}
