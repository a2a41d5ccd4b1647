import type { RequestHandler } from "express";
import { bearerIn } from "../access/bearer.ts";
import { isAllowedHost, type Options } from "./options.ts";
import { refuse } from "./refuse.ts";

/** Refuses what comes under another host's name, by another method, or from another site's page (access.md). */
export function guards(options: Options): RequestHandler[] {
  return [
    (req, res, next) => {
      if (isAllowedHost(req.headers.host, options)) return next();
      refuse(
        res,
        421,
        `This server does not answer to the name "${req.headers.host ?? ""}". Use the address that bin/start prints, or allow the name with --allow-host.`,
      );
    },
    (req, res, next) => {
      if (req.method === "GET" || req.method === "HEAD" || req.method === "POST") return next();
      res.set("Allow", "GET, HEAD, POST");
      refuse(res, 405, `${req.method.slice(0, 20)} is not a method that is answered here; GET and POST are.`);
    },
    (req, res, next) => {
      if (req.method !== "POST" || isFromHere(req.headers, options)) return next();
      refuse(
        res,
        403,
        "This change was asked for by a page of another site, or by nobody that can be told, and was not made. Make it on this application's own pages.",
      );
    },
  ];
}

/** Whether a request that changes something comes from a page of this server: by Sec-Fetch-Site, else by Origin. */
function isFromHere(headers: NodeJS.Dict<string | string[]>, options: Options): boolean {
  const site = headers["sec-fetch-site"];
  if (site !== undefined) return site === "same-origin";
  const { origin, authorization, cookie } = headers;
  // A program that says who it is: no page of another site can send a token, and without cookies it has nothing else.
  if (origin === undefined && cookie === undefined && bearerIn(authorization as string | undefined))
    return true;
  if (typeof origin !== "string" || !URL.canParse(origin)) return false;
  return isAllowedHost(new URL(origin).host, options);
}
