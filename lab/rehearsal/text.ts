import type { Rehearsal, RehearsedFlow } from "./result.ts";

/** A rehearsal in lines, for a terminal. */
export function rehearsalText(found: Rehearsal): string {
  return [
    ...found.flows.map(flowText),
    "",
    found.agrees
      ? "Every flow that could be sent did as predicted."
      : "Not every flow did as predicted: see the lines marked !.",
    `This machine was late by at most ${found.delayMs} ms and took ${found.tookMs} ms for a failure: ${found.allowedMs} ms are allowed for.`,
    ...found.leftOut.map((sentence) => `  left out: ${sentence}`),
  ].join("\n");
}

export const rangeText = ({ min, max }: { min: number | null; max: number | null }) => {
  const one = (ms: number | null) => (ms === null ? "no end" : `${ms} ms`);
  return min === max ? one(min) : `${one(min)} to ${one(max)}`;
};

const carriersText = (carriers: readonly string[] | null) =>
  carriers === null ? "nothing" : carriers.join(" and ") || "no gateway";

function flowText({ id, predicted, observed, agrees, why }: RehearsedFlow): string {
  const sign = agrees === null ? "?" : agrees ? "=" : "!";
  if (!observed)
    return `${sign} ${id}: predicted ${rangeText(predicted)}; the lab has nothing to send it from`;
  const { before, during, after } = observed.carriers;
  const all = [before, ...during, after].map(carriersText);
  const carried = all.filter((one, n) => n === 0 || one !== all[n - 1]).join(", then ");
  const gap = `predicted ${rangeText(predicted)}, seen ${rangeText(observed.outageMs)}, ${observed.lost} packets lost`;
  return `${sign} ${id}: ${gap}; carried by ${carried}${why ? ` (${why})` : ""}`;
}
