import { once } from "node:events";
import { fileURLToPath } from "node:url";
import compression from "compression";
import express, {
  type ErrorRequestHandler,
  type Express,
  type Request,
  type RequestHandler,
  type Response,
} from "express";
import expressStaticGzip from "express-static-gzip";
import { ACTOR_HEADER, type Actor, actorText, FROM_HEADER } from "../access/actor.ts";
import { changeEvents } from "../changes/events.ts";
import { EVENT_HEADERS, sweepEvents } from "../jobs/events.ts";
import { errorText, log } from "../log.ts";
import { DATABASE_AWAY, database, isAway } from "../pool.ts";
import { access, recorded } from "./access.ts";
import { bodyErrors, readBody } from "./body.ts";
import { type Dispatch, MOST_MS } from "./dispatch.ts";
import { guards } from "./guards.ts";
import { numbered, overTls, securityHeaders } from "./headers.ts";
import { Unanswered } from "./lanes.ts";
import { metricsOf } from "./metrics.ts";
import type { Options } from "./options.ts";
import { refuse } from "./refuse.ts";

const client = fileURLToPath(new URL("../client/", import.meta.url));

/**
 * The web server: the one place where requests are guarded, limited, numbered and logged. It works nothing out on its
 * own thread: pages and changes are answered by threads.
 */
export function makeApp(options: Options, dispatch: Dispatch, ending: AbortSignal): Express {
  const app = express();
  app.disable("x-powered-by");
  app.set("etag", false);
  const metrics = metricsOf(dispatch);
  // Whose word on where a request came from is taken.
  app.set("trust proxy", options.behindProxy.length > 0 ? options.behindProxy : false);
  app.use(numbered, logged, metrics.observe, securityHeaders, overTls, ...guards(options));
  app.use("/assets", assets, noAsset);
  app.use(express.static(client, { maxAge: "1h", index: false }));
  app.get("/health", (_req, res) => void res.type("text").send("ok\n"));
  app.get("/ready", async (_req, res) => {
    await database().query("select 1");
    res.type("text").send("ok\n");
  });
  app.use(access, recorded);
  app.get("/metrics", metrics.tell);
  app.get("/plans/:plan/sweeps/:sweep/events", tellSweep(ending));
  app.get("/plans/:plan/changes/:change/events", tellChange(ending));
  app.use(compression());
  app.use((_req, res, next) => {
    if (!ending.aborted) return next();
    res.set("Connection", "close");
    refuse(res, 503, "The server is stopping. Nothing was changed; try again in a moment.");
  });
  app.use(readBody, answered(options, dispatch));
  app.use(bodyErrors, failed);
  return app;
}

/** The browser's own files, under names that change with what they hold; compressed by the build. */
const assets = expressStaticGzip(`${client}assets`, {
  enableBrotli: true,
  orderPreference: ["br", "gzip"],
  index: false,
  serveStatic: { immutable: true, maxAge: "1y", fallthrough: false },
});

/** What was about to be sent is not: no word of it may stand over the sentence that is sent in its place. */
const noAsset: ErrorRequestHandler = (error, _req, res, next) => {
  for (const name of ["Content-Encoding", "Content-Type"]) res.removeHeader(name);
  // A way out of the folder is none, as a file that there is not.
  if (error.status === 404 || error.status === 403) refuse(res, 404, "There is no such file.");
  else next(error);
};

/** A line for each answer that is not an asset's. */
const logged: RequestHandler = (req, res, next) => {
  const started = performance.now();
  res.on("finish", () => {
    // What was asked for, without its query: that may hold what somebody typed.
    const [path] = req.originalUrl.split("?");
    if (path.startsWith("/assets/")) return;
    const { requestId } = res.locals;
    const line = { request: requestId, method: req.method, path, status: res.statusCode };
    log.info({ ...line, ms: Math.round(performance.now() - started) }, "answered");
  });
  next();
};

/** Server-sent events of a sweep, until it is done or the page goes. */
function tellSweep(ending: AbortSignal): RequestHandler<{ plan: string; sweep: string }> {
  return ({ params }, res) =>
    tell(res, ending, "sweep", (signal) => sweepEvents(params.plan, params.sweep, signal));
}

