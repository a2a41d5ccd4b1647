import { describeRoute } from "../core/plan/index.ts";
import { BETWEEN_DEVICES, type Check, type Runbook, stepCount, type Visit } from "../core/steps/index.ts";

/** A runbook as lines to read. */
export function printRunbook({
  safe,
  proven,
  visits,
  moved,
  alternative,
  anyOrder,
  helpers,
  unproven,
}: Runbook): string {
  const head =
    visits.length === 0
      ? "The two plans need no steps on any device."
      : safe
        ? `${countOf(visits)}. Safe: traffic that works before and after also works after every step (${proven.states} states, each with ${proven.flows} flows and ${proven.subnets} subnets from every device).`
        : `${countOf(visits)}. ${unproven.length ? "No safe order was found; this one was built step by step" : "No order is safe; this one disrupts least"}.`;
  const free = anyOrder.map((run) => `Visits ${run.join(", ")} can be made in any order (proven).`);
  return [
    head,
    ...(alternative
      ? [
          `This order changes ${countedPaths(moved)}. With --prefer ${alternative.prefer}: ${alternative.visits} ${alternative.visits === 1 ? "visit" : "visits"}, ${countedPaths(alternative.moved)}.`,
        ]
      : []),
    ...visits.flatMap(visitLines),
    "",
    ...free,
    ...helperLines(helpers),
    ...unproven.map((text) => `Not proven: ${text}`),
  ]
    .join("\n")
    .trimEnd();
}

function countedPaths(moved: number): string {
  return moved === 1 ? "1 path" : `${moved} paths`;
}

/** What temporary routes would save. */
function helperLines(helpers: Runbook["helpers"]): string[] {
  if (!helpers) return [];
  const { routes, saves, safe } = helpers;
  return [
    `With these routes, added before the first visit and removed after the last, ${safe ? "the rollout has no interruption" : `${saves.join(", ")} would not be interrupted`}:`,
    ...routes.map(({ device, route }) => `  ${describeRoute(route)} on ${device}`),
  ];
}

function countOf(visits: readonly Visit[]): string {
  const steps = stepCount({ visits });
  return `${steps} ${steps === 1 ? "step" : "steps"} in ${visits.length} ${visits.length === 1 ? "visit" : "visits"}`;
}

function visitLines(visit: Visit, n: number): string[] {
  const { device, steps, anyOrder, before, after, breaks, unreached, loops, risks } = visit;
  return [
    "",
    `Visit ${n + 1}: ${device ?? BETWEEN_DEVICES}`,
    ...before.map((check) => `  before  ${checkText(check)}`),
    ...steps.map(({ texts }) => `  ${texts.sentence}`),
    ...anyOrder.map((run) => `  steps ${run.join(", ")} in any order (proven)`),
    ...after.map((check) => `  after   ${checkText(check)}`),
    ...breaks.map(({ flow, until }) => `  INTERRUPTS flow ${flow} until visit ${until}`),
    ...unreached.map(({ subnet, from, until }) => `  INTERRUPTS ${subnet} from ${from} until visit ${until}`),
    ...loops.map(
      ({ range, from, until }) => `  LOOPS   ${range} from ${from} until visit ${until}; no host uses it`,
    ),
    ...risks.map(
      ({ failed, flow }) => `  risk    at this point, a failure of ${failed} would break flow ${flow}`,
    ),
  ];
}

function checkText(check: Check): string {
  if (check.kind === "flow") {
    const by = check.carriers.length ? ` by ${check.carriers.join(", then ")}` : "";
    return `flow ${check.flow}: ${check.verdict}${by}`;
  }
  const vrf = check.vrf === "main" ? "" : ` in VRF ${check.vrf}`;
  return `${check.device}: ${check.to}${vrf} ${check.inUse.length ? check.inUse.join(" and ") : "is not in the table"}`;
}
