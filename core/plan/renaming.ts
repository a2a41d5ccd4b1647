import { differencePlans } from "./difference.ts";
import type { Edit } from "./edit.ts";
import type { Plan } from "./plan.ts";
import { namedBy, rewritten, type Target } from "./reference-table.ts";

/** The item to rename: a device, link, gateway or profile by its id; an interface, watch or zone of a device by its
 * name. */
export type RenamingTarget =
  | { device: string }
  | { link: string }
  | { gateway: string }
  | { profile: string }
  | { risk: string }
  | { pair: string }
  | { interface: string; of: string }
  | { watch: string; of: string }
  | { zone: string; of: string };

/**
 * A plan in which something has another name, and every reference to it follows. Whether the new name is free and well formed is
 * checked when the edit is applied.
 */
export function renamed(plan: Plan, what: RenamingTarget, to: string): Plan {
  const [[kind, from]] = Object.entries(what);
  const owners = "of" in what ? [what.of, mateOf(plan, what)] : [];
  const isRenamed = (target: Target) =>
    target.kind === kind && target.name === from && (!("of" in target) || owners.includes(target.of));
  return rewritten(plan, (text, reference, owner) => {
    const { targets, write } = namedBy(reference, text, owner);
    if (!targets.some(isRenamed)) return text;
    return write(targets.map((target) => (isRenamed(target) ? to : target.name)));
  });
}

/** The renaming as an edit; null if no item has the name. */
export function renamingOf(plan: Plan, what: RenamingTarget, to: string): Edit | null {
  const changes = differencePlans(plan, renamed(plan, what, to));
  const [[kind, from]] = Object.entries(what);
  return changes.length === 0 ? null : { label: `Rename the ${kind} ${from} to ${to}`, changes };
}

/** The other of a pair, in which an interface or a watch has the same name: the two are written as one. */
function mateOf(plan: Plan, what: Extract<RenamingTarget, { of: string }>): string | null {
  if ("zone" in what) return null;
  const pair = plan.pairs.find(({ members }) => members.includes(what.of));
  return pair?.members.find((id) => id !== what.of) ?? null;
}
