import { addTo } from "../collections/index.ts";
import { formatElement, interfaceElement, linkElement, withRoles } from "../network/index.ts";
import { outcomeIn, priorityOf } from "../settle/index.ts";
import { World } from "../walk/index.ts";
import type { Context, TracedFlow } from "./context.ts";
import { flowsBy, type VirtualState, virtualStates } from "./virtual.ts";

/** An exit whose loss does not move the Active role although the Backup could carry the traffic. */
export interface UntrackedExit {
  readonly standing: VirtualState;
  readonly out: number;
  /** The reference of what failed. */
  readonly failed: string;
  readonly flows: readonly TracedFlow[];
  /** How far the priority of the Active then falls, and the priority that it has to fall below. */
  readonly lowered: number;
  readonly needed: number;
  readonly preempts: boolean;
}

/** Exits of Active virtual routers whose loss triggers no failover (rule 14.6). */
export function untrackedExits(context: Context): readonly UntrackedExit[] {
  return context.once("virtual routers that stay", () =>
    virtualStates(context).flatMap((standing) => {
      const byOut = new Map<number, TracedFlow[]>();
      for (const { asked, out } of flowsBy(context, standing))
        if (context.working.has(asked)) addTo(byOut, out, asked);
      return [...byOut].flatMap(([out, flows]) => exitsOfVirtual(context, standing, out, flows) ?? []);
    }),
  );
}

function exitsOfVirtual(
  context: Context,
  standing: VirtualState,
  out: number,
  flows: readonly TracedFlow[],
): UntrackedExit | null {
  const { network } = context;
  const { active, backup } = standing;
  const link = network.interfaces.link[out];
  if (out === active.interface || link < 0 || link >= network.links.planned) return null;
  const element =
    network.interfaces.parent[out] >= 0 ? interfaceElement(network, out) : linkElement(network, link);
  const settled = context.settle([element]);
  const { state } = settled.world;
  if (settled.flapping.length || !state.roles.virtualActive[active.index]) return null;
  const moved = state.roles.virtualActive.map((on, v) =>
    standing.group.members.includes(v) ? Number(v === backup.index) : on,
  );
  const there = new World(withRoles(state, { ...state.roles, virtualActive: moved }), settled.world.store);
  const works = (world: World, { question }: TracedFlow) =>
    outcomeIn(world, question, context.gateways).verdict === "works";
  const lost = flows.filter((asked) => !works(settled.world, asked) && works(there, asked));
  if (lost.length === 0) return null;
  return {
    standing,
    out,
    failed: formatElement(network, element),
    flows: lost,
    lowered: priorityOf(state, active.index),
    needed: priorityOf(state, backup.index),
    preempts: backup.preempt || backup.owner,
  };
}
