import { renderToStaticMarkup } from "react-dom/server";
import { paperPage } from "../../../drawing/paper.server.tsx";
import { RunbookPaper } from "./runbook-paper.tsx";
import type { RunbookText } from "./runbook-text.ts";

/** A runbook as one HTML document; `printed`: with its fonts in it. */
export function runbookHtml(told: RunbookText, printed: boolean): string {
  return paperPage(told.title, renderToStaticMarkup(<RunbookPaper told={told} />), { printed });
}
