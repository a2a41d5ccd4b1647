import { useEffect, useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import { durationText, type Plan } from "../../../core/plan/index.ts";
import { mostSeconds } from "../../../core/words/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../../plan/down.ts";
import type { useEditing } from "../../plan/editing.ts";
import { elementChoices } from "../../plan/forms/choices.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { useRights } from "../../plan/rights.tsx";
import { elementLabel } from "../../plan/sentence-parts.ts";
import type { TimelineAnswer } from "../../queries/asks.ts";
import { pageHref, withParam } from "../../search/links.ts";
import { SuggestField } from "../../ui/suggest-field.tsx";
import { outageHref } from "./outage-address.ts";
import { OutageWindow } from "./outage-window.tsx";
import { type RecentOutage, recentOutages } from "./recent-outages.ts";

const presets = [
  { label: "Link fails for 2 min", kind: "link:", healMs: 120_000 },
  { label: "Device fails, not restored", kind: "device:", healMs: null },
  { label: "Site fails for 10 min", kind: "site:", healMs: 600_000 },
] as const;

/** The timeline before an outage is chosen: presets, recent outages and saved ones with their results. */
export function TimeStart({ plan, editing }: { plan: Plan; editing: ReturnType<typeof useEditing> }) {
  const { page } = usePlan();
  const [recent, setRecent] = useState<readonly RecentOutage[]>([]);
  useEffect(() => setRecent(recentOutages(page.planId)), [page.planId]);
  const { labels } = usePlan();
  return (
    <div className="mt-4 flex flex-col gap-5">
      <section aria-label="Presets" className="flex flex-wrap gap-4">
        {presets.map((preset) => (
          <Preset key={preset.label} plan={plan} {...preset} />
        ))}
      </section>
      {recent.length > 0 && (
        <section aria-label="Recent outages">
          <h2 className="font-semibold font-sign text-[18px]">Recent outages</h2>
          <ul className="mt-1 grid gap-3 md:grid-cols-2 xl:grid-cols-3">
            {recent.map(({ fail, healMs }) => (
              <OutageCard
                key={`${fail.join()} ${healMs}`}
                title={`${fail.map((ref) => elementLabel(ref, labels)).join(", ")}: ${healMs === null ? "not restored" : `restored after ${durationText(healMs)}`}`}
                outage={{ outage: "", fail: [...fail], healMs }}
              />
            ))}
          </ul>
        </section>
      )}
      <SavedOutages plan={plan} own="" editing={editing} />
    </div>
  );
}

/** Starts an outage of one element with a duration as soon as an element is chosen. */
function Preset({ plan, label, kind, healMs }: { plan: Plan } & (typeof presets)[number]) {
  const { page, params } = usePlan();
  const navigate = useNavigate();
  const choices = useMemo(() => elementChoices(plan, (ref) => ref.startsWith(kind)), [plan, kind]);
  const id = `preset-${kind.slice(0, -1)}`;
  return (
    <div className="w-72 max-w-full border border-rule bg-panel p-3">
      <label htmlFor={id} className="font-medium">
        {label}
      </label>
      <SuggestField
        id={id}
        label={label}
        value=""
        onChange={(value) => {
          if (choices.some((choice) => choice.value === value))
            void navigate(outageHref(page.planId, params, [value], healMs));
        }}
        choices={choices}
        placeholder={`choose a ${kind.slice(0, -1)}`}
        className="mt-1 w-full"
      />
    </div>
  );
}

interface OutageCardProps {
  title: string;
  outage: { outage: string; fail: string[]; healMs: number | null };
  children?: React.ReactNode;
}

/** An outage with its result: how many flows are down, and for how long at most. */
function OutageCard({ title, outage, children }: OutageCardProps) {
  const { page, params, frame } = usePlan();
  const down = downOf(frame);
  const { answer, error } = useAsking(
    page,
    "timeline",
    { ...outage, down },
    { kind: `card ${outage.outage} ${outage.fail.join()} ${outage.healMs}` },
  );
  const href =
    outage.outage === ""
      ? outageHref(page.planId, params, outage.fail, outage.healMs)
      : pageHref(page.planId, "timeline", params, { outage: outage.outage });
  return (
    <li className="flex flex-col gap-1 border border-rule bg-panel p-3">
      <Link className="name-link font-medium" to={href}>
        {title}
      </Link>
      <p className="text-[13px] text-ink-2">{error || (answer ? resultText(answer) : "Simulating …")}</p>
      {children && <p className="mt-auto flex gap-3">{children}</p>}
    </li>
  );
}

/** The result of an outage in a line. */
function resultText({ flows, flapping }: TimelineAnswer): string {
  if (flapping) return "Watches keep flapping.";
  const hit = flows.filter(({ outageMs }) => outageMs.max === null || outageMs.max > 0);
  if (hit.length === 0) return "No flows are interrupted.";
  const lasting = hit.filter(({ outageMs }) => outageMs.max === null).length;
  const longest = Math.max(0, ...hit.map(({ outageMs }) => outageMs.max ?? 0));
  const flowsText = `${hit.length} ${hit.length === 1 ? "flow" : "flows"} interrupted`;
  const parts = [
    longest > 0 ? `up to ${mostSeconds(longest)} s` : "",
    lasting > 0 ? `${lasting} not restored` : "",
  ].filter(Boolean);
  return `${flowsText}: ${parts.join(", ")}.`;
}

interface SavedOutagesProps {
  plan: Plan;
  /** The one that is shown. */
  own: string;
  editing: ReturnType<typeof useEditing>;
}

/** The outages that are saved in the plan, each with its result. */
export function SavedOutages({ plan, own, editing }: SavedOutagesProps) {
  const { params } = usePlan();
  const { edits } = useRights();
  const navigate = useNavigate();
  return (
    <section aria-label="Saved outages">
      <div className="flex items-center gap-3">
        <h2 className="font-semibold font-sign text-[18px]">Saved outages</h2>
        <OutageWindow text="Add outage" outage={null} />
      </div>
      {plan.outages.length === 0 && (
        <p className="text-ink-2">No saved outages yet. Run a simulation and save it under a name.</p>
      )}
      <ul className="mt-1 grid gap-3 md:grid-cols-2 xl:grid-cols-3">
        {plan.outages.map((entry) => (
          <OutageCard
            key={entry.id}
            title={entry.label ?? entry.id}
            outage={{ outage: entry.id, fail: [], healMs: null }}
          >
            <OutageWindow
              text="Edit"
              label={`Edit the outage ${entry.label ?? entry.id}`}
              outage={entry.id}
            />
            {edits && (
              <button
                type="button"
                className="name-link text-ink-2"
                disabled={editing.busy}
                aria-label={`Remove the outage ${entry.label ?? entry.id}`}
                onClick={() => {
                  editing.save({
                    label: `Remove the outage ${entry.label ?? entry.id}`,
                    changes: [{ in: "plan", collection: "outages", before: entry, after: null }],
                  });
                  if (entry.id === own) navigate(withParam(params, "outage", null));
                }}
              >
                Remove
              </button>
            )}
          </OutageCard>
        ))}
      </ul>
    </section>
  );
}
