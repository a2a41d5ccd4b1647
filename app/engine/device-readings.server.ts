import { formatPrefix, parsePrefix } from "../../core/address/index.ts";
import { addTo } from "../../core/collections/index.ts";
import { mannerOf, type TableCheck } from "../../core/steps/index.ts";
import type { DeviceFacts } from "../../exchange/facts/index.ts";
import type { TextedRunbook } from "../../exchange/texts/index.ts";
import type { ReadablePlan } from "../../server/access/grants.ts";
import { targetsOf } from "../../server/live/targets.ts";
import { newestReadings } from "../../server/readings.ts";

/** The latest reading of a device, compared with a check. */
export interface ReadLine {
  readonly vrf: string;
  readonly to: string;
  /** The next hops or discard actions of the active routes, in the checks' wording; empty without any. */
  readonly inUse: readonly string[];
}

export interface DeviceReadings {
  /** By device: when it was last read, what its tables then said of the lines that the runbook looks at. */
  readonly [device: string]: {
    readonly readAt: string;
    readonly lines: readonly ReadLine[];
  };
}

export interface Live {
  /** Devices that can be read, with their targets' numbers and whether one is being read now. */
  readonly targets: readonly {
    readonly device: string;
    readonly target: string;
    readonly reading: boolean;
  }[];
  readonly seen: DeviceReadings;
}

/** Whatever a device that can be read said last of the lines that the runbook checks. */
export async function readingsFor(
  plan: ReadablePlan,
  { visits }: Pick<TextedRunbook, "visits">,
): Promise<Live> {
  const [readings, targets] = await Promise.all([newestReadings<DeviceFacts>(plan, null), targetsOf(plan)]);
  const checks = new Map<string, TableCheck[]>();
  for (const { before, after } of visits)
    for (const check of [...before, ...after]) if (check.kind === "table") addTo(checks, check.device, check);
  const seen = readings.flatMap(({ device, readAt, facts }) => {
    const own = checks.get(device);
    if (!own) return [];
    const distinct = new Map(own.map((check) => [`${check.vrf} ${check.to}`, check]));
    const lines = [...distinct.values()].map(({ vrf, to }) => ({ vrf, to, inUse: inUseOf(facts, vrf, to) }));
    return [[device, { readAt: readAt.toISOString(), lines }] as const];
  });
  const wanted = new Set(visits.map(({ device }) => device));
  return {
    targets: targets
      .filter(({ device }) => wanted.has(device))
      .map(({ id, device, run }) => ({
        device,
        target: id,
        reading: run?.state === "waiting" || run?.state === "reading",
      })),
    seen: Object.fromEntries(seen),
  };
}

/** The routes that a device forwards by to a destination, as the checks of a runbook tell them. */
function inUseOf(facts: DeviceFacts, vrf: string, to: string): string[] {
  const own = facts.routes.filter((route) => {
    const prefix = parsePrefix(route.to);
    return (
      prefix &&
      formatPrefix(prefix) === to &&
      route.vrf === vrf &&
      route.table === null &&
      route.active !== false
    );
  });
  // Devices tell interfaces by names of their own: beside a next hop they say nothing.
  const told = own.map(({ discard, via, out, source }) =>
    mannerOf({ discard: discard ?? undefined, via, out: via ? null : out, source: source ?? "static" }),
  );
  return [...new Set(told)].sort();
}
