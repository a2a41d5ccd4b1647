import { type Change, fieldValue, type Interface, type Plan, type Watch } from "../../../core/plan/index.ts";
import type { MovedVirtual } from "../../../core/reports/index.ts";

/** Something whose times can be turned: a watch or a virtual router that took part. */
export interface Turnable {
  name: string;
  /** The adjustable values: key and label. */
  knobs: readonly (readonly [key: string, text: string])[];
  value(key: string): string;
  /** The change with the typed numbers; null if nothing differs. */
  change(typed: (key: string) => number | null): Change | null;
}

const knobsOfWatch = {
  probe: [
    ["intervalMs", "interval"],
    ["timeoutMs", "timeout"],
    ["failAfter", "down after"],
    ["recoverAfter", "up after"],
  ],
  bfd: [
    ["minTxMs", "transmit interval"],
    ["minRxMs", "receive interval"],
    ["multiplier", "multiplier"],
  ],
} as const;

const knobsOfVirtual = [
  ["priority", "priority"],
  ["advertMs", "advertisement interval"],
  ["preemptDelayMs", "preempt delay"],
] as const;

type Values = Record<string, unknown>;

/** An item with the typed numbers; null if none differs. */
function turned<T extends object>(
  item: T,
  knobs: Turnable["knobs"],
  typed: (key: string) => number | null,
): T | null {
  const after = { ...item };
  for (const [key] of knobs) {
    const number = typed(key);
    if (number !== null) Object.assign(after, { [key]: number });
  }
  return knobs.every(([key]) => (after as Values)[key] === (item as Values)[key]) ? null : after;
}

function turnableWatch(plan: Plan, name: string): Turnable[] {
  const slash = name.indexOf("/");
  const device = name.slice(0, slash);
  const watch = plan.devices
    .find((entry) => entry.id === device)
    ?.watches.find((entry) => entry.id === name.slice(slash + 1));
  if (!watch || (watch.kind !== "probe" && watch.kind !== "bfd")) return [];
  const knobs = knobsOfWatch[watch.kind];
  return [
    {
      name,
      knobs,
      value: (key) => fieldValue(key, (watch as Values)[key]),
      change: (typed) => {
        const after: Watch | null = turned(watch, knobs, typed);
        return after && { in: "device", device, collection: "watches", before: watch, after };
      },
    },
  ];
}

/** A virtual router that took part; its interface is the plan's item that changes. */
function turnableVirtual(plan: Plan, { device, port: name, id }: MovedVirtual): Turnable[] {
  const port = plan.devices
    .find((entry) => entry.id === device)
    ?.interfaces.find((entry) => entry.name === name);
  const router = port?.virtual?.find((entry) => entry.id === id);
  if (!port || !router) return [];
  return [
    {
      name: `${device}/${name} ${id}`,
      knobs: knobsOfVirtual,
      value: (key) => fieldValue(key, (router as Values)[key]),
      change: (typed) => {
        const now = turned(router, knobsOfVirtual, typed);
        if (!now) return null;
        const virtual = (port.virtual ?? []).map((entry) => (entry === router ? now : entry));
        const after: Interface = { ...port, virtual };
        return { in: "device", device, collection: "interfaces", before: port, after };
      },
    },
  ];
}

/** What took part in an outage and can be turned. */
export function turnablesOf(
  plan: Plan,
  watches: readonly string[],
  moved: readonly MovedVirtual[],
): Turnable[] {
  return [
    ...watches.flatMap((name) => turnableWatch(plan, name)),
    ...moved.flatMap((one) => turnableVirtual(plan, one)),
  ];
}

/** The changes from adjusted values; virtual routers of one interface belong to one item of the plan. */
export function changesOf(
  turnables: readonly Turnable[],
  typed: (name: string, key: string) => number | null,
): { names: string[]; changes: Change[] } {
  const names: string[] = [];
  const changes: Change[] = [];
  for (const { name, change } of turnables) {
    const made = change((key) => typed(name, key));
    if (!made) continue;
    names.push(name);
    const at = changes.findIndex((one) => one.before === made.before);
    if (at < 0) changes.push(made);
    else changes[at] = bothTurned(changes[at], made);
  }
  return { names, changes };
}

/** Two changes of one interface, each of another virtual router of it. */
function bothTurned(one: Change, other: Change): Change {
  const [before, a, b] = [one.before, one.after, other.after] as [Interface, Interface, Interface];
  const virtual = (before.virtual ?? []).map((router, n) =>
    b.virtual?.[n] === router ? (a.virtual?.[n] ?? router) : (b.virtual?.[n] ?? router),
  );
  return { ...one, after: { ...before, virtual } } as Change;
}
