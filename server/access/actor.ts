import { atLeast, type Role } from "./roles.ts";

/** Who sends a request. */
export interface Actor {
  /** The account; null for a token made without accounts, and for whoever has not signed in. */
  readonly account: string | null;
  readonly name: string;
  readonly role: Role;
  /** Roles in single plans, by their numbers, in place of `role`. */
  readonly plans: Readonly<Record<string, Role>>;
  readonly via: "sign-in" | "token" | "nothing";
}

/** Whoever has not signed in where accounts are in use. */
const STRANGER: Actor = {
  account: null,
  name: "not signed in",
  role: "none",
  plans: {},
  via: "nothing",
};

/**
 * The header by which the web server tells its threads who sends a request. Headers of this name that come from outside
 * are removed before anything reads them.
 */
export const ACTOR_HEADER = "x-iron-fork-actor";

/** The header that carries the client's address to the threads. */
export const FROM_HEADER = "x-iron-fork-from";

/** The header's value if sign-in is off. */
const ALONE = "alone";

/** `actor` as the header says it; null: no accounts are in use, so that everybody on the machine may do everything. */
export function actorText(actor: Actor | null): string {
  return actor === null ? ALONE : encodeURIComponent(JSON.stringify(actor));
}

/** The sender of a request; null if sign-in is off, so that everyone on the machine has full access. A request without
 * a sender is anonymous. */
export function actorOf(request: Request): Actor | null {
  const text = request.headers.get(ACTOR_HEADER);
  // The development server has no web server of ours before it.
  const develops = process.env.NODE_ENV !== "production" && process.env.IRON_FORK_DEVELOPMENT === "1";
  if (text === null) return develops ? null : STRANGER;
  return text === ALONE ? null : (JSON.parse(decodeURIComponent(text)) as Actor);
}

/** The signed-in account; null if anonymous or if sign-in is off. */
export function signedInAs(request: Request): Actor | null {
  const actor = actorOf(request);
  return actor?.via === "nothing" ? null : actor;
}

/** Whether accounts are in use, so that whoever sends the request has signed in. */
export function isShared(request: Request): boolean {
  return actorOf(request) !== null;
}

/** What an actor may do in a plan, or in the workspace. */
export function roleOf(actor: Actor | null, plan: string | null): Role {
  if (!actor) return "administers";
  return (plan === null ? undefined : actor.plans[plan]) ?? actor.role;
}

/** Whether the requester has a role's permissions, in a plan or by default in the workspace. */
export function may(request: Request, needed: Role, plan: string | null = null): boolean {
  return atLeast(roleOf(actorOf(request), plan), needed);
}
