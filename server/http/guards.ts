import type { Request, RequestHandler } from "express";
import { bearerIn } from "../access/bearer.ts";
import { isAllowedHost, isOwnOrigin, type Options } from "./options.ts";
import { refuse } from "./refuse.ts";

/** Refuses requests for another host name, with another method, or from another site's page (access.md). */
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
      refuse(res, 405, `${req.method.slice(0, 20)} is not supported. Use GET or POST.`);
    },
    (req, res, next) => {
      if (req.method !== "POST" || isFromHere(req)) return next();
      refuse(
        res,
        403,
        "Not saved: the request comes from a page of another site. Use this application's own pages.",
      );
    },
  ];
}

/** Whether a request that changes something comes from a page of this server: by Sec-Fetch-Site, else by Origin. */
function isFromHere({ headers, protocol }: Request): boolean {
  const site = headers["sec-fetch-site"];
  if (site !== undefined) return site === "same-origin";
  const { origin, authorization, cookie } = headers;
  // A program that says who it is: no page of another site can send a token, and without cookies it has nothing else.
  if (origin === undefined && cookie === undefined && bearerIn(authorization)) return true;
  return origin !== undefined && isOwnOrigin(origin, headers.host, protocol);
}
