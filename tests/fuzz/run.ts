import { timed } from "../support/cpu.ts";
import { Random } from "../support/random.ts";
import { tryCapture, tryDocument, tryEdit, tryList } from "./inputs.ts";
import { tryPieces, tryReading } from "./readings.ts";
import { anyRequest } from "./requests.ts";

export interface Failure {
  readonly what: string;
  readonly seed: number;
  readonly message: string;
}

export interface Figures {
  readonly tried: number;
  /** The longest that one input took, in milliseconds, and which. */
  readonly slowest: { readonly what: string; readonly seed: number; readonly ms: number };
  readonly failures: readonly Failure[];
}

/** No input may take longer, in milliseconds: of the processor inside, of the clock over the network. */
const MAX_MS = 2000;

const inside = {
  document: tryDocument,
  edit: tryEdit,
  capture: tryCapture,
  list: tryList,
  reading: tryReading,
  pieces: tryPieces,
};

/** Fuzzes the program's readers: `count` inputs, each with its own seed, reported on failure. */
export function fuzzInside(count: number, seed: number): Figures {
  const failures: Failure[] = [];
  let slowest = { what: "", seed: 0, ms: 0 };
  const kinds = Object.keys(inside) as (keyof typeof inside)[];
  for (let n = 0; n < count; n++) {
    const own = (seed + n) >>> 0;
    const what = kinds[n % kinds.length];
    const { ms } = timed(() => {
      try {
        inside[what](new Random(own));
      } catch (error) {
        failures.push({ what, seed: own, message: String((error as Error).stack ?? error).slice(0, 600) });
      }
    });
    if (ms > slowest.ms) slowest = { what, seed: own, ms };
    if (ms > MAX_MS) failures.push({ what, seed: own, message: `took ${Math.round(ms)} ms` });
  }
  return { tried: count, slowest, failures };
}

/** Sends requests to a running application, a few at once: none may be answered by a 500, or late. */
export async function fuzzRequests(
  base: string,
  plan: string,
  count: number,
  seed: number,
): Promise<Figures> {
  const failures: Failure[] = [];
  let slowest = { what: "", seed: 0, ms: 0 };
  let next = 0;
  const work = async () => {
    while (next < count) {
      const own = (seed + next++) >>> 0;
      const { path, init } = anyRequest(plan, base, new Random(own));
      const what = `${init.method ?? "GET"} ${path.slice(0, 120)}`;
      const started = performance.now();
      try {
        const response = await fetch(base + path, { ...init, redirect: "manual" });
        const text = await response.text();
        if (response.status >= 500)
          failures.push({ what, seed: own, message: `${response.status} ${text.slice(0, 200)}` });
        const to = response.headers.get("location");
        if (to && new URL(to, base).origin !== base)
          failures.push({ what, seed: own, message: `leads away to ${to}` });
      } catch (error) {
        failures.push({ what, seed: own, message: String((error as Error).cause ?? error) });
      }
      const ms = performance.now() - started;
      if (ms > slowest.ms) slowest = { what, seed: own, ms };
      if (ms > MAX_MS) failures.push({ what, seed: own, message: `took ${Math.round(ms)} ms` });
    }
  };
  await Promise.all([work(), work()]);
  return { tried: count, slowest, failures };
}

/** The longest stall of the server's main thread since the last call, in milliseconds. */
export async function longestStall(base: string): Promise<number> {
  const text = await (await fetch(`${base}/metrics`)).text();
  const found = /^nodejs_eventloop_lag_max_seconds ([\d.e-]+)/m.exec(text);
  if (!found) throw new Error("the server tells nothing of its event loop");
  return Number(found[1]) * 1000;
}
