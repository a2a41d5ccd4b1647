import type { Range } from "../../../core/timeline/index.ts";

/** Packets lost, least to most. */
export function lostText({ min, max }: Range): string {
  if (max === null) return "lost packets increase with the outage";
  if (min === max || min === null) return `${max} ${max === 1 ? "packet" : "packets"}`;
  return `${min} to ${max} packets`;
}
