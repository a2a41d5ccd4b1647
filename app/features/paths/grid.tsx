import { useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { FlowStanding } from "../../../core/impact/index.ts";
import { askPlan } from "../../engine/ask.client.ts";
import { downOf } from "../../plan/down.ts";
import type { PlanHead } from "../../plan/head.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { AskOf } from "../../queries/asks.ts";
import { pageHref, withParam } from "../../search/links.ts";
import { Shield } from "../../ui/shield.tsx";
import { Tip } from "../../ui/tooltip.tsx";

type Row = AskOf<"gridRow">;

interface GridProps {
  /** Every host of the plan: the grid's default. */
  hosts: string[];
}

/** Several senders and several destinations at once, each forward path and back, filled a row at a time. */
export function Grid({ hosts }: GridProps) {
  const { page, frame, params } = usePlan();
  const navigate = useNavigate();
  const chosen = (key: string) => (params.get(key) ?? "").split(/[\s,]+/).filter((id) => id !== "");
  const senders = chosen("senders").length ? chosen("senders") : hosts.slice(0, 12);
  const targets = chosen("targets").length ? chosen("targets") : hosts.slice(0, 12);
  const [typed, setTyped] = useState({ senders: senders.join(", "), targets: targets.join(", ") });
  const down = downOf(frame);
  const rows = useRows(page, senders, targets, down);
  const label = (id: string) => frame.devices.find((device) => device.id === id)?.label ?? id;
  const done = senders.filter((id) => rows.has(id)).length;
  const apply = (event: React.FormEvent) => {
    event.preventDefault();
    const next = new URLSearchParams(params);
    next.set("senders", typed.senders);
    next.set("targets", typed.targets);
    navigate(`?${next}`);
  };
  return (
    <section aria-label="Multiple paths" className="mt-4">
      <form className="flex flex-wrap items-end gap-2" onSubmit={apply}>
        {(["senders", "targets"] as const).map((key) => (
          <div key={key} className="flex flex-col">
            <label htmlFor={`grid-${key}`} className="text-[13px] text-ink-2">
              {key === "senders" ? "From (several devices)" : "To (several devices or addresses)"}
            </label>
            <input
              id={`grid-${key}`}
              value={typed[key]}
              onChange={(event) => setTyped((now) => ({ ...now, [key]: event.target.value }))}
              className="field addr w-96"
              spellCheck={false}
              autoComplete="off"
            />
          </div>
        ))}
        <button type="submit" className="button button-strong">
          Compute paths
        </button>
        <Link className="button" to={withParam(params, "grid", null)}>
          Close
        </Link>
      </form>
      <p role="status" className="mt-2 text-ink-2">
        {done < senders.length
          ? `${done} of ${senders.length} senders computed …`
          : `${senders.length} × ${targets.length} paths, forward and return.`}
      </p>
      {senders.length === 0 && <p>This plan has no hosts. Enter senders and destinations above.</p>}
      {senders.length > 0 && (
        <div className="mt-1 overflow-x-auto">
          <table className="border-collapse text-[13px]">
            <caption className="sr-only">Senders in rows, destinations in columns</caption>
            <thead>
              <tr>
                <td />
                {targets.map((id) => (
                  <th
                    key={id}
                    scope="col"
                    className="max-w-24 px-2 pb-1 align-bottom font-medium leading-[16px]"
                  >
                    {label(id)}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {senders.map((from) => (
                <tr key={from}>
                  <th scope="row" className="whitespace-nowrap py-1 pr-3 text-left font-medium">
                    {label(from)}
                  </th>
                  {targets.map((to, i) => (
                    <td key={to} className="border border-rule p-0 text-center">
                      {from === to ? (
                        <span className="text-ink-3">·</span>
                      ) : (
                        <Cell
                          cell={rows.get(from)?.[i] ?? null}
                          asked={rows.has(from)}
                          href={pageHref(page.planId, "paths", params, { from, to })}
                          name={`${label(from)} to ${label(to)}`}
                        />
                      )}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <p className="mt-2 text-[13px] text-ink-2">
        Shield: gateway in use. “yes”: works without a gateway. ≠: differs from the network without failures.
      </p>
    </section>
  );
}

function Cell({
  cell,
  asked,
  href,
  name,
}: {
  cell: Row[number] | null;
  asked: boolean;
  href: string;
  name: string;
}) {
  const { frame } = usePlan();
  if (!cell) return <span className="text-ink-3">{asked ? "?" : "…"}</span>;
  const { now, healthy } = cell;
  if (!now) return <span className="text-ink-3">no address</span>;
  const differs = healthy && !alike(now, healthy);
  const words = { works: "yes", "one-way": "no return path", fails: "no", unknown: "not modeled" }[
    now.verdict
  ];
  const shields = now.verdict === "works" ? now.carriers : [];
  const cellLink = (
    <Link
      to={href}
      aria-label={`${name}: ${words}${shields.length ? ` by ${shields.join(", ")}` : ""}${differs ? ", differs from the network without failures" : ""}`}
      className={`flex min-h-[30px] min-w-12 items-center justify-center gap-1 px-1.5 hover:bg-sunk ${now.verdict === "works" ? "" : "bg-stop-soft font-medium text-stop"}`}
    >
      {shields.map((id) => {
        const at = frame.gateways.findIndex((gateway) => gateway.id === id);
        return at >= 0 ? <Shield key={id} gateway={at} label={frame.gateways[at].label} size={18} /> : null;
      })}
      {shields.length === 0 && words}
      {differs && <span aria-hidden="true">≠</span>}
    </Link>
  );
  return <Tip text={`${name}: ${now.because || words}`}>{cellLink}</Tip>;
}

function alike(a: FlowStanding, b: FlowStanding): boolean {
  if (a.verdict !== b.verdict) return false;
  return a.verdict !== "works" || a.carriers.join() === b.carriers.join();
}

/** The rows as they come in; another question starts anew. */
function useRows(
  page: PlanHead,
  senders: string[],
  targets: string[],
  down: string[],
): ReadonlyMap<string, Row> {
  const [rows, setRows] = useState<{ of: string; rows: ReadonlyMap<string, Row> }>({
    of: "",
    rows: new Map(),
  });
  const of = JSON.stringify([page.planId, page.revision, senders, targets, down]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the request is identified by its text.
  useEffect(() => {
    let current = true;
    const fill = async () => {
      for (const from of senders) {
        const row = await askPlan(page, "gridRow", { down, from, to: targets }, `grid ${from}`).catch(
          () => null,
        );
        if (!current) return;
        if (row)
          setRows((before) => ({
            of,
            rows: new Map([...(before.of === of ? before.rows : []), [from, row]]),
          }));
      }
    };
    fill();
    return () => {
      current = false;
    };
  }, [of]);
  return rows.of === of ? rows.rows : new Map();
}
