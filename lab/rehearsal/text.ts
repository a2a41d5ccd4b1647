import type { Rehearsal, RehearsedFlow } from "./result.ts";

/** A rehearsal as lines for a terminal. */
export function rehearsalText(found: Rehearsal): string {
  return [
    ...found.flows.map(flowText),
    "",
    found.agrees
      ? "All flows that could be sent behaved as predicted."
      : "Some flows differ from the prediction: see the lines marked !.",
    `Timing tolerance: the host was up to ${found.delayMs} ms late and needed ${found.tookMs} ms per failure; ${found.allowedMs} ms are allowed.`,
    ...found.leftOut.map((sentence) => `  not reproduced: ${sentence}`),
  ].join("\n");
}

const rangeText = ({ min, max }: { min: number | null; max: number | null }) => {
  const one = (ms: number | null) => (ms === null ? "no end" : `${ms} ms`);
  return min === max ? one(min) : `${one(min)} to ${one(max)}`;
};

const carriersText = (carriers: readonly string[] | null) =>
  carriers === null ? "nothing" : carriers.join(" and ") || "no gateway";

function flowText({ id, predicted, observed, agrees, why }: RehearsedFlow): string {
  const sign = agrees === null ? "?" : agrees ? "=" : "!";
  if (!observed) return `${sign} ${id}: predicted ${rangeText(predicted)}; the lab cannot send this flow`;
  const { before, during, after } = observed.carriers;
  const all = [before, ...during, after].map(carriersText);
  const carried = all.filter((one, n) => n === 0 || one !== all[n - 1]).join(", then ");
  const gap = `predicted ${rangeText(predicted)}, observed ${rangeText(observed.outageMs)}, ${observed.lost} packets lost`;
  return `${sign} ${id}: ${gap}; carried by ${carried}${why ? ` (${why})` : ""}`;
}
