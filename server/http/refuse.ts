import type { Response } from "express";

const titles: Record<number, string> = {
  400: "Malformed request",
  401: "Sign in",
  403: "Not allowed",
  404: "Not found",
  405: "Method not allowed",
  413: "Too large",
  415: "Wrong content type",
  421: "Unknown host name",
  409: "Try again in a moment",
  429: "Too many requests",
  503: "Not available now",
  507: "The disk is full",
  500: "Something went wrong",
};

const entities: Record<string, string> = {
  "&": "&amp;",
  "<": "&lt;",
  ">": "&gt;",
  '"': "&quot;",
  "'": "&#39;",
};

function escaped(text: string): string {
  return text.replace(/[&<>"']/g, (c) => entities[c]);
}

/**
 * Answers that a request is refused, in a sentence: as a page where a page was asked for, else as JSON. The number of
 * the request stands with it, as in the log.
 */
export function refuse(res: Response, status: number, sentence: string) {
  if (res.headersSent) return res.end();
  const id = String(res.locals.requestId ?? "");
  res.status(status).set("Cache-Control", "no-store");
  if (res.req.originalUrl.startsWith("/api/")) {
    const problem = {
      type: "about:blank",
      title: titles[status] ?? "Refused",
      status,
      detail: sentence,
    };
    return res
      .type("application/problem+json")
      .send(JSON.stringify({ ...problem, instance: `urn:uuid:${id}` }));
  }
  const wantsPage = (res.req.headers.accept ?? "").includes("text/html") && !res.req.path.endsWith(".data");
  if (!wantsPage) return res.json({ error: sentence, request: id });
  const title = titles[status] ?? "Refused";
  res.type("html").send(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escaped(title)} · Iron Fork</title></head>
<body><main><h1>${escaped(title)}</h1><p>${escaped(sentence)}</p><p>Request ${escaped(id)}. <a href="/plans">All plans</a></p></main></body></html>`);
}
