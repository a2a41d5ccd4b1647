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

/** The header by which threads are told from which address a request came. */
export const FROM_HEADER = "x-iron-fork-from";

/** The header's value where no accounts are in use. */
const ALONE = "alone";

/** `actor` as the header says it; null: no accounts are in use, so that everybody on the machine may do everything. */
export function actorText(actor: Actor | null): string {
  return actor === null ? ALONE : encodeURIComponent(JSON.stringify(actor));
}

/**
 * Who sends a request; null where no accounts are in use, so that everybody on the machine may do everything. A request
 * of which nobody says who sends it is a stranger's.
 */
export function actorOf(request: Request): Actor | null {
  const text = request.headers.get(ACTOR_HEADER);
  // The development server has no web server of ours before it.
  const develops = process.env.NODE_ENV !== "production" && process.env.IRON_FORK_DEVELOPMENT === "1";
  if (text === null) return develops ? null : STRANGER;
  return text === ALONE ? null : (JSON.parse(decodeURIComponent(text)) as Actor);
}

/** The account that is signed in; null for a stranger, and where no accounts are in use. */
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

/** Whether the requester may do what a role may; in a plan, or in the workspace where none is given. */
export function may(request: Request, needed: Role, plan: string | null = null): boolean {
  return atLeast(roleOf(actorOf(request), plan), needed);
}
