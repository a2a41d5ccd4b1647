import { useState } from "react";
import { Form, Link, useNavigate, useSearchParams } from "react-router";
import type { Edit, Outage, Plan, Watch } from "../../../core/plan/index.ts";
import type { Frame } from "../../answers/frame.ts";
import { useAsking } from "../../data/asking.ts";
import { usePlanDocument } from "../../data/document.ts";
import { useEditing } from "../../data/editing.ts";
import type { Known } from "../../data/known.ts";
import { pageHref, withParam } from "../../ui/links.ts";
import { gapText, secondsText } from "./gap.ts";
import { TimeChart } from "./time-chart.tsx";

/** How long an outage lasts for every flow, and whether it comes back: what fails, when it heals, saved or not. */
export function TimeView({ page, frame }: { page: Known; frame: Frame }) {
  const [params] = useSearchParams();
  const navigate = useNavigate();
  const plan = usePlanDocument(page);
  const editing = useEditing(page, "outages");
  const [turned, setTurned] = useState<Edit | null>(null);
  const [cursor, setCursor] = useState<number | null>(null);
  const down = frame.conditions.plates.map((plate) => plate.ref);
  const outage = params.get("outage") ?? "";
  const fail = params.getAll("fail");
  const healText = params.get("heal");
  const healMs = healText === null || healText === "" ? null : Number(healText);
  const asked = outage !== "" || fail.length > 0;
  const args = asked ? { down, fail, healMs: Number.isFinite(healMs) ? healMs : null, outage } : null;
  const before = useAsking(page, "timeline", args, { kind: "time before" });
  const after = useAsking(page, "timeline", args && turned ? { ...args, edit: turned } : null, {
    kind: "time after",
  });
  const report = after.answer ?? before.answer;
  const saved = plan?.outages.find((entry) => entry.id === outage) ?? null;
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <div className="flex flex-wrap items-baseline gap-3">
        <h1 className="font-semibold font-sign text-[26px]">Outage in time</h1>
        <Link className="name-link" to={pageHref(page.planId, "outages", params)}>
          The board
        </Link>
      </div>
      <Choice plan={plan} fail={fail} healMs={healMs} outage={saved} editing={editing} params={params} />
      {!asked && (
        <p className="mt-3 text-ink-2">
          Choose what fails above, or open a case on the board and follow “All flows in time”.
        </p>
      )}
      {before.pending && !before.answer && <p className="mt-3 text-ink-2">Running it through …</p>}
      {before.error && (
        <p role="alert" className="mt-3 text-stop">
          {before.error}
        </p>
      )}
      {report && plan && (
        <>
          <Knobs
            plan={plan}
            watches={report.watches.map((entry) => entry.watch)}
            fail={fail}
            onTurn={setTurned}
            turned={turned}
            busy={editing.busy}
            onKeep={() => {
              if (!turned) return;
              editing.save(turned);
              setTurned(null);
            }}
          />
          {turned && before.answer && after.answer && (
            <ul aria-label="Before and after" className="mt-2">
              {after.answer.flows.flatMap((flow, i) => {
                const was = gapText(before.answer?.flows[i].outageMs ?? { min: 0, max: 0 });
                const now = gapText(flow.outageMs);
                const label = frame.flows.find((entry) => entry.id === flow.id)?.label ?? flow.id;
                return was === now
                  ? []
                  : [
                      <li key={flow.id}>
                        <span className="font-medium">{label}:</span> {was || "no gap"} →{" "}
                        <strong>{now || "no gap"}</strong>
                      </li>,
                    ];
              })}
            </ul>
          )}
          <div className="mt-3">
            <TimeChart report={report} frame={frame} healMs={args?.healMs ?? null} cursorMs={cursor} />
          </div>
          <section aria-label="What happens" className="mt-3">
            <h2 className="font-semibold font-sign text-[18px]">What happens, in the longest case</h2>
            <ol className="max-w-3xl">
              {report.events.map((event, i) => (
                <li
                  // biome-ignore lint/suspicious/noArrayIndexKey: the same can happen twice at one moment; the order is the identity.
                  key={`${i} ${event.atMs} ${event.what}`}
                  className="flex gap-3 border-rule border-t"
                >
                  <button
                    type="button"
                    className="w-20 shrink-0 text-right text-ink-2 hover:underline"
                    onClick={() => setCursor(event.atMs)}
                    aria-label={`Mark ${secondsText(event.atMs)} s in the drawing`}
                  >
                    {secondsText(event.atMs)} s
                  </button>
                  <span>{event.what}</span>
                </li>
              ))}
            </ol>
          </section>
        </>
      )}
      {plan && plan.outages.length > 0 && (
        <section aria-label="Saved outages" className="mt-5">
          <h2 className="font-semibold font-sign text-[18px]">Saved outages</h2>
          <ul>
            {plan.outages.map((entry) => (
              <li key={entry.id} className="flex gap-3">
                <Link
                  className="name-link font-medium"
                  to={withParam(new URLSearchParams(down.map((ref) => ["down", ref])), "outage", entry.id)}
                >
                  {entry.label ?? entry.id}
                </Link>
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
                    if (entry.id === outage) navigate(withParam(params, "outage", null));
                  }}
                >
                  Remove
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

interface ChoiceProps {
  plan: Plan | null;
  fail: string[];
  healMs: number | null;
  outage: Outage | null;
  editing: ReturnType<typeof useEditing>;
  params: URLSearchParams;
}

/** What fails and when it heals; kept in the plan on request. */
function Choice({ plan, fail, healMs, outage, editing, params }: ChoiceProps) {
  const [name, setName] = useState("");
  const refs = plan
    ? [
        ...plan.links.map((link) => `link:${link.id}`),
        ...plan.devices.map((device) => `device:${device.id}`),
        ...plan.devices.flatMap((device) =>
          device.interfaces.map((port) => `interface:${device.id}/${port.name}`),
        ),
        ...plan.devices.flatMap((device) => device.watches.map((watch) => `watch:${device.id}/${watch.id}`)),
      ]
    : [];
  const steps = outage?.steps ?? [
    { atMs: 0, fail },
    ...(healMs === null ? [] : [{ atMs: healMs, restore: fail }]),
  ];
  return (
    <>
      {outage ? (
        <p className="mt-1">
          <span className="font-medium">{outage.label ?? outage.id}:</span>{" "}
          {steps
            .map(
              (step) =>
                `at ${secondsText(step.atMs)} s ${[
                  step.fail?.length ? `${step.fail.join(", ")} fails` : "",
                  step.restore?.length ? `${step.restore.join(", ")} heals` : "",
                ]
                  .filter(Boolean)
                  .join(", ")}`,
            )
            .join("; ")}
        </p>
      ) : (
        <p className="mt-1 flex flex-wrap items-center gap-2">
          {fail.map((ref) => {
            const rest = new URLSearchParams(
              [...params].filter(([key, value]) => !(key === "fail" && value === ref)),
            );
            return (
              <Link key={ref} to={`?${rest}`} className="button" aria-label={`Take out ${ref}`}>
                <span className="addr">{ref}</span> ×
              </Link>
            );
          })}
        </p>
      )}
      <div className="mt-2 flex flex-wrap items-end gap-4">
        <Form method="get" className="flex flex-wrap items-end gap-2" key={`${fail.join()} ${healMs}`}>
          {[...params].map(
            ([key, value]) =>
              key !== "heal" &&
              key !== "outage" && <input key={`${key} ${value}`} type="hidden" name={key} value={value} />,
          )}
          <div className="flex flex-col">
            <label htmlFor="time-fail" className="text-[13px] text-ink-2">
              Fail also
            </label>
            <input
              id="time-fail"
              name="fail"
              list="time-refs"
              className="field addr w-56"
              placeholder="link:…"
            />
          </div>
          <div className="flex flex-col">
            <label htmlFor="time-heal" className="text-[13px] text-ink-2">
              Heals after, ms
            </label>
            <input
              id="time-heal"
              name="heal"
              defaultValue={healMs === null ? "" : String(healMs)}
              placeholder="never"
              inputMode="numeric"
              pattern="[0-9]*"
              title="Milliseconds; empty for never"
              className="field w-28"
            />
          </div>
          <button type="submit" className="button button-strong">
            Run it
          </button>
          <datalist id="time-refs">
            {refs.map((ref) => (
              <option key={ref} value={ref} />
            ))}
          </datalist>
        </Form>
        {!outage && fail.length > 0 && plan && (
          <form
            className="flex items-end gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              const id = name
                .trim()
                .toLowerCase()
                .replace(/[^a-z0-9]+/g, "-")
                .replace(/^-+|-+$/g, "");
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
        )}
      </div>
      {editing.errors.length > 0 && (
        <p role="alert" className="text-stop">
          {editing.errors.map((error) => error.message).join("; ")}
        </p>
      )}
    </>
  );
}

interface KnobsProps {
  plan: Plan;
  watches: string[];
  fail: string[];
  turned: Edit | null;
  busy: boolean;
  onTurn: (edit: Edit | null) => void;
  onKeep: () => void;
}

const knobs = {
  probe: [
    ["intervalMs", "interval, ms"],
    ["timeoutMs", "timeout, ms"],
    ["failAfter", "down after"],
    ["recoverAfter", "up after"],
  ],
  bfd: [
    ["minTxMs", "send, ms"],
    ["minRxMs", "expect, ms"],
    ["multiplier", "multiplier"],
  ],
} as const;

/** The timers of the watches that take part: turned here, the gap moves at once; kept, they become an edit. */
function Knobs({ plan, watches, turned, busy, onTurn, onKeep }: KnobsProps) {
  const [values, setValues] = useState<Record<string, string>>({});
  const own = watches.flatMap((name) => {
    const slash = name.indexOf("/");
    const device = name.slice(0, slash);
    const watch = plan.devices
      .find((entry) => entry.id === device)
      ?.watches.find((entry) => entry.id === name.slice(slash + 1));
    return watch && (watch.kind === "probe" || watch.kind === "bfd") ? [{ name, device, watch }] : [];
  });
  if (own.length === 0) return null;
  const turn = (next: Record<string, string>) => {
    setValues(next);
    const changes = own.flatMap(({ name, device, watch }) => {
      const after: Watch = { ...watch };
      for (const [key] of knobs[watch.kind as "probe" | "bfd"]) {
        const typed = next[`${name} ${key}`];
        if (typed !== undefined && /^\d+$/.test(typed)) Object.assign(after, { [key]: Number(typed) });
      }
      return JSON.stringify(after) === JSON.stringify(watch)
        ? []
        : [{ in: "device" as const, device, collection: "watches" as const, before: watch, after }];
    });
    const names = changes.map((change) => `${change.device}/${change.before.id}`).join(", ");
    onTurn(changes.length ? { label: `Turn the timers of ${names}`, changes } : null);
  };
  return (
    <section aria-label="Timers" className="mt-3 border-rule border-y py-2">
      {own.map(({ name, watch }) => (
        <p key={name} className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <span className="addr w-48 shrink-0">{name}</span>
          {knobs[watch.kind as "probe" | "bfd"].map(([key, text]) => (
            <label key={key} className="flex items-center gap-1 text-[13px] text-ink-2">
              {text}
              <input
                value={values[`${name} ${key}`] ?? String((watch as Record<string, unknown>)[key])}
                onChange={(event) => turn({ ...values, [`${name} ${key}`]: event.target.value })}
                inputMode="numeric"
                aria-label={`${name} ${text}`}
                className="field w-20 text-ink"
              />
            </label>
          ))}
        </p>
      ))}
      {turned && (
        <p className="mt-1 flex gap-2">
          <button type="button" className="button button-strong" disabled={busy} onClick={onKeep}>
            Keep these timers
          </button>
          <button
            type="button"
            className="button"
            onClick={() => {
              setValues({});
              onTurn(null);
            }}
          >
            Put them back
          </button>
        </p>
      )}
    </section>
  );
}
