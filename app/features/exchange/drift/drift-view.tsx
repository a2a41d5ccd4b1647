import { useState } from "react";
import { Form, Link, useNavigation } from "react-router";
import { usePlan } from "../../../plan/open-plan.tsx";
import { useRights } from "../../../plan/rights.tsx";
import { pageHref, toggleHref } from "../../../search/links.ts";
import { Button } from "../../../ui/button.tsx";
import { ClockTime } from "../../../ui/clock-time.tsx";
import { ChooseSome } from "../../../ui/toggle-group.tsx";
import { WorkList, type WorkView } from "./work-list.tsx";

export interface DifferenceView {
  key: string;
  device: string;
  kind: string;
  subject: string;
  text: string;
  takeable: boolean;
}

export interface IgnoredDifference {
  key: string;
  device: string;
  text: string;
  reason: string;
}

interface DriftViewProps {
  differences: DifferenceView[];
  ignored: IgnoredDifference[];
  compared: string[];
  readAt: { device: string; at: Date }[];
  work: WorkView[];
  told: { said: string; error: string } | null;
}

/** Differences that are listed at most. */
const MOST = 500;

const groups = [
  { value: "route", text: "routes" },
  { value: "virtual", text: "virtual routers" },
  { value: "interface", text: "interfaces" },
  { value: "address", text: "addresses" },
  { value: "device", text: "devices" },
];

/** Where the newest readings differ from the plan: each is taken into the plan, or kept as work for the device. */
export function DriftView({ differences, ignored, compared, readAt, work, told: outcome }: DriftViewProps) {
  const { planId, params, frame, labels } = usePlan();
  const busy = useNavigation().state !== "idle";
  const [shown, setShown] = useState<string[]>([]);
  const [device, setDevice] = useState<string | null>(null);
  const [ticked, setTicked] = useState<readonly string[]>([]);
  const rows = differences.filter(
    (entry) =>
      (shown.length === 0 || shown.some((one) => entry.kind.startsWith(one))) &&
      (device === null || entry.device === device),
  );
  const { edits } = useRights();
  const noted = new Set(work.map(({ key }) => key));
  const toggle = (key: string) =>
    setTicked((now) => (now.includes(key) ? now.filter((one) => one !== key) : [...now, key]));
  if (readAt.length === 0) {
    return (
      <p className="mt-3 text-ink-2">
        No readings yet. Import device output on{" "}
        <Link className="name-link" to={pageHref(planId, "import", params)}>
          {" "}
          Import{" "}
        </Link>{" "}
        or poll your devices on{" "}
        <Link className="name-link" to={pageHref(planId, "polling", params)}>
          Polling
        </Link>
        .
      </p>
    );
  }
  return (
    <div className="mt-3 flex flex-col gap-4">
      <p data-testid="drift-summary">
        {differences.length === 0
          ? `No drift: ${compared.length === 1 ? "the device matches" : `all ${compared.length} devices match`} the plan${ignored.length > 0 ? ", apart from ignored differences" : ""}.`
          : `${differences.length} ${differences.length === 1 ? "difference" : "differences"} between the plan and the last readings of ${readAt.length} ${readAt.length === 1 ? "device" : "devices"}.`}{" "}
        <span className="text-ink-2">
          Predictions assume{" "}
          {frame.conditions.plates.length === 0 ? "a network without failures" : "the failures above"}.
        </span>
      </p>
      {outcome && (
        <p role={outcome.error ? "alert" : "status"} className={outcome.error ? "text-stop" : "font-medium"}>
          {outcome.error || `${outcome.said} Undo reverts an edit.`}
        </p>
      )}
      <Agreement
        compared={compared}
        differences={differences}
        chosen={device}
        onChoose={(one) => setDevice((now) => (now === one ? null : one))}
      />
      {differences.length > 0 && (
        <Form method="post" onSubmit={() => setTicked([])} className="flex flex-col gap-2">
          {ticked.map((key) => (
            <input key={key} type="hidden" name="entry" value={key} />
          ))}
          <div className="flex flex-wrap items-center gap-3">
            <ChooseSome label="Kinds" options={groups} values={shown} onChange={setShown} />
            <Button type="button" look="quiet" onClick={() => setTicked(rows.map(({ key }) => key))}>
              Select all {rows.length}
            </Button>
            {edits && (
              <>
                <Button
                  type="submit"
                  look="strong"
                  name="do"
                  value="take"
                  disabled={busy || ticked.length === 0}
                >
                  Update plan
                </Button>
                <Button type="submit" name="do" value="work" disabled={busy || ticked.length === 0}>
                  Add to work list
                </Button>
                <span className="flex items-center gap-2">
                  <label className="flex items-center gap-2 text-[13px] text-ink-2">
                    Reason
                    <input
                      name="reason"
                      className="field w-44"
                      maxLength={2000}
                      placeholder="why it may differ"
                    />
                  </label>
                  <Button type="submit" name="do" value="ignore" disabled={busy || ticked.length === 0}>
                    Ignore differences
                  </Button>
                </span>
              </>
            )}
          </div>
          <ul aria-label="Differences">
            {rows.slice(0, MOST).map((entry) => (
              <Difference
                key={entry.key}
                entry={entry}
                ticked={ticked.includes(entry.key)}
                noted={noted.has(entry.key)}
                onToggle={toggle}
                readAt={
                  readAt.find(
                    ({ device }) => device === entry.device || device === labels.devices.get(entry.device),
                  )?.at
                }
              />
            ))}
            {rows.length > MOST && <li className="text-ink-2">and {rows.length - MOST} more</li>}
          </ul>
        </Form>
      )}
      <Ignored ignored={ignored} edits={edits} busy={busy} />
      <WorkList work={work} open={new Set(differences.map(({ key }) => key))} />
    </div>
  );
}