/** Server-sent events of a change that people follow, until the page goes. */
function tellChange(ending: AbortSignal): RequestHandler<{ plan: string; change: string }> {
  return ({ params }, res) =>
    tell(res, ending, "change", (signal) => changeEvents(params.plan, params.change, signal));
}

async function tell(
  res: Response,
  ending: AbortSignal,
  of: string,
  begin: (signal: AbortSignal) => Promise<AsyncGenerator<string> | null>,
) {
  const gone = new AbortController();
  res.on("close", () => gone.abort());
  const events = await begin(AbortSignal.any([gone.signal, ending]));
  if (!events) return refuse(res, 404, `There is no such ${of}.`);
  res.set(EVENT_HEADERS).flushHeaders();
  for await (const event of events) {
    if (!res.write(event)) await Promise.race([once(res, "drain"), once(res, "close")]);
  }
  res.end();
}

/** The plan that an address is about; "" for none. */
function planOf(path: string): string {
  return /^(?:\/api\/v1)?\/plans\/(\d{1,18})(?:[/.]|$)/.exec(path)?.[1] ?? "";
}

const sentences: Record<Unanswered["why"], string> = {
  time: `Working this out takes longer than ${MOST_MS / 1000} s, so it was stopped. Make the plan smaller, or ask for less at once.`,
  memory:
    "Working this out takes more memory than a request may have, so it was stopped. Make the plan smaller.",
  left: "Nobody waits for this any more.",
  busy: "Too much waits to be answered already. Try again in a moment.",
  failed: "This could not be answered. The log has why, under the number of the request.",
};

/** Hands a request to a thread and its answer back. */
function answered({ host, port }: Options, dispatch: Dispatch): RequestHandler {
  return async (req, res) => {
    const gone = new AbortController();
    res.on("close", () => {
      if (!res.writableFinished) gone.abort();
    });
    const name = req.headers.host ?? `${host}:${port}`;
    const job = {
      url: new URL(req.originalUrl, `${req.protocol}://${name}`).href,
      method: req.method,
      headers: [...headersOf(req.rawHeaders), ...told(req, res)],
      body: Buffer.isBuffer(req.body) ? req.body : null,
      nonce: String(res.locals.nonce),
      requestId: String(res.locals.requestId),
    };
    try {
      send(res, await dispatch.answer(job, planOf(req.path), gone.signal));
    } catch (error) {
      if (!(error instanceof Unanswered)) throw error;
      if (error.why !== "left")
        log.error({ request: job.requestId, path: req.path, why: error.why }, "not answered");
      refuse(res, 503, sentences[error.why]);
    }
  };
}

function send(
  res: Response,
  { status, headers, body }: { status: number; headers: readonly [string, string][]; body: Uint8Array },
) {
  res.status(status);
  for (const [name, value] of headers) {
    if (!/^(transfer-encoding|content-length|connection)$/i.test(name)) res.append(name, value);
  }
  res.end(Buffer.from(body.buffer, body.byteOffset, body.byteLength));
}

function headersOf(raw: readonly string[]): [string, string][] {
  const list: [string, string][] = [];
  for (let i = 0; i + 1 < raw.length; i += 2) {
    // Those of the connection are not the request's own.
    // What this server tells its threads is told by nobody else.
    if (
      !/^(connection|keep-alive|transfer-encoding|upgrade|expect|content-length|x-iron-fork-.*)$/i.test(
        raw[i],
      )
    )
      list.push([raw[i], raw[i + 1]]);
  }
  return list;
}

/** What the threads are told besides: who asks, and from which address. */
function told(req: Request, res: Response): [string, string][] {
  const actor = res.locals.actor as Actor | null | undefined;
  const from: [string, string] = [FROM_HEADER, req.ip ?? ""];
  return actor ? [from, [ACTOR_HEADER, actorText(actor)]] : [from];
}

const failed: ErrorRequestHandler = (error, req, res, _next) => {
  const status = Number(error?.status);
  if (status >= 400 && status < 500) {
    const sentence = status === 404 ? "There is nothing here." : "The request is malformed.";
    return refuse(res, status, sentence);
  }
  if (isAway(error)) {
    log.error({ request: res.locals.requestId, error: String(error) }, "the database is away");
    return refuse(res, 503, DATABASE_AWAY);
  }
  log.error({ request: res.locals.requestId, path: req.path, error: errorText(error) }, "failed");
  refuse(res, 500, sentences.failed);
};
