import type { BfdSession } from "../../plan/index.ts";
import { sessionPartner } from "../../settle/index.ts";
import type { Check } from "../check.ts";

/** The two ends of a BFD session have other timers: one notices later than the other. */
export const bfdTimersDiffer: Check = {
  code: "bfd-timers-differ",
  title: "BFD timers differ between the ends",
  consequence: "on-failure",
  severity: "warning",
  run: (context) =>
    context.network.watches.flatMap((record) => {
      const { watch } = record;
      const partner = watch.kind === "bfd" ? sessionPartner(context.network, record) : null;
      // Told once, on the end that comes first.
      if (watch.kind !== "bfd" || !partner || partner.index < record.index) return [];
      const other = partner.watch as BfdSession;
      if (
        watch.minTxMs === other.minTxMs &&
        watch.minRxMs === other.minRxMs &&
        watch.multiplier === other.multiplier
      )
        return [];
      const [here, there] = [context.network.devices[record.device], context.network.devices[partner.device]];
      const timers = (w: BfdSession) => `${w.minTxMs}/${w.minRxMs} ms × ${w.multiplier}`;
      const { minTxMs, minRxMs, multiplier } = watch;
      return [
        {
          device: here.id,
          subject: watch.id,
          text: `The ends of a BFD session have different timers: ${here.id} ${timers(watch)}, ${there.id} ${timers(other)}. They detect a failure at different times.`,
          evidence: [
            { kind: "watch" as const, watch: `${here.id}/${watch.id}` },
            { kind: "watch" as const, watch: `${there.id}/${other.id}` },
          ],
          fixes: [
            {
              label: `Give ${there.label} the timers of ${here.label}`,
              changes: [
                {
                  in: "device" as const,
                  device: there.id,
                  collection: "watches" as const,
                  before: other,
                  after: { ...other, minTxMs, minRxMs, multiplier },
                },
              ],
            },
          ],
        },
      ];
    }),
};
