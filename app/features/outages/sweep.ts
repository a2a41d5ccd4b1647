import { useEffect, useRef, useState } from "react";
import { askPlan, stopSweep } from "../../engine/ask.client.ts";
import { type SweepState, sweepOnServer } from "../../engine/sweeping.client.ts";
import type { PlanHead } from "../../plan/head.ts";
import type { Board } from "../../queries/board.ts";
import type { Frame } from "../../queries/frame.ts";

export interface Sweep extends SweepState {
  of: string;
  board: Board | null;
  state: "running" | "done" | "stopped" | "failed";
  /** Why it failed. */
  error: string;
  /** Whether the server's workers do it, not the page's own. */
  onServer: boolean;
}

/** Flows times elements times depth above which a sweep is for the server's workers. */
const PAGE_LIMIT = 250_000;

/** A sweep under way: how it is stopped, and how the page lets go of it when it asks for another. */
interface Running {
  of: string;
  stop(): void;
  leave(): void;
}

/** Runs the sweep for the request; another request, or stopping, ends the previous one. */
export function useSweep(page: PlanHead, frame: Frame, down: string[], depth: 1 | 2 | 3) {
  const [round, setRound] = useState(0);
  const of = JSON.stringify([page.planId, page.revision, down, depth, round]);
  const onServer = frame.flows.length * frame.counts.elements * depth > PAGE_LIMIT;
  const [sweep, setSweep] = useState<Sweep>({
    of,
    board: null,
    covered: 0,
    found: 0,
    state: "running",
    error: "",
    onServer,
  });
  const running = useRef<Running | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the request is identified by its text.
  useEffect(() => {
    running.current?.leave();
    const mine = () => running.current?.of === of;
    const begun = { of, covered: 0, found: 0, workers: undefined, pieces: undefined, done: undefined };
    setSweep((before) => ({ ...before, ...begun, state: "running", error: "", onServer }));
    const tell = (state: SweepState) => {
      if (mine()) setSweep((before) => ({ ...before, ...state }));
    };
    const { board, ...hold } = onServer
      ? onWorkers(page, down, depth, tell)
      : inPage(page, down, depth, tell);
    running.current = { of, ...hold };
    board.then(
      (found) => {
        if (!mine()) return;
        running.current = null;
        setSweep((before) => ({ ...before, board: found, state: "done" }));
      },
      (error: Error) => {
        if (!mine()) return;
        running.current = null;
        const stopped = error.message === "stopped" || error.message === "left";
        const failed = { state: "failed", error: error.message } as const;
        setSweep((before) => ({ ...before, ...(stopped ? { state: "stopped" } : failed) }));
      },
    );
  }, [of]);
  // A page that is left looks no longer.
  useEffect(() => () => running.current?.leave(), []);
  return { sweep, stop: () => running.current?.stop(), restart: () => setRound((now) => now + 1) };
}

type Begun = Omit<Running, "of"> & { board: Promise<Board> };

function inPage(page: PlanHead, down: string[], depth: 1 | 2 | 3, tell: (state: SweepState) => void): Begun {
  const board = askPlan(page, "board", { down, depth }, "board", tell);
  return { board, stop: stopSweep, leave: stopSweep };
}

function onWorkers(
  page: PlanHead,
  down: string[],
  depth: 1 | 2 | 3,
  tell: (state: SweepState) => void,
): Begun {
  return sweepOnServer(page.planId, { revision: page.revision, depth, down }, tell);
}

/** The state of a sweep in a sentence; `shown` failures stand on the board. */
export function statusText(sweep: Sweep, depth: number, shown: number): string {
  const { board, covered, found, state } = sweep;
  if (state === "failed") return `Simulation failed: ${sweep.error}.`;
  if (state === "stopped")
    return `Stopped after ${covered} sets of failures, ${found} of them with an effect.`;
  if (state === "running" && sweep.onServer) return serverText(sweep);
  if (state === "running" && depth === 1) return "Simulating single failures …";
  if (state === "running") return `${covered} sets of failures simulated, ${found} with an effect …`;
  if (!board) return "";
  const sets = depth === 1 ? "single failures" : `failures of up to ${depth} at once`;
  return `${board.rows.length} flows, ${board.elements} elements that can fail; ${shown} ${sets} shown. Complete.`;
}

function serverText({ covered, found, workers, pieces, done }: Sweep): string {
  if (pieces === undefined) return "Queued …";
  const far = `${done} of ${pieces} pieces done, ${covered} sets of failures simulated, ${found} with an effect`;
  if (done === pieces) return `All ${pieces} pieces done, ${found} with an effect; preparing the matrix …`;
  if (workers === 0) return `${far}; no worker is running. Start one with bin/worker.`;
  return `${far}; ${workers} ${workers === 1 ? "worker" : "workers"} …`;
}
