import type { Range } from "../../../core/outage/index.ts";

/** Milliseconds as seconds, as short as they can be told. */
export function secondsText(ms: number): string {
  if (ms >= 10_000) return `${Math.round(ms / 1000)}`;
  return `${Math.round(ms / 100) / 10}`;
}

/** A gap, least to most: "2–4 s", "0.3 s", "no end"; nothing where there is none. */
export function gapText({ min, max }: Range): string {
  if (max === null) return min === null ? "no end" : `${secondsText(min)} s – no end`;
  if (max === 0) return "";
  if (min === null || secondsText(min) === secondsText(max)) return `${secondsText(max)} s`;
  return `${secondsText(min)}–${secondsText(max)} s`;
}

/** Packets lost, least to most. */
export function lostText({ min, max }: Range): string {
  if (max === null) return "more packets with every second";
  if (min === max || min === null) return `${max} ${max === 1 ? "packet" : "packets"}`;
  return `${min} to ${max} packets`;
}
