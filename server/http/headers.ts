import { randomBytes, randomUUID } from "node:crypto";
import type { RequestHandler, Response } from "express";
import helmet from "helmet";

/** Gives each request its number, which the log and every error tell, and its page the word that its scripts need. */
export const numbered: RequestHandler = (_req, res, next) => {
  res.locals.requestId = randomUUID();
  res.locals.nonce = randomBytes(16).toString("base64");
  res.set("X-Request-Id", res.locals.requestId);
  next();
};

/** Restrictions for browsers: only this server's scripts, inline ones only with the request's nonce; no frames; no
 * content of other sites. Inline styles are allowed (`style` attributes and the chart's own sheet). */
export const securityHeaders: RequestHandler = helmet({
  contentSecurityPolicy: {
    useDefaults: false,
    directives: {
      defaultSrc: ["'none'"],
      scriptSrc: ["'self'", (_req, res) => `'nonce-${(res as Response).locals.nonce}'`],
      scriptSrcAttr: ["'none'"],
      styleSrc: ["'self'", "'unsafe-inline'"],
      imgSrc: ["'self'", "data:", "blob:"],
      fontSrc: ["'self'"],
      connectSrc: ["'self'"],
      workerSrc: ["'self'"],
      manifestSrc: ["'self'"],
      formAction: ["'self'"],
      frameAncestors: ["'none'"],
      baseUri: ["'none'"],
      objectSrc: ["'none'"],
    },
  },
  strictTransportSecurity: false,
  referrerPolicy: { policy: "same-origin" },
  crossOriginEmbedderPolicy: false,
  xFrameOptions: { action: "deny" },
});

/** Over TLS, browsers must use TLS from then on (RFC 6797). */
export const overTls: RequestHandler = (req, res, next) => {
  if (req.secure) res.set("Strict-Transport-Security", "max-age=31536000");
  next();
};
