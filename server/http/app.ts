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
import { ACTOR_HEADER, actorText, FROM_HEADER } from "../access/actor.ts";
import { AUDIT_HEADER } from "../access/audit.ts";
import { ownPlan } from "../access/grants.ts";
import { shownPath } from "../access/needs.ts";
import { changeEvents } from "../changes/changes.ts";
import { sweepEvents } from "../jobs/sweeps.ts";
import { errorText, log } from "../log.ts";
import { database, troubleOf } from "../pool.ts";
import { access, localsOf, personOf } from "./access.ts";
import { addressOf } from "./address.ts";
import { auditHeader, auditing } from "./audit.ts";
import { bodyErrors, readBody } from "./body.ts";
import { whileThereIsSpace } from "./disk.ts";
import { type Dispatch, MAX_MS } from "./dispatch.ts";
import { EventStreams } from "./event-streams.ts";
import { guards } from "./guards.ts";
import { numbered, overTls, securityHeaders } from "./headers.ts";
import { Unanswered } from "./lanes.ts";
import { metricsOf } from "./metrics.ts";
import type { Options } from "./options.ts";
import { CannotPrint, Printer } from "./printer.ts";
import { refuse } from "./refuse.ts";

/** The header by which a thread has its document printed, under the name that it tells. */
const PRINT_HEADER = "x-iron-fork-print";

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
  app.use(numbered, logged, metrics.observe, securityHeaders, overTls, located(options), auditing(ending));
  app.use(...guards(options));
  app.use("/assets", assets, noAsset);
  app.use(express.static(client, { maxAge: "1h", index: false }));
  app.get("/health", (_req, res) => void res.type("text").send("ok\n"));
  app.get("/ready", async (_req, res) => {
    await database().query("select 1");
    res.type("text").send("ok\n");
  });
  app.use(access, unkept);
  app.get("/metrics", metrics.tell);
  const streams = new EventStreams(ending);
  app.get("/plans/:plan/sweeps/:sweep/events", ({ params }: Request<Named<"sweep">>, res) =>
    streams.send(res, "sweep", (signal) => sweepEvents(ownPlan(params.plan), params.sweep, signal)),
  );
  app.get("/plans/:plan/changes/:change/events", ({ params }: Request<Named<"change">>, res) =>
    streams.send(res, "change", (signal) => changeEvents(ownPlan(params.plan), params.change, signal)),
  );
  app.use(compression());
  app.use((_req, res, next) => {
    if (!ending.aborted) return next();
    res.set("Connection", "close");
    refuse(res, 503, "The server is stopping. Nothing was changed; try again in a moment.");
  });
  const printer = new Printer();
  void printer.cleanUp();
  app.use(whileThereIsSpace(options.disks), readBody, answered(dispatch, printer));
  app.use(bodyErrors, failed);
  return app;
}

type Named<N extends string> = { plan: string } & Record<N, string>;

/** Finds the address by which access is decided and the request is answered; there is none but in normal form. */
const located =
  ({ host, port }: Options): RequestHandler =>
  (req, res, next) => {
    const name = req.headers.host ?? `${host}:${port}`;
    const origin = `${req.protocol}://${name}`;
    const url = URL.canParse(origin) ? addressOf(req.originalUrl, origin) : null;
    if (!url) return refuse(res, 400, "The address is malformed. Use a link of this application.");
    localsOf(res).url = url;
    next();
  };

/** Browsers must not store responses to signed-in users. */
const unkept: RequestHandler = (_req, res, next) => {
  if (localsOf(res).actor) res.set("Cache-Control", "no-store");
  next();
};

/** The browser's own files, under names that change with their content; compressed by the build. */
const assets = expressStaticGzip(`${client}assets`, {
  enableBrotli: true,
  orderPreference: ["br", "gzip"],
  index: false,
  serveStatic: { immutable: true, maxAge: "1y", fallthrough: false },
});

/** Discards the headers of the failed response before the error is sent. */
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
    // The path without its query, which may contain typed text.
    const path = shownPath(req.originalUrl.split("?")[0]);
    if (path.startsWith("/assets/")) return;
    const { requestId } = res.locals;
    const line = { request: requestId, method: req.method, path, status: res.statusCode };
    log.info({ ...line, ms: Math.round(performance.now() - started) }, "answered");
  });
  next();
};

