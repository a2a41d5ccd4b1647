import type { Request, RequestHandler, Response } from "express";
import { type Audit, auditText } from "../access/audit.ts";
import { addToRecord } from "../access/audit-log.ts";
import { shownPath } from "../access/needs.ts";
import { errorText, log } from "../log.ts";
import { visitorName } from "../session.ts";
import { localsOf } from "./access.ts";
import { RefusalCounter } from "./refusals.ts";

/** Ensures that every modifying request is in the audit log. Changes are logged with the change itself
 * (`server/access/audit.ts`); refusals and aborted requests are logged here, once all work for the request has ended.
 * Repeated refusals are only counted. */
export function auditing(ending: AbortSignal): RequestHandler {
  const refusals = new RefusalCounter();
  ending.addEventListener("abort", () => void refusals.flush());
  return (req, res, next) => {
    if (req.method !== "POST") return next();
    res.on("close", () => {
      void finish(req, res, refusals).catch((error) =>
        log.error({ request: localsOf(res).requestId, error: errorText(error) }, "not in the audit log"),
      );
    });
    next();
  };
}

async function finish(req: Request, res: Response, refusals: RefusalCounter) {
  const { needed, work } = localsOf(res);
  // Read-only requests are not audited.
  if (needed?.need === "reads") return;
  // The work continues after the client disconnects, and its result is logged.
  const status = work ? await work : res.statusCode;
  const { plan: _plan, ...deed } = await auditOf(req, res);
  const row = { ...deed, status, detail: {} };
  if (status < 400 || refusals.isNew(row)) await addToRecord(row);
}

/** What a request is about. In front of the access check, nothing but the visitor's name is known of who sends it. */
async function auditOf(req: Request, res: Response): Promise<Audit> {
  const { requestId, needed, actor, url } = localsOf(res);
  const doing = doingOf(req);
  return {
    who: actor?.name || (await visitorName(req.headers.cookie ?? null)),
    account: actor?.account ?? null,
    address: req.ip ?? "",
    action: `POST ${needed?.path ?? "?"}${doing ? `: ${doing}` : ""}`,
    subject: url ? shownPath(url.pathname) : "?",
    request: String(requestId),
    plan: needed?.plan ?? null,
  };
}

/** The header that tells a thread what a request does; none for what changes nothing. */
export async function auditHeader(req: Request, res: Response): Promise<string | null> {
  if (req.method !== "POST" || localsOf(res).needed?.need === "reads") return null;
  return auditText(await auditOf(req, res));
}

/** What a form says that it does; "" where it does not say, or is too large to be looked at. */
function doingOf(req: Request): string {
  if (!Buffer.isBuffer(req.body) || req.body.length > 64 * 1024) return "";
  const type = req.headers["content-type"] ?? "";
  const text = req.body.toString("utf8");
  const found = type.startsWith("application/x-www-form-urlencoded")
    ? new URLSearchParams(text).get("do")
    : type.startsWith("application/json")
      ? /"do"\s{0,9}:\s{0,9}"([\w -]{1,40})"/.exec(text)?.[1]
      : /name="do"\r\n\r\n([\w -]{1,40})\r\n/.exec(text)?.[1];
  return /^[\w -]{1,40}$/.test(found ?? "") ? (found ?? "") : "";
}
