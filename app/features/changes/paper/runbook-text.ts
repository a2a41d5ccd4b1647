import { type Plan, stepItem } from "../../../../core/plan/index.ts";
import { BETWEEN_DEVICES, type Check, type Runbook, stepCount } from "../../../../core/steps/index.ts";
import type { TextedRunbook } from "../../../../exchange/texts/index.ts";
import type { Change } from "../../../../server/changes/changes.ts";
import type { OwnWords } from "../../../engine/words.server.ts";
import { elementLabel, type Labels, plainText } from "../../../plan/sentence-parts.ts";
import { clockText } from "../../../ui/clock-time.tsx";
import { flowWords } from "../flow-words.ts";
import { loopingRanges } from "../looping-ranges.ts";
import { stateWords } from "../state-words.ts";

/** A runbook in plain sentences, as paper and Markdown have it. */
export interface RunbookText {
  readonly title: string;
  readonly about: readonly (readonly [term: string, value: string])[];
  readonly verdict: string;
  readonly remarks: readonly string[];
  readonly visits: readonly VisitText[];
  readonly record: readonly string[];
}

export interface VisitText {
  readonly title: string;
  readonly before: readonly string[];
  readonly steps: readonly {
    readonly text: string;
    readonly undo: string;
    readonly own: string;
    readonly done: string;
  }[];
  readonly after: readonly string[];
  /** Disruptions, and those under a further failure. */
  readonly meanwhile: readonly string[];
}

export function labelsOfPlans(...plans: readonly Plan[]): Labels {
  const all = <T extends { id: string; label?: string }>(pick: (plan: Plan) => readonly T[]) =>
    new Map(plans.flatMap(pick).map(({ id, label }) => [id, label ?? id]));
  return {
    devices: all((plan) => plan.devices),
    flows: all((plan) => plan.flows),
    links: all((plan) => plan.links),
    gateways: all((plan) => plan.gateways),
    fates: new Map(
      plans.flatMap(({ risks }) => risks.map(({ id, label }) => [`risk:${id}`, label ?? id] as const)),
    ),
  };
}

export function toldRunbook(
  planName: string,
  change: Change<Runbook>,
  runbook: TextedRunbook,
  labels: Labels,
  plan: Plan,
  own: OwnWords,
): RunbookText {
  const { safe, visits, anyOrder, helpers, unproven } = runbook;
  const steps = stepCount({ visits });
  const device = (id: string | null) => (id === null ? BETWEEN_DEVICES : (labels.devices.get(id) ?? id));
  const window = [change.windowFrom, change.windowTo]
    .filter((at) => at !== null)
    .map(clockText)
    .join(" to ");
  const approved = change.events.findLast(({ kind }) => kind === "approved");
  const ticks = new Map(change.ticks.map((tick) => [tick.item, `${tick.author}, ${clockText(tick.at)}`]));
  return {
    title: change.title,
    about: [
      ["Plan", planName],
      ["Change", `${change.number}, revision ${change.base} to ${change.draft}`],
      ["State", stateWords[change.state]],
      ["Proposed by", `${change.author}, ${clockText(change.madeAt)}`],
      [
        "Approved by",
        approved && change.state !== "proposed" ? `${approved.author}, ${clockText(approved.at)}` : "",
      ],
      ["Window", window],
      ["Reference", change.reference],
      ["Reason", change.reason],
      ["Notes", change.notes],
    ].filter((row): row is [string, string] => row[1] !== ""),
    verdict: `${steps} ${steps === 1 ? "step" : "steps"} in ${visits.length} ${visits.length === 1 ? "visit" : "visits"}. ${
      safe
        ? "Safe: traffic that works before and after the change also works after every step (proven state by state). A rollback passes the same states in reverse."
        : "Not safe: each visit lists its interruptions. A rollback passes the same states in reverse."
    }`,
    remarks: [
      ...anyOrder.map((run) => `Visits ${run.join(", ")} can be made in any order (proven).`),
      ...(helpers
        ? [
            `With helper routes, added first and removed last, ${helpers.safe ? "the rollout has no interruption" : "fewer flows are interrupted"}: ${helpers.routes.map((one) => `${one.route.to} via ${one.route.via} on ${device(one.device)}`).join("; ")}.`,
          ]
        : []),
      ...unproven.map((text) => `Not proven: ${text}`),
    ],
    visits: visits.map((visit, v) => ({
      title: `Visit ${v + 1}: ${device(visit.device)}${visit.anyOrder.length > 0 ? ` (steps ${visit.anyOrder.map((run) => run.join(", ")).join("; ")} in any order)` : ""}`,
      before: visit.before.map((check) => checkText(check, labels, plan)),
      steps: visit.steps.map((step, s) => {
        const item = stepItem(v, s);
        const words = own[item];
        return {
          text: plainText(step.texts.sentence, labels),
          undo: plainText(step.undoTexts.sentence, labels),
          own: words?.do.ok ? words.do.text : "",
          done: ticks.get(item) ?? "",
        };
      }),
      after: visit.after.map((check) => checkText(check, labels, plan)),
      meanwhile: [
        ...visit.breaks.map(
          ({ flow, until }) => `Interrupts ${labels.flows.get(flow) ?? flow} until visit ${until}.`,
        ),
        ...visit.unreached.map(
          ({ subnet, from, until }) => `${device(from)} cannot reach ${subnet} until visit ${until}.`,
        ),
        ...loopingRanges(visit.loops).map(
          ({ range, until }) => `No host uses ${range}; packets to it loop until visit ${until}.`,
        ),
        ...visit.risks.map(
          ({ failed, flow }) =>
            `At this point, a failure of ${elementLabel(failed, labels)} would break ${labels.flows.get(flow) ?? flow}.`,
        ),
      ],
    })),
    record: change.events.map(({ kind, author, at, detail }) =>
      [clockText(at), author, kind, typeof detail.item === "string" ? detail.item : ""]
        .filter(Boolean)
        .join(", "),
    ),
  };
}

/** A check as a line of paper; a flow with its source and destination, to be tried by hand. */
function checkText(check: Check, labels: Labels, plan: Plan): string {
  if (check.kind === "table") {
    const where = check.vrf === "main" ? "" : ` in VRF ${check.vrf}`;
    return `${check.to}${where} ${check.inUse.length > 0 ? check.inUse.join(" and ") : "is not in the table"}`;
  }
  const flow = plan.flows.find(({ id }) => id === check.flow);
  const ends = flow
    ? ` (from ${labels.devices.get(flow.from) ?? flow.from}${flow.source ? ` ${flow.source}` : ""} to ${labels.devices.get(flow.to) ?? flow.to}${flow.port ? `, ${flow.protocol} ${flow.port}` : ""})`
    : "";
  const by = check.carriers.map((id) => labels.gateways.get(id) ?? id).join(", then ");
  return `Test ${labels.flows.get(check.flow) ?? check.flow}${ends}: it ${flowWords[check.verdict]}${by ? ` by ${by}` : ""}`;
}
