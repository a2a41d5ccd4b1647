import { readFileSync } from "node:fs";
import { createServer } from "node:http";
import { createServer as createSecureServer } from "node:https";
import { fileURLToPath } from "node:url";
import { errorText, log } from "../log.ts";
import { database } from "../pool.ts";
import { makeApp } from "./app.ts";
import { Dispatch } from "./dispatch.ts";
import { readOptions } from "./options.ts";

/** The time for current work after a termination signal, in milliseconds. */
const FINISH_MS = 4000;

/** Serves the application until it is terminated. */
async function main() {
  const options = readOptions(process.env);
  const ending = new AbortController();
  const dispatch = new Dispatch(fileURLToPath(new URL("./thread.js", import.meta.url)));
  const app = makeApp(options, dispatch, ending.signal);
  const { tls } = options;
  const server = tls
    ? createSecureServer(
        { cert: readFileSync(tls.cert), key: readFileSync(tls.key), minVersion: "TLSv1.2" },
        app,
      )
    : createServer(app);
  server.requestTimeout = 60_000;
  server.headersTimeout = 20_000;
  server.on("error", (error) => {
    log.fatal({ error: String(error) }, "cannot serve");
    process.exit(1);
  });
  server.listen(options.port, options.host, () => {
    const { host, port } = options;
    log.info({ host, port }, "serving");
  });

  const end = async () => {
    if (ending.signal.aborted) return;
    log.info("stopping: no new work is taken");
    ending.abort();
    server.close();
    server.closeIdleConnections();
    await dispatch.close(FINISH_MS);
    server.closeAllConnections();
    await database().end();
    log.info("stopped");
    process.exit(0);
  };
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => void end());
}

// A request must never end the server; an unhandled rejection is a defect and is logged.
process.on("unhandledRejection", (error) => log.error({ error: errorText(error) }, "unhandled rejection"));
process.on("uncaughtException", (error) => log.error({ error: errorText(error) }, "uncaught exception"));

await main();
