import { Link } from "react-router";
import { FlowWindow } from "../../plan/flows/flow-window.tsx";
import { NoFlows } from "../../plan/flows/no-flows.tsx";
import type { Values } from "../../plan/forms/item-form.tsx";
import { LinkedSentence } from "../../plan/linked-sentence.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { Lanes } from "../../plan/trace/lanes.tsx";
import type { FlowAnswer, TripView } from "../../queries/flows.ts";
import type { Frame } from "../../queries/frame.ts";
import type { PathsAnswer } from "../../queries/paths.ts";
import { pageHref, withParam } from "../../search/links.ts";
import { Shield } from "../../ui/shield.tsx";
import { DropSign } from "../../ui/verdict.tsx";
import { AskForm } from "./ask-form.tsx";
import { FlowGrid } from "./flow-grid.tsx";
import { Grid } from "./grid.tsx";
import { Mending } from "./mending.tsx";

/** The forward and the return path, now and with no failures. */
export function PathsView({ answer }: { answer: PathsAnswer }) {
  const { planId, params, frame } = usePlan();
  const { flow } = answer;
  const conditions = frame.conditions.plates.length > 0;
  return (
    <div className="flex min-h-0 flex-1 flex-col overflow-auto px-4 py-3">
      <h1 className="sr-only">Paths</h1>
      <AskForm answer={answer} />
      {flow && !flow.ok && (
        <p role="alert" className="mt-3 text-stop">
          No answer: {flow.message}.
        </p>
      )}
      {flow?.ok && (
        <>
          <section aria-label="Now" className="mt-4">
            <Verdict flow={flow.answer} conditions={conditions} />
            <div className="mt-3 flex flex-col gap-3">
              <Lanes trip={flow.answer.now} healthy={conditions ? flow.answer.healthy : null} />
            </div>
            <Trace seen={flow.answer.seen} />
          </section>
          {conditions && (
            <section aria-label="Without failures" className="mt-5 border-rule border-t pt-3">
              <h2 className="flex items-center gap-2 font-semibold font-sign text-[17px] text-ink-2">
                Without failures
                <HealthyWords trip={flow.answer.healthy} />
              </h2>
              <div className="mt-2">
                <Lanes trip={flow.answer.healthy} healthy={null} quiet />
              </div>
            </section>
          )}
          {!flow.answer.fine && !flow.answer.mustBeDenied && (
            <Mending key={JSON.stringify(flow.answer.asked)} flow={flow.answer} />
          )}
          <p className="mt-4 flex items-center gap-3">
            <Link className="name-link" to={pageHref(planId, "map", params)}>
              Show on map
            </Link>
            {params.has("flow") ? (
              <FlowWindow text="Edit flow" flow={params.get("flow")} />
            ) : (
              <FlowWindow text="Save as flow" flow={null} fresh={freshOf(flow.answer.asked)} />
            )}
          </p>
        </>
      )}
      {!flow && params.has("grid") && <Grid hosts={answer.hosts} />}
      {!flow && !params.has("grid") && (
        <>
          <p className="mt-3">
            <Link className="name-link" to={withParam(params, "grid", "")}>
              Multiple senders and destinations
            </Link>
          </p>
          {frame.flows.length === 0 ? <NoFlows /> : <FlowGrid />}
        </>
      )}
    </div>
  );
}

/** What ping and trace would show at the sender. */
function Trace({ seen: { hops, message } }: { seen: FlowAnswer["seen"] }) {
  if (hops.length === 0 && !message) return null;
  return (
    <section aria-label="Trace" className="mt-4">
      <h2 className="font-semibold">Trace from the sender</h2>
      <ol className="mt-1 flex flex-wrap gap-x-5 gap-y-1 text-[13px]">
        {hops.map(({ address, rtt }, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: an answer's identity is its hop limit.
          <li key={`${n} ${address}`}>
            <span className="text-ink-2">{n + 1}.</span>{" "}
            {address ? (
              <span className="addr">{address}</span>
            ) : (
              <span className="text-ink-2">no response</span>
            )}
            {rtt && <span className="text-ink-2"> {rtt}</span>}
          </li>
        ))}
      </ol>
      {message && (
        <p className="mt-1 text-[13px] text-stop">
          Message: {message.text}, from <span className="addr">{message.from}</span>
        </p>
      )}
    </section>
  );
}

/** The request, as the fields of a flow. */
function freshOf({ from, source, to, protocol, port }: FlowAnswer["asked"]): Values {
  return {
    from,
    to,
    source,
    protocol: protocol === "icmp" ? "" : protocol,
    port: port ? String(port) : "",
  };
}

function HealthyWords({ trip }: { trip: TripView }) {
  const { frame } = usePlan();
  return (
    <span className="flex items-center gap-1 font-normal">
      {trip.carriers.map((g) => (
        <Shield key={g} gateway={g} label={frame.gateways[g].label} size={20} />
      ))}
      {trip.verdict !== "works" &&
        (trip.verdict === "unknown"
          ? "also leaves the modeled network"
          : trip.verdict === "one-way"
            ? "also without reply"
            : "also fails")}
    </span>
  );
}

function Verdict({ flow, conditions }: { flow: FlowAnswer; conditions: boolean }) {
  const { frame } = usePlan();
  const works = flow.fine;
  const [first] = flow.now.carriers;
  const drop = flow.now.outbound.drop ?? flow.now.reply?.drop;
  const { asked } = flow;
  return (
    <>
      <p className="text-ink-2">
        {asked.label}
        <span className="addr text-[13px]">
          {" "}
          · {asked.source} → {asked.to}
        </span>{" "}
        · {asked.protocol}
        {asked.port ? ` ${asked.port}` : ""}
        {conditions ? " · with the failures above" : " · no failures"}
      </p>
      <p
        className={`mt-1 flex items-center gap-2 font-semibold font-sign text-[26px] leading-8 ${works ? "" : "text-stop"}`}
      >
        {works && first !== undefined ? (
          <Shield gateway={first} label={frame.gateways[first].label} size={28} />
        ) : !works && drop ? (
          <DropSign code={drop.code} size={28} />
        ) : null}
        <span data-testid="headline">{flow.headline}</span>
      </p>
      <div data-testid="why" className="mt-1 max-w-3xl space-y-1">
        {flow.sentences.map((text) => (
          <p key={text}>
            <LinkedSentence text={text} />
          </p>
        ))}
        {works && flow.now.symmetric && (
          <p className="text-ink-2">The return path is the same as the forward path.</p>
        )}
        {flow.standby && <p className="text-ink-2">{standbyWords(flow.standby, frame)}</p>}
      </div>
    </>
  );
}

function standbyWords(trip: TripView, frame: Frame): string {
  const names = trip.carriers.map((g) => frame.gateways[g].label);
  return names.length
    ? `If that gateway fails, it is carried by ${names.join(", then ")}.`
    : "If that gateway fails, another path works.";
}
