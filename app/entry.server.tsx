import { PassThrough } from "node:stream";
import { createReadableStreamFromReadable } from "@react-router/node";
import { isbot } from "isbot";
import { renderToPipeableStream } from "react-dom/server";
import {
  type AppLoadContext,
  type EntryContext,
  type HandleErrorFunction,
  isRouteErrorResponse,
  ServerRouter,
} from "react-router";
import { shownPath } from "../server/access/needs.ts";
import { errorText, log } from "../server/log.ts";
import { onDatabaseTrouble } from "../server/pool.ts";
import { RequestFactsProvider } from "./request.tsx";

const RENDER_LIMIT_MS = 10_000;

export default function handleRequest(
  request: Request,
  status: number,
  headers: Headers,
  context: EntryContext,
  facts: AppLoadContext,
): Promise<Response> {
  // Crawlers get the page when it is whole; people as soon as its frame is there.
  const ready = isbot(request.headers.get("user-agent")) ? "onAllReady" : "onShellReady";
  return new Promise((resolve, reject) => {
    let code = status;
    const page = (
      <RequestFactsProvider value={facts}>
        <ServerRouter context={context} url={request.url} nonce={facts.nonce} />
      </RequestFactsProvider>
    );
    const { pipe, abort } = renderToPipeableStream(page, {
      nonce: facts.nonce,
      onAllReady: () => clearTimeout(limit),
      [ready]() {
        if (ready === "onAllReady") clearTimeout(limit);
        const body = new PassThrough();
        headers.set("Content-Type", "text/html; charset=utf-8");
        resolve(new Response(createReadableStreamFromReadable(body), { headers, status: code }));
        pipe(body);
      },
      onShellError(error) {
        clearTimeout(limit);
        reject(error);
      },
      onError(error) {
        code = 500;
        log.error({ request: facts.requestId, error: errorText(error) }, "rendering failed");
      },
    });
    const limit = setTimeout(abort, RENDER_LIMIT_MS);
  });
}

/** Unexpected errors are logged with the request's number; responses such as 404 are not errors. */
export const handleError: HandleErrorFunction = (error, { request, context }) => {
  if (request.signal.aborted || isRouteErrorResponse(error)) return;
  const { requestId } = context as AppLoadContext;
  log.error(
    { request: requestId, path: shownPath(new URL(request.url).pathname), error: errorText(error) },
    "request failed",
  );
};

// Pages say in a sentence what the database cannot do at the moment.
onDatabaseTrouble(({ status, sentence, retryAfter }, cause) => {
  if (status >= 500) log.error({ error: String(cause) }, "the database is not available");
  const headers = retryAfter ? { "Retry-After": String(retryAfter) } : undefined;
  return new Response(sentence, { status, headers });
});

// The web server's threads answer by it.
export { audited } from "../server/access/audit.ts";
