import type { Impact } from "../../../core/impact/index.ts";
import { StatePill } from "../../ui/state-pill.tsx";
import { LinkedSentence } from "../linked-sentence.tsx";
import { usePlan } from "../open-plan.tsx";
import { elementLabel } from "../sentence-parts.ts";

type Outcome = Impact["routes"][number];

/** A written route's outcome: its state, its resolution, and whether replies return. */
export function RouteOutcomeLines({ route }: { route: Outcome }) {
  const { report } = route;
  return (
    <div data-route-state={report.state}>
      <p className="flex flex-wrap items-baseline gap-x-2">
        <StatePill state={report.state} />
        <span className="font-medium">{route.label}</span>
        <span className="addr">
          {report.to}
          {report.via ? ` via ${report.via}` : ""}
        </span>
      </p>
      <p className="text-ink-2">
        <LinkedSentence text={sentencesOf(route).join(" ")} here={route.device} />
      </p>
      {route.wayBack && <WayBackLine wayBack={route.wayBack} />}
    </div>
  );
}

function sentencesOf(route: Outcome): string[] {
  const { report, neighbour, chain } = route;
  const sentences: string[] = [];
  if (report.state === "unusable" && report.reason) sentences.push(`Unusable: ${report.reason.text}.`);
  if (chain.length > 1) sentences.push(`The next hop resolves through ${chain.join(", then ")}.`);
  if (neighbour) {
    sentences.push(
      neighbour.answers
        ? `${neighbour.device} is the next hop on ${neighbour.out} and responds.`
        : `${neighbour.device} is the next hop on ${neighbour.out}, but ${neighbour.interface} does not respond.`,
    );
  }
  if (route.ownerless) sentences.push("No host in the plan has the next hop's address.");
  if (route.beatenBy) {
    const why = report.reason ? ` (${report.reason.text})` : "";
    sentences.push(`Standby: ${route.beatenBy} is preferred${why}.`);
  }
  if (route.beats.length > 0) sentences.push(`Preferred over ${route.beats.join(" and ")}.`);
  if (route.within && report.state === "in-use")
    sentences.push(`It is preferred over the less specific ${route.within}.`);
  if (route.holds > 0)
    sentences.push(
      `${route.holds} more specific ${route.holds === 1 ? "route is" : "routes are"} preferred over it.`,
    );
  return sentences;
}

function WayBackLine({ wayBack }: { wayBack: NonNullable<Outcome["wayBack"]> }) {
  const { labels } = usePlan();
  const when = wayBack.when ? `If ${elementLabel(wayBack.when, labels)} fails, ` : "";
  if (wayBack.trouble.length === 0) {
    return (
      <p>
        {when}
        {when ? "there" : "There"} is a return path: {wayBack.answered} of {wayBack.asked} networks can reply.
      </p>
    );
  }
  const [first] = wayBack.trouble;
  return (
    <p className="text-stop">
      {when}
      {wayBack.answered} of {wayBack.asked} networks can reply. From {first.source} to {first.to}:{" "}
      <LinkedSentence text={first.because} />.
    </p>
  );
}
