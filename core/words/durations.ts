/** Milliseconds, least and most; null: without end. */
interface Bounds {
  readonly min: number | null;
  readonly max: number | null;
  /** The most is not known. */
  readonly unknown?: boolean;
}

/** Finer than a tenth of a second only where that is all there is. */
const stepMs = (ms: number) => (ms < 100 ? 1 : 100);

const written = (ms: number) => String(Number((ms / 1000).toFixed(3)));

/** A moment or a duration that is known, in seconds: to a tenth, below that to the millisecond. */
export function secondsText(ms: number): string {
  const step = stepMs(Math.abs(ms));
  return written(Math.round(ms / step) * step);
}

/** A lower bound in seconds, rounded down so that it is never overstated. */
function leastSeconds(ms: number): string {
  const step = stepMs(ms);
  return written(Math.floor(ms / step) * step);
}

/** An upper bound in seconds, rounded up so that it is never understated. */
export function mostSeconds(ms: number): string {
  const step = stepMs(ms);
  return written(Math.ceil(ms / step) * step);
}

/** Bounds in seconds, rounded outward: "2–4 s", "0.3 s", "no end", "an unknown time"; "" for none. */
export function boundsText({ min, max, unknown }: Bounds): string {
  if (unknown) return min ? `${leastSeconds(min)} s or more` : "an unknown time";
  if (max === null) return min === null ? "no end" : `${leastSeconds(min)} s – no end`;
  if (max === 0) return "";
  if (min === null || min === max) return `${min === null ? mostSeconds(max) : secondsText(max)} s`;
  const [least, most] = [leastSeconds(min), mostSeconds(max)];
  return least === most ? `${most} s` : `${least}–${most} s`;
}
