import { randomUUID } from "node:crypto";
import { PassThrough } from "node:stream";
import { createReadableStreamFromReadable } from "@react-router/node";
import { isbot } from "isbot";
import { renderToPipeableStream } from "react-dom/server";
import {
  type EntryContext,
  type HandleErrorFunction,
  isRouteErrorResponse,
  ServerRouter,
} from "react-router";
import { log } from "../server/log.ts";

const RENDER_LIMIT_MS = 10_000;

export default function handleRequest(
  request: Request,
  status: number,
  headers: Headers,
  context: EntryContext,
): Promise<Response> {
  // Crawlers get the page when it is whole; people as soon as its frame is there.
  const ready = isbot(request.headers.get("user-agent")) ? "onAllReady" : "onShellReady";
  return new Promise((resolve, reject) => {
    let code = status;
    const { pipe, abort } = renderToPipeableStream(<ServerRouter context={context} url={request.url} />, {
      [ready]() {
        const body = new PassThrough();
        headers.set("Content-Type", "text/html; charset=utf-8");
        resolve(new Response(createReadableStreamFromReadable(body), { headers, status: code }));
        pipe(body);
      },
      onShellError: reject,
      onError(error) {
        code = 500;
        log.error({ error: String(error), url: request.url }, "rendering failed");
      },
    });
    setTimeout(abort, RENDER_LIMIT_MS);
  });
}

/** Errors that nobody expected are logged with an id; answers such as 404 are not errors. */
export const handleError: HandleErrorFunction = (error, { request }) => {
  if (request.signal.aborted || isRouteErrorResponse(error)) return;
  const stack = error instanceof Error ? error.stack : String(error);
  log.error({ id: randomUUID(), url: new URL(request.url).pathname, stack }, "request failed");
};
