import { Form } from "react-router";
import { revisionText } from "../../../core/plan/index.ts";
import { boundsText } from "../../../core/words/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { usePlanDocument } from "../../plan/document.ts";
import { downOf } from "../../plan/down.ts";
import { HiddenParams } from "../../plan/hidden-params.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import type { Board, BoardCell, BoardRow } from "../../queries/board.ts";
import { FormPick } from "../../ui/select.tsx";
import { Shield } from "../../ui/shield.tsx";
import { endText, flowStateText } from "../../ui/verdict.tsx";
import { namesOf } from "./arrange.ts";

/** One page to print: result to a flow, or to all flows of a site, when each single thing fails. */
export function ReportView() {
  const { page, frame, params } = usePlan();
  const { plan } = usePlanDocument(page);
  const flow = params.get("flow") ?? "";
  const site = params.get("site") ?? "";
  const down = downOf(frame);
  const { answer: board, pending } = useAsking(page, "board", { down, depth: 1 });
  const sites = [...new Set(frame.devices.map((device) => device.site).filter(Boolean))];
  const siteOf = (end: string) => frame.devices.find((device) => device.id === end.split("/")[0])?.site;
  const wanted = new Set(
    flow
      ? [flow]
      : (plan?.flows ?? []).flatMap((entry) =>
          !site || siteOf(entry.from) === site || siteOf(entry.to) === site ? [entry.id] : [],
        ),
  );
  const rows = board?.rows.filter((row) => wanted.has(row.flow)) ?? [];
  const title = flow
    ? (frame.flows.find((entry) => entry.id === flow)?.label ?? flow)
    : site || frame.planName;
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3 print:overflow-visible">
      <Form method="get" className="flex flex-wrap items-end gap-2 print:hidden">
        <HiddenParams but={["flow", "site"]} />
        <div className="flex flex-col">
          <label htmlFor="report-flow" className="text-[13px] text-ink-2">
            Flow
          </label>
          <FormPick
            id="report-flow"
            name="flow"
            defaultValue={flow}
            className="max-w-80"
            choices={[
              { value: "", label: "all flows of the site" },
              ...frame.flows.map((entry) => ({ value: entry.id, label: entry.label })),
            ]}
          />
        </div>
        <div className="flex flex-col">
          <label htmlFor="report-site" className="text-[13px] text-ink-2">
            Site
          </label>
          <FormPick
            id="report-site"
            name="site"
            defaultValue={site}
            choices={[{ value: "", label: "all sites" }, ...sites.map((one) => ({ value: one, label: one }))]}
          />
        </div>
        <button type="submit" className="button">
          Show
        </button>
        <button type="button" className="button" onClick={() => window.print()}>
          Print
        </button>
      </Form>
      <h2 className="mt-3 font-semibold font-sign text-[22px]">Failure report: {title}</h2>
      <p className="text-ink-2">
        {frame.planName}, {revisionText(page.revision)}. Each link, device and watch is failed alone. Failures
        without effect are not listed.
      </p>
      {pending && !board && <p role="status">Simulating single failures …</p>}
      {board && rows.length === 0 && <p className="mt-3">No flow starts or ends at this site.</p>}
      {board && rows.map((row) => <FlowSheet key={row.flow} row={row} board={board} />)}
    </div>
  );
}

function FlowSheet({ row, board }: { row: BoardRow; board: Board }) {
  const r = board.rows.indexOf(row);
  const cases = board.cells
    .filter(([of, c]) => of === r && !board.columns[c].plates.some((plate) => plate.kind === "interface"))
    .sort(([, , a], [, , b]) => rank(a) - rank(b));
  return (
    <section aria-label={row.label} className="mt-4 break-inside-avoid">
      <h2 className="font-semibold font-sign text-[19px]">{row.label}</h2>
      <p className="flex flex-wrap items-center gap-1.5">
        Without failures: <Outcome cell={row.nominal} />
      </p>
      {cases.length === 0 ? (
        <p>No single failure changes this.</p>
      ) : (
        <table className="mt-1 w-full max-w-4xl text-left">
          <thead className="text-[13px] text-ink-2">
            <tr className="border-rule border-b">
              <th className="py-0.5 font-normal">failure</th>
              <th className="font-normal">result</th>
              <th className="font-normal">outage</th>
              <th className="font-normal">violated expectation</th>
            </tr>
          </thead>
          <tbody>
            {cases.map(([, c, cell]) => (
              <tr key={board.columns[c].failed.join(" ")} className="border-rule border-b align-top">
                <td className="py-0.5 pr-3 font-medium">{namesOf(board.columns[c])}</td>
                <td className="pr-3">
                  <span className="flex flex-wrap items-center gap-1.5">
                    <Outcome cell={cell} />
                  </span>
                </td>
                <td className="pr-3">
                  {cell.outageMs.max === null ? "until restored" : boundsText(cell.outageMs) || "none"}
                </td>
                <td className="text-stop">{cell.broken.join("; ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function rank(cell: BoardCell): number {
  if (cell.arrival) return cell.fine ? 3 : 0;
  return cell.verdict === "fails" ? 0 : cell.verdict === "one-way" ? 1 : cell.verdict === "unknown" ? 2 : 3;
}

function Outcome({ cell }: { cell: BoardCell }) {
  const { frame } = usePlan();
  if (cell.arrival) return <span className={cell.fine ? "" : "text-stop"}>{flowStateText(cell)}</span>;
  if (cell.verdict === "one-way") return <span className="text-stop">arrives, but gets no reply</span>;
  if (cell.verdict === "unknown") return <span className="text-ink-2">leaves the modeled network</span>;
  if (cell.verdict === "fails")
    return <span className="text-stop">it does not arrive: {endText(cell.ended ?? "")}</span>;
  return (
    <>
      {cell.carriers.map((g) => (
        <Shield key={g} gateway={g} label={frame.gateways[g].label} size={18} />
      ))}
      {cell.carriers.length
        ? `carried by ${cell.carriers.map((g) => frame.gateways[g].label).join(", then ")}`
        : "works"}
    </>
  );
}
