import { Fragment, useCallback, useState } from "react";
import { Link } from "react-router";
import type { StaticRoute } from "../../../core/plan/index.ts";
import { routeIdentity } from "../../../core/plan/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../../plan/down.ts";
import { useEditing } from "../../plan/editing.ts";
import { RelatedChanges } from "../../plan/editor/related-changes.tsx";
import { RouteEditor } from "../../plan/editor/route-editor.tsx";
import { EditPreview } from "../../plan/impact/edit-preview.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { useRights } from "../../plan/rights.tsx";
import { deviceHref } from "../../search/links.ts";

interface SavedRoute {
  device: string;
  route: StaticRoute;
}

const examples = [
  ["tern-edge: 172.20.32.0/20 via 192.0.2.5", "a static route on one device"],
  ["tern-edge, gull-edge: 0.0.0.0/0 via 192.0.2.5 distance 20", "a floating default route on two devices"],
  ["office-core-1: 172.20.96.0/20 discard", "a discard route for a summary"],
] as const;

/** Routes on one device or on many at once, and the return path to a network wherever it is missing. */
export function DeskView() {
  const { page, frame, params } = usePlan();
  const editing = useEditing(page, "desk");
  const offered = useEditing(page, "desk offers");
  const [taken, setTaken] = useState<SavedRoute[]>([]);
  const [beside, setBeside] = useState<SavedRoute | null>(null);
  const onTaken = useCallback((routes: SavedRoute[]) => {
    setTaken((before) => [...routes, ...before].slice(0, 12));
    setBeside(routes[0] ?? null);
  }, []);
  const { edits } = useRights();
  const label = (id: string) => frame.devices.find((device) => device.id === id)?.label ?? id;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
        <h1 className="font-semibold font-sign text-[26px]">Add routes</h1>
        <p className="max-w-3xl text-ink-2">
          Enter device ids, a colon, the destination and the next hop. The impact is shown below before you
          save. To change an existing route, open its device.
        </p>
        <dl className="mt-2 grid max-w-3xl grid-cols-[max-content_1fr] gap-x-4 gap-y-0.5 text-[13px]">
          {examples.map(([line, what]) => (
            <Fragment key={line}>
              <dt className="addr">{line}</dt>
              <dd className="text-ink-2">{what}</dd>
            </Fragment>
          ))}
        </dl>
        <WayBackEverywhere editing={offered} />
        {taken.length > 0 && (
          <section aria-label="Routes added here" className="mt-4">
            <h2 className="font-semibold">Routes added here</h2>
            <ul>
              {taken.map((entry) => (
                <li
                  key={`${entry.device} ${routeIdentity(entry.route)}`}
                  className="flex flex-wrap items-baseline gap-x-3 py-0.5"
                >
                  <Link className="name-link font-medium" to={deviceHref(page.planId, entry.device, params)}>
                    {label(entry.device)}
                  </Link>
                  <span className="addr">
                    {entry.route.to} {entry.route.via ? `via ${entry.route.via}` : ""}
                  </span>
                  <button type="button" className="name-link text-ink-2" onClick={() => setBeside(entry)}>
                    Related changes
                  </button>
                </li>
              ))}
            </ul>
          </section>
        )}
      </div>
      {beside && (
        <RelatedChanges
          device={beside.device}
          route={beside.route}
          editing={offered}
          onClose={() => setBeside(null)}
        />
      )}
      {edits ? (
        <RouteEditor device={null} old={null} editing={editing} onTaken={onTaken} onLeave={() => {}} />
      ) : (
        <p className="border-rule border-t px-4 py-3 text-ink-2">
          You do not have permission to edit this plan.
        </p>
      )}
    </div>
  );
}

/** "Find devices without a return route to this network". */
function WayBackEverywhere({ editing }: { editing: ReturnType<typeof useEditing> }) {
  const { page, frame } = usePlan();
  const [typed, setTyped] = useState("");
  const [to, setTo] = useState("");
  const down = downOf(frame);
  const { answer, pending } = useAsking(page, "everywhere", to ? { down, to } : null);
  return (
    <section aria-label="Find missing return routes" className="mt-4">
      <h2 className="font-semibold">Find missing return routes</h2>
      <form
        className="mt-1 flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          setTo(typed.trim());
        }}
      >
        <label htmlFor="back-to" className="text-ink-2">
          Find devices without a return route to
        </label>
        <input
          id="back-to"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          placeholder="172.20.80.0/24"
          className="field addr w-44"
          autoComplete="off"
        />
        <button type="submit" className="button">
          Find routes
        </button>
      </form>
      <div role="status">
        {pending && <p className="text-ink-2">Checking every other network …</p>}
        {to && !pending && answer === null && (
          <p className="text-stop">“{to}” is not a valid prefix. Enter one such as 172.20.80.0/24.</p>
        )}
        {answer && !pending && answer.asked === 0 && (
          <p className="text-stop">No device in this plan is attached to {to}.</p>
        )}
        {answer && !pending && answer.asked > 0 && !answer.edit && answer.unmended.length === 0 && (
          <p>
            All {answer.asked} networks that can reach {to} also receive its replies.
          </p>
        )}
        {answer && !pending && answer.unmended.length > 0 && (
          <p className="text-stop">
            No route fixes the return path from {answer.unmended.map((entry) => entry.from).join(", ")}.
          </p>
        )}
      </div>
      {answer?.edit && !pending && (
        <EditPreview
          edit={answer.edit}
          busy={editing.busy}
          onTake={() => answer.edit && editing.save(answer.edit)}
        />
      )}
    </section>
  );
}