interface AgreementProps {
  compared: readonly string[];
  differences: readonly DifferenceView[];
  chosen: string | null;
  onChoose: (device: string) => void;
}

/** Which devices match the plan and which do not; choosing one shows its differences alone. */
function Agreement({ compared, differences, chosen, onChoose }: AgreementProps) {
  const { labels } = usePlan();
  const counts = new Map<string, number>();
  for (const { device } of differences) counts.set(device, (counts.get(device) ?? 0) + 1);
  const nameOf = (device: string) => labels.devices.get(device) ?? device;
  const matching = compared.filter((device) => !counts.has(device)).map(nameOf);
  if (counts.size === 0) return null;
  return (
    <section aria-label="Devices compared" className="flex flex-wrap items-baseline gap-2">
      {[...counts].map(([device, count]) => (
        <Button
          key={device}
          type="button"
          look={chosen === device ? "strong" : "quiet"}
          aria-pressed={chosen === device}
          onClick={() => onChoose(device)}
        >
          {nameOf(device)}: {count} {count === 1 ? "difference" : "differences"}
        </Button>
      ))}
      {matching.length > 0 && (
        <details className="text-ink-2">
          <summary>
            {matching.length} {matching.length === 1 ? "device matches" : "devices match"} the plan
          </summary>
          {matching.join(", ")}
        </details>
      )}
    </section>
  );
}

/** Differences that are ignored for good, each with its reason. */
function Ignored({ ignored, edits, busy }: { ignored: IgnoredDifference[]; edits: boolean; busy: boolean }) {
  const { labels } = usePlan();
  if (ignored.length === 0) return null;
  return (
    <section aria-label="Ignored differences">
      <h2 className="font-semibold font-sign text-[20px]">Ignored differences</h2>
      <ul>
        {ignored.map(({ key, device, text, reason }) => (
          <li key={key} className="flex flex-wrap items-baseline gap-3 border-rule border-t py-1">
            <span className="min-w-32 font-medium">{labels.devices.get(device) ?? device}</span>
            <span>{text}</span>
            <span className="text-ink-2">Ignored: {reason}</span>
            {edits && (
              <Form method="post" className="ml-auto">
                <input type="hidden" name="entry" value={key} />
                <Button
                  type="submit"
                  look="quiet"
                  name="do"
                  value="heed"
                  disabled={busy}
                  aria-label={`Stop ignoring: ${text}`}
                >
                  Stop ignoring
                </Button>
              </Form>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

interface DifferenceProps {
  entry: DifferenceView;
  ticked: boolean;
  noted: boolean;
  readAt: Date | undefined;
  onToggle: (key: string) => void;
}

function Difference({
  entry: { key, device, kind, subject, text, takeable },
  ticked,
  noted,
  readAt,
  onToggle,
}: DifferenceProps) {
  const { planId, params, labels } = usePlan();
  const failed = kind === "interface-state" && text.includes("is down");
  return (
    <li data-difference={kind} className="border-rule border-t py-1">
      <label className="flex items-baseline gap-2">
        <input type="checkbox" checked={ticked} onChange={() => onToggle(key)} />
        <span className="min-w-32 font-medium">{labels.devices.get(device) ?? device}</span>
        <span>{text}</span>
        <span className="ml-auto whitespace-nowrap text-[13px] text-ink-2">
          {noted && "on the work list, "}
          {!takeable && "state only, "}
          {readAt && (
            <>
              read <ClockTime at={readAt} />
            </>
          )}
        </span>
      </label>
      {failed && (
        <Link
          className="name-link ml-6 text-[13px]"
          to={toggleHref(`/plans/${planId}/drift`, params, `interface:${device}/${subject}`)}
        >
          Predict failure of {subject}
        </Link>
      )}
    </li>
  );
}
