import { permit } from "../../server/access/permit.ts";
import { targetsOf } from "../../server/live/targets.ts";
import { clockText } from "../ui/clock-time.tsx";
import type { Route } from "./+types/reading-notices";

/** Problems with device readings: outdated, failed, or different from the plan. */
export interface ReadingNotice {
  readonly device: string;
  readonly kind: "stale" | "not-read" | "differs";
  readonly text: string;
}

export async function loader({ request, params }: Route.LoaderArgs): Promise<ReadingNotice[]> {
  const targets = await targetsOf(permit(request, params.plan, "reads"));
  return targets.flatMap(({ device, run, stale, everyMinutes, lastReadAt }): ReadingNotice[] => {
    const since = lastReadAt ? `was last polled at ${clockText(lastReadAt)}` : "was never polled";
    return [
      ...(stale
        ? [
            {
              device,
              kind: "stale" as const,
              text: `${since}; its polling interval is ${everyMinutes} min`,
            },
          ]
        : []),
      ...(run?.state === "failed"
        ? [{ device, kind: "not-read" as const, text: `could not be polled: ${run.told}` }]
        : []),
      ...(run?.state === "read" && run.differences
        ? [
            {
              device,
              kind: "differs" as const,
              text: `has ${run.differences} ${run.differences === 1 ? "difference" : "differences"} from the plan`,
            },
          ]
        : []),
    ];
  });
}
