import barlow from "@fontsource/barlow/files/barlow-latin-400-normal.woff2?inline";
import condensed from "@fontsource/barlow-condensed/files/barlow-condensed-latin-600-normal.woff2?inline";
import mono from "@fontsource/jetbrains-mono/files/jetbrains-mono-latin-400-normal.woff2?inline";
import { renderToStaticMarkup } from "react-dom/server";
import sheets from "./paper.css?inline";

/** Fonts are embedded because the document is printed from a file. */
const fonts = [
  ["Barlow", 400, barlow],
  ["Barlow Condensed", 600, condensed],
  ["JetBrains Mono", 400, mono],
].map(
  ([family, weight, source]) =>
    `@font-face{font-family:"${family}";font-weight:${weight};src:url(${source}) format("woff2")}`,
);

/** A document for paper: A4, with nothing from elsewhere. `printed`: with its fonts in it. */
export function paperPage(
  title: string,
  body: string,
  { printed, styles = "", className = "" }: { printed: boolean; styles?: string; className?: string },
): string {
  return `<!doctype html><html lang="en"><head><meta charset="utf-8">${renderToStaticMarkup(<title>{title}</title>)}<style>${printed ? fonts.join("") : ""}${sheets}${styles}</style></head><body class="${className}">${body}</body></html>`;
}
