import barlow from "@fontsource/barlow/files/barlow-latin-400-normal.woff2?inline";
import condensed from "@fontsource/barlow-condensed/files/barlow-condensed-latin-600-normal.woff2?inline";
import mono from "@fontsource/jetbrains-mono/files/jetbrains-mono-latin-400-normal.woff2?inline";
import { renderToStaticMarkup } from "react-dom/server";
import { historyOf } from "../../../server/plans.ts";
import { drawingOf, modelAt } from "../../engine/page.server.ts";
import { bookOf } from "../../queries/book.ts";
import styles from "./book.css?inline";
import { BookPages } from "./book.tsx";
import { BookDrawing } from "./book-drawing.tsx";

/** Revisions that the history tells of at most. */
const MOST_REVISIONS = 500;

/** Fonts within the document itself, for it is printed from a file. */
const fonts = [
  ["Barlow", 400, barlow],
  ["Barlow Condensed", 600, condensed],
  ["JetBrains Mono", 400, mono],
].map(
  ([family, weight, source]) =>
    `@font-face{font-family:"${family}";font-weight:${weight};src:url(${source}) format("woff2")}`,
);

async function partsOf(planId: string, revision: number) {
  const model = await modelAt(planId, revision);
  const { plan } = model;
  const drawing = await drawingOf(planId, revision);
  const byId = <T extends { id: string; label?: string }>(list: readonly T[]) =>
    Object.fromEntries(list.map(({ id, label }) => [id, label ?? id]));
  return { model, drawing, labels: byId(plan.devices), plan };
}

const page = (title: string, body: string, more: string, printed: boolean, className = "") =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8">${renderToStaticMarkup(<title>{title}</title>)}<style>${printed ? fonts.join("") : ""}${styles}${more}</style></head><body class="${className}">${body}</body></html>`;

/** The book of a revision as one HTML document; `printed`: with its fonts in it. */
export async function bookHtml(planId: string, revision: number, printed: boolean): Promise<string> {
  const { model, drawing } = await partsOf(planId, revision);
  const book = bookOf(model);
  const history = (await historyOf(planId, MOST_REVISIONS)).filter(({ number }) => number <= revision);
  const made = `${new Date().toISOString().slice(0, 10)}`;
  const body = renderToStaticMarkup(
    <BookPages book={book} drawing={drawing} revision={revision} made={made} history={history} />,
  );
  return page(book.name, body, "", printed);
}

/** The drawing of a revision as SVG. */
export async function drawingSvg(planId: string, revision: number): Promise<string> {
  const { drawing, labels, plan } = await partsOf(planId, revision);
  const roles = Object.fromEntries(plan.devices.map(({ id, role }) => [id, role]));
  return renderToStaticMarkup(<BookDrawing drawing={drawing} roles={roles} labels={labels} />);
}

/** The drawing on a sheet of its own, for printing. */
export async function drawingHtml(planId: string, revision: number): Promise<string> {
  const svg = await drawingSvg(planId, revision);
  const sheet = "@page{size:A3 landscape;margin:10mm}.drawing{width:100%;max-height:270mm}";
  return page("Drawing", svg, sheet, true, "sheet");
}
