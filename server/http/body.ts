import express, { type ErrorRequestHandler, type RequestHandler } from "express";
import { LIMITS } from "../../core/plan/index.ts";
import { refuse } from "./refuse.ts";

const KB = 1024;
const MB = 1024 * KB;

/** Limits for request bodies: size and types. Paths without their `.data` suffix. */
interface BodyLimit {
  readonly path: RegExp;
  readonly bytes: number;
  readonly types: readonly string[];
}

const JSON_BODY = ["application/json"];
const FORMS = ["application/x-www-form-urlencoded", "multipart/form-data"];

/** The largest edit that is taken. */
const MAX_EDIT_BYTES = 4 * MB;

const bodyLimits: readonly BodyLimit[] = [
  // A form holds a document with some words around it.
  { path: /^\/plans\/?$/, bytes: LIMITS.upload + 64 * KB, types: FORMS },
  { path: /^\/plans\/[^/]+\/edit$/, bytes: MAX_EDIT_BYTES, types: JSON_BODY },
  // Device readings may be as large as a document, as facts or as an archive.
  { path: /^\/plans\/[^/]+\/readings$/, bytes: LIMITS.upload, types: JSON_BODY },
  { path: /^\/plans\/[^/]+\/archive$/, bytes: LIMITS.upload + 64 * KB, types: FORMS },
  { path: /^\/plans\/[^/]+\/layouts$/, bytes: 2 * MB, types: FORMS },
  { path: /^\/plans\/[^/]+\/drift$/, bytes: MB, types: FORMS },
  { path: /^\/plans\/[^/]+\/sweeps$/, bytes: 128 * KB, types: JSON_BODY },
  { path: /^\/plans\/[^/]+\/sweeps\/[^/]+$/, bytes: KB, types: [...FORMS, ...JSON_BODY, ""] },
  { path: /^\/api\/v1\/plans$/, bytes: LIMITS.upload + 64 * KB, types: JSON_BODY },
  { path: /^\/api\/v1\/plans\/[^/]+\/edits$/, bytes: MAX_EDIT_BYTES, types: JSON_BODY },
  { path: /^\/api\/v1\/plans\/[^/]+\/facts$/, bytes: LIMITS.upload, types: JSON_BODY },
  { path: /^\/api\//, bytes: 64 * KB, types: JSON_BODY },
  { path: /^\/name$/, bytes: 16 * KB, types: FORMS },
];
const ELSEWHERE: Omit<BodyLimit, "path"> = { bytes: 64 * KB, types: [...FORMS, ...JSON_BODY] };

function takenAt(path: string): Omit<BodyLimit, "path"> {
  const plain = path.replace(/\.data$/, "");
  return bodyLimits.find((entry) => entry.path.test(plain)) ?? ELSEWHERE;
}

function sizeText(bytes: number): string {
  return bytes >= MB ? `${Math.floor(bytes / MB)} MB` : `${Math.floor(bytes / KB)} kB`;
}

/** Reads the request body as bytes, limited by its address's size and types. */
export const readBody: RequestHandler = (req, res, next) => {
  if (req.method !== "POST") return next();
  const { bytes, types } = takenAt(req.path);
  const type = (req.headers["content-type"] ?? "").split(";")[0].trim().toLowerCase();
  if (!types.includes(type)) {
    const wanted = types.filter((name) => name !== "").join(" or ");
    return refuse(
      res,
      415,
      `Send ${wanted}; the request has ${type === "" ? "no content type" : `"${type.slice(0, 80)}"`}.`,
    );
  }
  express.raw({ limit: bytes, type: () => true, inflate: false })(req, res, next);
};

/** Tells in a sentence why a body was not read. */
export const bodyErrors: ErrorRequestHandler = (error, req, res, next) => {
  const status = Number(error?.status);
  if (status === 413) {
    const { bytes } = takenAt(req.path);
    // The rest of the upload is not read.
    res.set("Connection", "close");
    return refuse(res, 413, `Not saved: too large. At most ${sizeText(bytes)} can be sent here.`);
  }
  if (status >= 400 && status < 500)
    return refuse(res, 400, "Not saved: the request was interrupted or is malformed. Try again.");
  next(error);
};
