import { useCallback, useState } from "react";
import { routeIdentity, type StaticRoute } from "../../../core/plan/index.ts";
import { useEditing } from "../../plan/editing.ts";
import { RelatedChanges } from "../../plan/editor/related-changes.tsx";
import { RouteEditor } from "../../plan/editor/route-editor.tsx";
import { removalEdit, switchEdit } from "../../plan/editor/route-edits.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { Refusals } from "../../plan/refusals.tsx";
import { useRights } from "../../plan/rights.tsx";
import { Stacks } from "../../plan/trace/stacks.tsx";
import type { CandidateView, DeviceAnswer } from "../../queries/device.ts";
import { AttachedList } from "./attached-list.tsx";
import { DeviceHead, LookupBar, VrfChoice } from "./device-head.tsx";

/** One device's view of the network: attached networks, and every route with its reason. */
export function DeviceView({ answer }: { answer: DeviceAnswer }) {
  const { page } = usePlan();
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
  const { edits } = useRights();
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
      <DeviceHead answer={answer} />
      <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
        <AttachedList answer={answer} />
        <div className="flex min-h-0 min-w-0 flex-1 flex-col">
          <LookupBar answer={answer} hidden={hidden} onToggle={toggle} />
          <VrfChoice answer={answer} />
          <div data-scrolls className="min-h-0 flex-1 overflow-auto">
            <Stacks
              answer={answer}
              stacks={answer.stacks}
              shown={shown}
              busy={editing.busy}
              {...(edits && {
                onEdit: (candidate: CandidateView) => setChanged(answer.routes[candidate.position]),
                onBeside: (candidate: CandidateView) =>
                  setBeside(routeIdentity(answer.routes[candidate.position])),
                onSwitch: (candidate: CandidateView) =>
                  editing.save(switchEdit(device, answer.routes[candidate.position])),
                onRemove: (candidate: CandidateView) =>
                  editing.save(removalEdit(device, answer.routes[candidate.position])),
              })}
            />
            {answer.gone.length > 0 && (
              <section aria-label="Removed by the draft" className="px-4 py-3">
                <h2 className="text-[13px] text-ink-2">Removed by the draft</h2>
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
          {edits && (
            <RouteEditor
              key={changed ? JSON.stringify(changed) : `new on ${device.id}`}
              device={device}
              old={changed}
              editing={desk}
              onTaken={onTaken}
              onLeave={() => setChanged(null)}
            />
          )}
        </div>
      </div>
    </>
  );
}
