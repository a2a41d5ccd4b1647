import { Link } from "react-router";
import { NoFlows } from "../../plan/flows/no-flows.tsx";
import { LinkedSentence } from "../../plan/linked-sentence.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { EditLink } from "../../plan/rights.tsx";
import type { FlowAnswer, FlowSummary } from "../../queries/flows.ts";
import type { MapAnswer } from "../../queries/map.ts";
import { deviceHref, pageHref } from "../../search/links.ts";
import { useRowsInSight } from "../../ui/rows-in-sight.ts";
import { Shield } from "../../ui/shield.tsx";
import { DropSign, flowStateText } from "../../ui/verdict.tsx";

/** Longer lists are drawn as far as they are in sight: each of their links is drawn anew with every click on the map. */
const FLOWS_DRAWN_WHOLE = 40;

interface FlowPanelProps {
  answer: MapAnswer;
}

/** Beside the map: what the chosen flow does and why, and every flow to choose from. */
export function FlowPanel({ answer }: FlowPanelProps) {
  const { planId, params, frame } = usePlan();
  const { flow } = answer;
  const { list, rows, before, after, measure } = useRowsInSight<HTMLUListElement>(
    frame.flows.length,
    30,
    FLOWS_DRAWN_WHOLE,
  );
  return (
    <aside
      aria-label="Flows"
      className="flex w-full shrink-0 flex-col overflow-y-auto border-rule border-t bg-panel lg:w-[296px] lg:border-t-0 lg:border-l"
    >
      {flow && !flow.ok && (
        <p role="alert" className="p-4 text-stop">
          No answer: {flow.message}.
        </p>
      )}
      {flow?.ok && <Chosen flow={flow.answer} answer={answer} />}
      <section className="p-3">
        <p className="mb-1 flex justify-end">
          <EditLink className="button" edit="">
            Edit network
          </EditLink>
        </p>
        <h2 className="px-1 font-semibold font-sign text-[17px]">Flows</h2>
        <ul ref={list} className="mt-1" style={{ paddingTop: before, paddingBottom: after }}>
          {rows.map((n) => {
            const entry = frame.flows[n];
            return (
              <li key={entry.id} ref={measure} data-index={n}>
                <FlowLink
                  entry={entry}
                  href={pageHref(planId, "map", params, { flow: entry.id })}
                  chosen={flow?.ok === true && flow.answer.asked.flow === entry.id}
                />
              </li>
            );
          })}
        </ul>
        {frame.flows.length === 0 && <NoFlows />}
      </section>
    </aside>
  );
}

function Chosen({ flow }: { flow: FlowAnswer; answer: MapAnswer }) {
  const { planId, params, frame } = usePlan();
  const { gateways } = frame;
  const [first] = flow.now.carriers;
  const works = flow.fine;
  const drop = flow.now.outbound.drop ?? flow.now.reply?.drop;
  return (
    <section aria-label="Selected flow" className="border-rule border-b p-4">
      <h2 className="font-semibold font-sign text-[18px] leading-6">{flow.asked.label}</h2>
      <p className={`mt-2 flex items-center gap-2 font-semibold text-[16px] ${works ? "" : "text-stop"}`}>
        {works && first !== undefined ? (
          <Shield gateway={first} label={gateways[first].label} />
        ) : !works && drop ? (
          <DropSign code={drop.code} size={22} />
        ) : null}
        <span data-testid="headline">{flow.headline}</span>
      </p>
      <div className="mt-2 space-y-1.5 text-ink-2" data-testid="why">
        {flow.sentences.map((text) => (
          <p key={text}>
            <LinkedSentence text={text} />
          </p>
        ))}
        {works && flow.now.symmetric && <p>Forward and return path are equal.</p>}
      </div>
      {frame.conditions.plates.length > 0 && (
        <p className="mt-2 flex items-center gap-2 text-[13px] text-ink-2">
          Healthy
          {flow.healthy.carriers.map((g) => (
            <Shield
              key={g}
              gateway={g}
              label={gateways[g].label}
              size={18}
              outline={!flow.now.carriers.includes(g)}
            />
          ))}
          {flow.healthy.verdict !== "works" && <span>fails too</span>}
        </p>
      )}
      <div className="mt-3 grid grid-cols-2 gap-3">
        <Lane title="Forward path" hops={flow.now.outbound.hops} />
        {flow.now.reply && <Lane title="Return path" hops={flow.now.reply.hops} />}
      </div>
      <p className="mt-3">
        <Link className="name-link" to={pageHref(planId, "paths", params)}>
          Hop by hop
        </Link>
      </p>
    </section>
  );
}

function Lane({ title, hops }: { title: string; hops: FlowAnswer["now"]["outbound"]["hops"] }) {
  const { planId, params } = usePlan();
  return (
    <div>
      <h3 className="text-[13px] text-ink-2">{title}</h3>
      <ol className="text-[13px] leading-[19px]">
        {hops.map((hop, i) => (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: a device can stand twice in a lane, and the order is the identity.
            key={`${i} ${hop.device}`}
            className="truncate border-iron border-l-2 pl-2"
          >
            <Link className="name-link" to={deviceHref(planId, hop.device, params)}>
              {hop.label}
            </Link>
          </li>
        ))}
      </ol>
    </div>
  );
}

function FlowLink({ entry, href, chosen }: { entry: FlowSummary; href: string; chosen: boolean }) {
  const { gateways } = usePlan().frame;
  const changed =
    entry.verdict !== entry.healthyVerdict || entry.carriers.join() !== entry.healthyCarriers.join();
  return (
    <Link
      to={href}
      aria-current={chosen ? "true" : undefined}
      preventScrollReset
      className={`flex min-h-[30px] items-center gap-2 rounded-[3px] px-1 py-[3px] ${chosen ? "bg-chosen text-chosen-ink" : "hover:bg-sunk"}`}
    >
      <span className={`flex-1 leading-[18px] ${changed && !chosen ? "font-semibold" : ""}`}>
        {entry.label}
      </span>
      {entry.arrival ? (
        <span className={`text-[13px] ${chosen ? "" : entry.fine ? "text-ink-2" : "text-stop"}`}>
          {flowStateText(entry)}
        </span>
      ) : entry.verdict === "works" ? (
        <span className="flex gap-1">
          {entry.carriers.map((g) => (
            <Shield key={g} gateway={g} label={gateways[g].label} size={20} />
          ))}
          {entry.carriers.length === 0 && (
            <span className={`text-[13px] ${chosen ? "" : "text-ink-2"}`}>works</span>
          )}
        </span>
      ) : (
        <span className={`flex items-center gap-1 text-[13px] ${chosen ? "" : "text-stop"}`}>
          <DropSign code={entry.ended ?? ""} />
          {flowStateText(entry)}
        </span>
      )}
    </Link>
  );
}
