import { atLeast, type Role } from "./roles.ts";

/** Who asks, where accounts are in use. */
export interface Actor {
  /** The account; null for a token of a machine that is served alone. */
  readonly account: string | null;
  readonly name: string;
  readonly role: Role;
  /** Roles in single plans, by their numbers, in place of `role`. */
  readonly plans: Readonly<Record<string, Role>>;
  readonly via: "sign-in" | "token";
}

/**
 * The header by which the web server tells its threads who asks. What comes from outside under this name is taken
 * away before anything reads it.
 */
export const ACTOR_HEADER = "x-iron-fork-actor";

/** The header by which threads are told from which address a request came. */
export const FROM_HEADER = "x-iron-fork-from";

export function actorText(actor: Actor): string {
  return encodeURIComponent(JSON.stringify(actor));
}

/** Who asks; null where the application serves one machine alone, and everybody there may do everything. */
export function actorOf(request: Request): Actor | null {
  const text = request.headers.get(ACTOR_HEADER);
  return text === null ? null : (JSON.parse(decodeURIComponent(text)) as Actor);
}

/** What an actor may do in a plan, or in the workspace. */
export function roleOf(actor: Actor | null, plan: string | null): Role {
  if (!actor) return "administers";
  return (plan === null ? undefined : actor.plans[plan]) ?? actor.role;
}

/** Whether who asks may do what a role may; in a plan, or in the workspace where none is given. */
export function may(request: Request, needed: Role, plan: string | null = null): boolean {
  return atLeast(roleOf(actorOf(request), plan), needed);
}
