import { deviceElement } from "../../network/index.ts";
import { Outcomes, timelineOf } from "../../timeline/index.ts";
import type { Check } from "../check.ts";
import type { Context, TracedFlow } from "../context.ts";
import { pathEvidence } from "../finding.ts";
import { deviceId, flowsBy, virtualChange, virtualName, virtualStates, virtualSubject } from "../virtual.ts";

/** Long enough for all that a failure sets off to have come to rest. */
const HEALED_MS = 3_600_000;

/** Something that takes over again before its way out is back (rule 10.5). */
export const returnsTooEarly: Check = {
  code: "returns-too-early",
  title: "Virtual router preempts before its uplink is back",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    virtualStates(context).flatMap((standing) => {
      const { active } = standing;
      const { interfaces } = context.network;
      const flows = flowsBy(context, standing)
        .map(({ asked }) => asked)
        .filter((asked) => context.working.has(asked));
      if (flows.length === 0 || !(active.preempt || active.owner)) return [];
      const device = interfaces.device[active.interface];
      const found = flows.flatMap((asked) => {
        const lateMs = lostAgain(context, asked, deviceElement(context.network, device));
        return lateMs > 0 ? [{ asked, lateMs }] : [];
      });
      if (found.length === 0) return [];
      const id = deviceId(context.network, active.interface);
      const lateMs = Math.max(...found.map((one) => one.lateMs));
      const delay = Math.min(86_400_000, Math.ceil((active.preemptDelayMs + lateMs) / 1000) * 1000);
      return [
        {
          device: id,
          subject: virtualSubject(context, active),
          text: `When ${id} recovers, the ${virtualName(context, active)} preempts before its uplink is up: ${found.map(({ asked }) => asked.flow.id).join(", ")} is down for another ${lateMs / 1000} s.`,
          evidence: found.map(({ asked }) => pathEvidence(asked.flow.id, [`device:${id}`])),
          fixes: active.owner
            ? []
            : [
                {
                  label: `Wait ${delay / 1000} s before preempting on ${id}`,
                  changes: [
                    virtualChange(context, active, (router) => ({ ...router, preemptDelayMs: delay })),
                  ],
                },
              ],
        },
      ];
    }),
};

/** From a device's return to the end of the last gap that it opens, in milliseconds; 0 where it opens none. */
function lostAgain(context: Context, { question }: TracedFlow, element: number): number {
  const steps = [
    { atMs: 0, fail: [element], restore: [] },
    { atMs: HEALED_MS, fail: [], restore: [element] },
  ];
  const asked = new Outcomes(context.gateways, [question], context.healthy);
  const [{ spans }] = timelineOf(context.engine, asked, [1], steps).flows;
  const before = spans.findLast(({ fromMs }) => fromMs <= HEALED_MS);
  if (before?.verdict !== "works") return 0;
  const lost = spans.filter(({ fromMs, verdict }) => fromMs > HEALED_MS && verdict !== "works");
  return Math.max(0, ...lost.map(({ fromMs, toMs }) => (toMs ?? fromMs) - HEALED_MS));
}
