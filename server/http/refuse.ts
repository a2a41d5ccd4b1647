import type { Response } from "express";

const titles: Record<number, string> = {
  400: "This cannot be read",
  401: "Nobody is signed in",
  403: "This was not asked from here",
  404: "There is nothing here",
  405: "That cannot be done here",
  413: "This is too large",
  415: "This is not in a form that is read here",
  421: "This is not the host's name",
  409: "Try again in a moment",
  429: "Too many requests",
  503: "This cannot be answered now",
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
      title: titles[status] ?? "This was refused",
      status,
      detail: sentence,
    };
    return res
      .type("application/problem+json")
      .send(JSON.stringify({ ...problem, instance: `urn:uuid:${id}` }));
  }
  const wantsPage = (res.req.headers.accept ?? "").includes("text/html") && !res.req.path.endsWith(".data");
  if (!wantsPage) return res.json({ error: sentence, request: id });
  const title = titles[status] ?? "This was refused";
  res.type("html").send(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escaped(title)} · Iron Fork</title></head>
<body><main><h1>${escaped(title)}</h1><p>${escaped(sentence)}</p><p>Request ${escaped(id)}. <a href="/plans">All plans</a></p></main></body></html>`);
}
