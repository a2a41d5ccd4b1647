import { renderToStaticMarkup } from "react-dom/server";
import type { ReadablePlan } from "../../../server/access/grants.ts";
import { historyOf } from "../../../server/plans.ts";
import { paperPage } from "../../drawing/paper.server.tsx";
import { drawingOf, modelAt } from "../../engine/page.server.ts";
import { bookOf } from "../../queries/book.ts";
import { BookPages } from "./book.tsx";
import { BookDrawing } from "./book-drawing.tsx";

/** The most revisions listed in the history. */
const MAX_REVISIONS = 500;

async function partsOf(planId: ReadablePlan, revision: number) {
  const model = await modelAt(planId, revision);
  const { plan } = model;
  const drawing = await drawingOf(planId, revision);
  const byId = <T extends { id: string; label?: string }>(list: readonly T[]) =>
    Object.fromEntries(list.map(({ id, label }) => [id, label ?? id]));
  return { model, drawing, labels: byId(plan.devices), plan };
}

/** The book of a revision as one HTML document; `printed`: with its fonts in it. */
export async function bookHtml(planId: ReadablePlan, revision: number, printed: boolean): Promise<string> {
  const { model, drawing } = await partsOf(planId, revision);
  const book = bookOf(model);
  const history = (await historyOf(planId, MAX_REVISIONS)).filter(({ number }) => number <= revision);
  const made = `${new Date().toISOString().slice(0, 10)}`;
  const body = renderToStaticMarkup(
    <BookPages book={book} drawing={drawing} revision={revision} made={made} history={history} />,
  );
  return paperPage(book.name, body, { printed });
}

/** The drawing of a revision as SVG. */
export async function drawingSvg(planId: ReadablePlan, revision: number): Promise<string> {
  const { drawing, labels, plan } = await partsOf(planId, revision);
  const roles = Object.fromEntries(plan.devices.map(({ id, role }) => [id, role]));
  return renderToStaticMarkup(<BookDrawing drawing={drawing} roles={roles} labels={labels} />);
}

/** The drawing on its own sheet, for printing. */
export async function drawingHtml(planId: ReadablePlan, revision: number): Promise<string> {
  const svg = await drawingSvg(planId, revision);
  const sheet = "@page{size:A3 landscape;margin:10mm}.drawing{width:100%;max-height:270mm}";
  return paperPage("Drawing", svg, { printed: true, styles: sheet, className: "sheet" });
}
