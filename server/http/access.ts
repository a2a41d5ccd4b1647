import type { Request, RequestHandler, Response } from "express";
import { hasAccounts } from "../access/accounts.ts";
import { type Actor, roleOf } from "../access/actor.ts";
import { bearerIn } from "../access/bearer.ts";
import { type Needed, neededFor } from "../access/needs.ts";
import { providerSettings } from "../access/provider.ts";
import { atLeast, type Role, roleNames } from "../access/roles.ts";
import { actorBySignIn, secretIn } from "../access/sign-ins.ts";
import { actorByToken } from "../access/tokens.ts";
import { refuse } from "./refuse.ts";

/** What the web server knows of a request, in `res.locals`. */
export interface RequestLocals {
  readonly requestId: string;
  readonly nonce: string;
  /** The address by which access is decided, and which the threads answer. */
  url: URL;
  /** The requester; null if anonymous. */
  actor?: Actor | null;
  /** Whether no accounts are in use: everybody on this machine may do everything. */
  alone?: boolean;
  /** The permission that its address requires; null if it is not answered. */
  needed?: Needed | null;
  /** The work that goes on for it, whether or not anybody still waits. It never fails; the status that it came to. */
  work?: Promise<number>;
}

export const localsOf = (res: Response) => res.locals as RequestLocals;

/** Who sends a request, as far as limits tell people apart. */
export function personOf(req: Request, res: Response): string {
  return localsOf(res).actor?.account ?? req.ip ?? "";
}

/** Whether who asks has to say who they are: there are accounts, or a sign-in provider. */
async function isShared(): Promise<boolean> {
  return providerSettings() !== null || (await hasAccounts());
}

/**
 * Lets through what whoever asks may do, and nothing else. Alone on one machine everybody may do everything; a token
 * that is sent counts there too.
 */
export const access: RequestHandler = async (req, res, next) => {
  const locals = localsOf(res);
  const needed = neededFor(req.method, locals.url.pathname);
  locals.needed = needed;
  const sent = req.headers.authorization !== undefined;
  const actor = await actorIn(req);
  if (sent && !actor) return refuseToken(res);
  locals.actor = actor;
  locals.alone = !actor && !(await isShared());
  if (locals.alone) return next();
  if (!needed) return refuse(res, 404, "Not found.");
  if (mayHave(needed, actor)) return next();
  if (!actor) return requireSignIn(req, res);
  const own = roleNames[roleOf(actor, needed.plan)];
  // Nobody lacks the right to what needs no role.
  const wanted = roleNames[needed.need as Role];
  const where = needed.plan === null ? "here" : "in this plan";
  refuse(
    res,
    403,
    `You do not have permission to do this. It needs the role ${wanted}; your role ${where} is ${own}.`,
  );
};

/** Whether a requester has a permission; null is an anonymous requester. */
function mayHave({ need, plan }: Needed, actor: Actor | null): boolean {
  if (need === "anyone") return true;
  if (!actor) return false;
  return need === "signed in" || atLeast(roleOf(actor, plan), need);
}

/** Whether a request that was let through would be let through now: roles change, and accounts are disabled. */
export async function mayStill(req: Request, res: Response): Promise<boolean> {
  const { needed, alone } = localsOf(res);
  if (alone) return !(await isShared());
  return needed ? mayHave(needed, await actorIn(req)) : false;
}

/** Who sends a request: by its token where it has one, else by its sign-in. */
async function actorIn(req: Request): Promise<Actor | null> {
  if (req.headers.authorization !== undefined) {
    const token = bearerIn(req.headers.authorization);
    return token ? actorByToken(token) : null;
  }
  const secret = secretIn(req.headers.cookie);
  return secret === null ? null : actorBySignIn(secret);
}

function refuseToken(res: Response) {
  res.set("WWW-Authenticate", 'Bearer error="invalid_token"');
  refuse(res, 401, "This token is not valid: it is unknown, expired or revoked.");
}

/** Redirects a page to sign-in; answers other requests with an error. */
function requireSignIn(req: Request, res: Response) {
  const { pathname, search } = localsOf(res).url;
  const isPage = (req.headers.accept ?? "").includes("text/html") && !pathname.endsWith(".data");
  if (isPage && req.method !== "POST")
    return res.redirect(303, `/sign-in?to=${encodeURIComponent(`${pathname}${search}`)}`);
  if (pathname.startsWith("/api/")) res.set("WWW-Authenticate", "Bearer");
  refuse(res, 401, "Sign in first. What you typed is still here.");
}
