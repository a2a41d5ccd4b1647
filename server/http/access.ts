import type { Request, RequestHandler, Response } from "express";
import { hasAccounts } from "../access/accounts.ts";
import { type Actor, roleOf } from "../access/actor.ts";
import { bearerIn } from "../access/bearer.ts";
import { type Needed, neededFor } from "../access/needs.ts";
import { providerSettings } from "../access/provider.ts";
import { addToRecord } from "../access/record.ts";
import { atLeast } from "../access/roles.ts";
import { actorBySignIn, secretIn } from "../access/sign-ins.ts";
import { actorByToken } from "../access/tokens.ts";
import { errorText, log } from "../log.ts";
import { visitorOf } from "../session.ts";
import { tellOthers } from "../webhooks/webhooks.ts";
import { refuse } from "./refuse.ts";

/** Whether who asks has to say who they are: there are accounts, or a sign-in provider. */
export async function isShared(): Promise<boolean> {
  return providerSettings() !== null || (await hasAccounts());
}

/**
 * Lets through what whoever asks may do, and nothing else. Alone on one machine everybody may do everything; a token
 * that is sent counts there too. `res.locals.actor` is who asks, null where nobody has to say.
 */
export const access: RequestHandler = async (req, res, next) => {
  const token = req.headers.authorization === undefined ? null : bearerIn(req.headers.authorization);
  const sent = req.headers.authorization !== undefined;
  const actor = sent ? token && (await actorByToken(token)) : await signedIn(req);
  if (sent && !actor) return refuseToken(res);
  res.locals.actor = actor || null;
  const needed = neededFor(req.method, req.path);
  if (!actor && !(await isShared())) {
    res.locals.needed = needed;
    return next();
  }
  if (!needed) return refuse(res, 404, "There is nothing here.");
  res.locals.needed = needed;
  if (mayHave(needed, actor || null)) return next();
  if (!actor) return askWho(req, res);
  refuse(
    res,
    403,
    `${actor.name} may not do this: it needs somebody who ${needed.need}, and ${needed.plan === null ? "here" : "in this plan"} the role is "${roleOf(actor, needed.plan)}".`,
  );
};

/** Whether somebody may have what is needed; null: nobody has said who they are. */
export function mayHave({ need, plan }: Needed, actor: Actor | null): boolean {
  if (need === "anyone") return true;
  if (!actor) return false;
  return need === "signed in" || atLeast(roleOf(actor, plan), need);
}

async function signedIn(req: Request): Promise<Actor | null> {
  const secret = secretIn(req.headers.cookie);
  return secret === null ? null : actorBySignIn(secret);
}

function refuseToken(res: Response) {
  res.set("WWW-Authenticate", 'Bearer error="invalid_token"');
  refuse(res, 401, "This token is not good here: it is unknown, has run out, or was revoked.");
}

/** Leads a page to signing in; says so to all else. */
function askWho(req: Request, res: Response) {
  const isPage = (req.headers.accept ?? "").includes("text/html") && !req.path.endsWith(".data");
  if (isPage && req.method !== "POST")
    return res.redirect(303, `/sign-in?to=${encodeURIComponent(req.originalUrl)}`);
  if (req.path.startsWith("/api/")) res.set("WWW-Authenticate", "Bearer");
  refuse(
    res,
    401,
    "Sign in first: this page was signed out, or never was signed in. What you typed is still here.",
  );
}

/** Puts whatever is changed, or was to be, on record once it is answered. */
export const recorded: RequestHandler = (req, res, next) => {
  if (req.method !== "POST") return next();
  res.on("finish", () => {
    void keep(req, res).catch((error) =>
      log.error({ request: res.locals.requestId, error: errorText(error) }, "not on record"),
    );
  });
  next();
};

async function keep(req: Request, res: Response) {
  const [path] = req.originalUrl.split("?");
  const needed = res.locals.needed as Needed | undefined;
  const actor = res.locals.actor as Actor | null | undefined;
  // What computes and changes nothing is no deed.
  if (needed?.need === "reads") return;
  const doing = doingOf(req);
  const who = actor?.name ?? (await nameOf(req));
  const action = `POST ${needed?.path ?? "?"}${doing ? `: ${doing}` : ""}`;
  if (needed?.plan && res.statusCode < 400)
    await tellOthers(needed.plan, {
      type: action,
      plan: needed.plan,
      subject: path.slice(0, 300),
      who,
      at: new Date().toISOString(),
      request: String(res.locals.requestId),
    });
  await addToRecord({
    who,
    account: actor?.account ?? null,
    address: req.ip ?? "",
    action,
    subject: path.slice(0, 300),
    status: res.statusCode,
    request: String(res.locals.requestId),
    detail: {},
  });
}

/** The name that somebody goes by where nobody signs in. */
async function nameOf(req: Request): Promise<string> {
  const cookie = req.headers.cookie;
  if (!cookie) return "nobody that said who";
  return (await visitorOf(new globalThis.Request("http://here/", { headers: { Cookie: cookie } }))).name;
}

/** What a form says that it does; "" where it does not say, or is too large to be looked at. */
function doingOf(req: Request): string {
  if (!Buffer.isBuffer(req.body) || req.body.length > 64 * 1024) return "";
  const type = req.headers["content-type"] ?? "";
  const text = req.body.toString("utf8");
  const found = type.startsWith("application/x-www-form-urlencoded")
    ? new URLSearchParams(text).get("do")
    : type.startsWith("application/json")
      ? /"do"\s*:\s*"([\w -]{1,40})"/.exec(text)?.[1]
      : /name="do"\r\n\r\n([\w -]{1,40})\r\n/.exec(text)?.[1];
  return (found ?? "").slice(0, 40);
}
