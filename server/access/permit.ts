import { data } from "react-router";
import { actorOf, roleOf } from "./actor.ts";
import {
  type AdministeredPlan,
  type Administration,
  type ApprovablePlan,
  type EditablePlan,
  isPlanId,
  ownAdministration,
  ownPlan,
  type ReadablePlan,
} from "./grants.ts";
import { atLeast, type Role } from "./roles.ts";

export interface PermittedPlan {
  reads: ReadablePlan;
  edits: EditablePlan;
  approves: ApprovablePlan;
  administers: AdministeredPlan;
}

const actions: Readonly<Record<Exclude<Role, "none">, string>> = {
  reads: "view",
  edits: "edit",
  approves: "approve changes in",
  administers: "administer",
};

export type PlanRole = keyof PermittedPlan;

/**
 * The plan's id by which its data is reached. The web server has checked the role already, by the address; here it is
 * checked again on the id that is used.
 * @param plan the id as the address or the form has it
 * @throws 404 if `plan` cannot be an id, 403 if the requester lacks the role
 */
export function permit<R extends PlanRole>(request: Request, plan: string, role: R): PermittedPlan[R] {
  if (!isPlanId(plan)) throw data("There is no such plan.", { status: 404 });
  const found = permitIfAllowed(request, plan, role);
  if (!found) throw data(missingRole(role), { status: 403 });
  return found;
}

/** The same for a form that stays on its page: null if the requester lacks the role. */
export function permitIfAllowed<R extends PlanRole>(
  request: Request,
  plan: string,
  role: R,
): PermittedPlan[R] | null {
  return isPlanId(plan) && atLeast(roleOf(actorOf(request), plan), role) ? ownPlan(plan) : null;
}

/** The sentence for whoever lacks a role in a plan. */
export function missingRole(role: PlanRole): string {
  return `You do not have permission to ${actions[role]} this plan.`;
}

/** @throws 403 if the requester does not administer the workspace */
export function permitAdministration(request: Request): Administration {
  if (!atLeast(roleOf(actorOf(request), null), "administers"))
    throw data("You do not have permission to administer this workspace.", { status: 403 });
  return ownAdministration;
}