const sentences: Record<Unanswered["why"], string> = {
  time: `Stopped: the computation took longer than ${MAX_MS / 1000} s. Make the plan smaller, or ask for less at once.`,
  memory: "Stopped: the computation took more memory than a request may use. Make the plan smaller.",
  left: "The request was cancelled.",
  busy: "The server is busy. Try again in a moment.",
  failed: "Something failed on the server. The log has the details under this request number.",
};

/** Hands a request to a thread and its answer back. */
function answered(dispatch: Dispatch, printer: Printer): RequestHandler {
  return async (req, res) => {
    const locals = localsOf(res);
    const { url, nonce, requestId, needed } = locals;
    const gone = new AbortController();
    res.on("close", () => {
      if (!res.writableFinished) gone.abort();
    });
    const job = {
      url: url.href,
      method: req.method,
      headers: [...headersOf(req.rawHeaders), ...(await told(req, res))],
      body: Buffer.isBuffer(req.body) ? req.body : null,
      nonce,
      requestId,
    };
    const answer = dispatch.answer(job, needed?.plan ?? "", personOf(req, res), gone.signal);
    locals.work = answer.then(
      ({ status }) => status,
      () => 503,
    );
    try {
      const { status, headers, body } = await answer;
      const name = headers.find(([header]) => header.toLowerCase() === PRINT_HEADER)?.[1];
      if (name === undefined) return send(res, { status, headers, body });
      const pdf = await printer.print(body, gone.signal);
      res
        .set({ "Content-Type": "application/pdf", "Content-Disposition": `attachment; filename="${name}"` })
        .send(pdf);
    } catch (error) {
      if (error instanceof CannotPrint) return refuse(res, 503, error.message);
      if (!(error instanceof Unanswered)) throw error;
      const path = shownPath(url.pathname);
      if (error.why !== "left") log.error({ request: requestId, path, why: error.why }, "not answered");
      if (error.why === "busy") res.set("Retry-After", "5");
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
    if (/^(transfer-encoding|content-length|connection)$/i.test(name)) continue;
    // What the answer says itself counts, but for cookies, which add up.
    if (name.toLowerCase() === "set-cookie") res.append(name, value);
    else res.set(name, value);
  }
  res.end(Buffer.from(body.buffer, body.byteOffset, body.byteLength));
}

function headersOf(raw: readonly string[]): [string, string][] {
  const list: [string, string][] = [];
  for (let i = 0; i + 1 < raw.length; i += 2) {
    // Connection headers do not belong to the request, and headers for the threads are only set by this server.
    if (
      !/^(connection|keep-alive|transfer-encoding|upgrade|expect|content-length|x-iron-fork-.*)$/i.test(
        raw[i],
      )
    )
      list.push([raw[i], raw[i + 1]]);
  }
  return list;
}

/** Additional headers for the threads: the requester, the client address, and the audit entry. */
async function told(req: Request, res: Response): Promise<[string, string][]> {
  const { actor, alone } = localsOf(res);
  const audit = await auditHeader(req, res);
  return [
    [FROM_HEADER, req.ip ?? ""],
    ...(alone ? [[ACTOR_HEADER, actorText(null)] as [string, string]] : []),
    ...(actor ? [[ACTOR_HEADER, actorText(actor)] as [string, string]] : []),
    ...(audit === null ? [] : [[AUDIT_HEADER, audit] as [string, string]]),
  ];
}

const failed: ErrorRequestHandler = (error, req, res, _next) => {
  const status = Number(error?.status);
  if (status >= 400 && status < 500) {
    const sentence = status === 404 ? "Not found." : "The request is malformed.";
    return refuse(res, status, sentence);
  }
  const trouble = troubleOf(error);
  if (trouble) {
    if (trouble.status >= 500)
      log.error({ request: res.locals.requestId, error: String(error) }, "the database cannot do it");
    if (trouble.retryAfter) res.set("Retry-After", String(trouble.retryAfter));
    return refuse(res, trouble.status, trouble.sentence);
  }
  const path = shownPath(req.path);
  log.error({ request: res.locals.requestId, path, error: errorText(error) }, "failed");
  refuse(res, 500, sentences.failed);
};
