import type { SweepProgress } from "../../server/jobs/sweeps.ts";
import type { Board } from "../queries/board.ts";
import type { SweepRequest } from "../routes/sweeps.ts";

/** How far a sweep is; on the server with how many workers are at it and how many pieces are done. */
export interface SweepState {
  covered: number;
  found: number;
  workers?: number;
  pieces?: number;
  done?: number;
}

/** A sweep that the server's workers do. */
export interface ServerSweep {
  /** The board of results; rejected with the reason if it failed or was stopped. */
  readonly board: Promise<Board>;
  /** Stops it for everyone who waits for it; completed work is kept. */
  stop(): void;
  /** Looks no longer; the workers go on. */
  leave(): void;
}

/** The stops that are on their way: a sweep that is asked for after one must not be stopped by it. */
let stopped: Promise<unknown> = Promise.resolve();

/** Asks the server for a sweep and follows it. */
export function sweepOnServer(
  planId: string,
  asked: SweepRequest,
  onProgress: (state: SweepState) => void,
): ServerSweep {
  const leaving = new AbortController();
  const base = `/plans/${planId}/sweeps`;
  // Requested even without a viewer: it can only be stopped by its number.
  const begun = stopped.then(() => begin(base, asked));
  const followed = async () => {
    const sweep = await begun;
    leaving.signal.throwIfAborted();
    await follow(`${base}/${sweep}/events`, onProgress, leaving.signal);
    const response = await fetch(`${base}/${sweep}`, { signal: leaving.signal });
    if (!response.ok) throw new Error(`the sweep's result could not be loaded (${response.status})`);
    return (await response.json()) as Board;
  };
  return {
    board: Promise.race([followed(), left(leaving.signal)]),
    stop() {
      stopped = begun.then((sweep) => fetch(`${base}/${sweep}`, { method: "POST" })).catch(() => {});
      leaving.abort();
    },
    leave: () => leaving.abort(),
  };
}

/** Rejects when the viewer has left. */
function left(signal: AbortSignal): Promise<never> {
  return new Promise((_, reject) => {
    signal.addEventListener("abort", () => reject(new Error("left")));
  });
}

async function begin(base: string, asked: SweepRequest): Promise<string> {
  const response = await fetch(base, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(asked),
  });
  const answer = (await response.json()) as { sweep?: string; error?: string };
  if (!answer.sweep) throw new Error(answer.error ?? `the server rejected the sweep (${response.status})`);
  return answer.sweep;
}

/** Until the sweep is done. The browser itself reconnects where the line breaks. */
function follow(url: string, onProgress: (state: SweepState) => void, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const source = new EventSource(url);
    const end = (why: Error | null) => {
      source.close();
      if (why) reject(why);
      else resolve();
    };
    signal.addEventListener("abort", () => source.close());
    source.addEventListener("progress", (event) => {
      const now = JSON.parse((event as MessageEvent<string>).data) as SweepProgress;
      onProgress(now);
      if (now.error !== null) end(new Error(now.error));
      else if (now.stopped) end(new Error("stopped"));
      else if (now.done === now.pieces) end(null);
    });
    source.addEventListener("error", () => {
      if (source.readyState === EventSource.CLOSED) end(new Error("the connection to the server was lost"));
    });
  });
}
