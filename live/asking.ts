import type { InputFile } from "../exchange/readers/index.ts";
import type { Limits, Meter } from "./limits.ts";
import type { Secret, Target } from "./target.ts";

/** One attempt to read one device. */
export interface Asking {
  readonly target: Target;
  readonly secret: Secret;
  readonly limits: Limits;
  readonly meter: Meter;
  /** Aborts the attempt: its time is over, or it was cancelled. */
  readonly signal: AbortSignal;
  /** Reports the current request. */
  readonly tell: (text: string) => void;
}

/** A way of asking devices: read-only, whatever the device allows. Gives its answers as the readers take them. */
export type Ask = (asking: Asking) => Promise<InputFile[]>;

/** The name that an answer is kept under: in the device's own folder, so that it is known whose it is. */
export const fileOf = (target: Target, name: string, text: string): InputFile => ({
  name: `${target.device}/${name}`,
  text,
});

/** Rejects where the signal ends first. */
export function untilEnded<T>(signal: AbortSignal, work: Promise<T>): Promise<T> {
  if (signal.aborted) return Promise.reject(signal.reason);
  return new Promise((resolve, reject) => {
    const end = () => reject(signal.reason);
    signal.addEventListener("abort", end, { once: true });
    work.then(resolve, reject).finally(() => signal.removeEventListener("abort", end));
  });
}
