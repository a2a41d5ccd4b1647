import { permit } from "../../server/access/permit.ts";
import { targetsOf } from "../../server/live/targets.ts";
import { clockText } from "../ui/clock-time.tsx";
import type { Route } from "./+types/reading-notices";

/** What is wrong with the readings of devices: one that is older than wished, did not come, or differs from the plan. */
export interface ReadingNotice {
  readonly device: string;
  readonly kind: "stale" | "not-read" | "differs";
  readonly text: string;
}

export async function loader({ request, params }: Route.LoaderArgs): Promise<ReadingNotice[]> {
  const targets = await targetsOf(permit(request, params.plan, "reads"));
  return targets.flatMap(({ device, run, stale, everyMinutes, lastReadAt }): ReadingNotice[] => {
    const since = lastReadAt ? `was read last at ${clockText(lastReadAt)}` : "was never read";
    return [
      ...(stale
        ? [
            {
              device,
              kind: "stale" as const,
              text: `${since}, and is wished to be read every ${everyMinutes} minutes`,
            },
          ]
        : []),
      ...(run?.state === "failed"
        ? [{ device, kind: "not-read" as const, text: `was not read: ${run.told}` }]
        : []),
      ...(run?.state === "read" && run.differences
        ? [
            {
              device,
              kind: "differs" as const,
              text: `differed from the plan in ${run.differences} things at its last reading`,
            },
          ]
        : []),
    ];
  });
}
