import { Link } from "react-router";
import { FlowWindow } from "../../plan/flows/flow-window.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import type { FlowSummary } from "../../queries/flows.ts";
import { pageHref } from "../../search/links.ts";
import { useRowsInSight } from "../../ui/rows-in-sight.ts";
import { Shield } from "../../ui/shield.tsx";
import { DropSign, flowStateText } from "../../ui/verdict.tsx";

/** Every flow of the plan, now; with something failed, beside how it is with no failures. */
export function FlowGrid() {
  const { planId, frame, params } = usePlan();
  const { list, rows, before, after, measure } = useRowsInSight<HTMLTableSectionElement>(
    frame.flows.length,
    34,
  );
  const failed = frame.conditions.plates.length > 0;
  const works = frame.flows.filter(({ fine }) => fine).length;
  const unknown = frame.flows.filter(({ verdict }) => verdict === "unknown").length;
  return (
    <section aria-label="Flows of the plan" className="mt-5 max-w-5xl">
      <h2 className="font-semibold font-sign text-[22px]">
        {works === frame.flows.length
          ? `All ${frame.flows.length} flows work`
          : `${works} of ${frame.flows.length} flows work`}
        {unknown > 0 && `; ${unknown} leave the modeled network`}
      </h2>
      <p className="mt-1">
        <FlowWindow text="Add flow" flow={null} />
      </p>
      <table className="mt-2 w-full text-left">
        <thead className="text-[13px] text-ink-2">
          <tr className="border-rule border-b">
            <th className="w-[28%] py-1 font-normal">flow</th>
            <th className="w-[18%] font-normal">now</th>
            {failed && <th className="w-[18%] font-normal">with no failures</th>}
            <th className="min-w-36 font-normal">expected</th>
            <th>
              <span className="sr-only">edit</span>
            </th>
          </tr>
        </thead>
        <tbody ref={list}>
          {before > 0 && (
            <tr style={{ height: before }}>
              <td colSpan={5} />
            </tr>
          )}
          {rows
            .map((n) => frame.flows[n])
            .map((flow, i) => (
              <tr key={flow.id} ref={measure} data-index={rows[i]} className="border-rule border-b">
                <td className="py-1.5">
                  <Link
                    className="name-link font-medium"
                    to={pageHref(planId, "paths", params, { flow: flow.id })}
                  >
                    {flow.label}
                  </Link>
                </td>
                <td>
                  <Cell {...flow} />
                </td>
                {failed && (
                  <td className="opacity-75">
                    <Cell
                      verdict={flow.healthyVerdict}
                      carriers={flow.healthyCarriers}
                      arrival={flow.healthyArrival}
                      ended={null}
                    />
                  </td>
                )}
                <td className="text-[13px] text-ink-2">{flow.expects}</td>
                <td className="text-right">
                  <FlowWindow text="Edit" label={`Edit the flow ${flow.label}`} flow={flow.id} />
                </td>
              </tr>
            ))}
          {after > 0 && (
            <tr style={{ height: after }}>
              <td colSpan={5} />
            </tr>
          )}
        </tbody>
      </table>
    </section>
  );
}

function Cell({
  verdict,
  carriers,
  ended,
  arrival,
}: Pick<FlowSummary, "verdict" | "carriers" | "ended" | "arrival">) {
  const { frame } = usePlan();
  const words = flowStateText({ verdict, ended, arrival });
  if (arrival === "denied") return <span className="text-ink-2">{words}</span>;
  if (arrival || verdict !== "works") {
    return (
      <span className="flex items-center gap-1.5 text-stop">
        <DropSign code={ended ?? ""} />
        {words}
      </span>
    );
  }
  return (
    <span className="flex items-center gap-1.5">
      {carriers.map((g) => (
        <Shield key={g} gateway={g} label={frame.gateways[g].label} size={20} />
      ))}
      {carriers.length ? carriers.map((g) => frame.gateways[g].label).join(", ") : "works"}
    </span>
  );
}
