import { setTimeout as rest } from "node:timers/promises";
import { data } from "react-router";
import { type SweepProgress, sweepProgress } from "../../server/jobs/sweeps.ts";
import type { Route } from "./+types/sweep-events";

const LOOK_EVERY_MS = 400;
/** A word now and then, so that no proxy on the way takes the silence for the end. */
const WORD_EVERY = 25;

/** How a sweep comes on, as server-sent events, until it is done, stopped or failed. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const first = await sweepProgress(params.plan, params.sweep);
  if (!first) throw data("There is no such sweep.", { status: 404 });
  const text = new TextEncoder();
  const { signal } = request;
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      const say = (what: string) => controller.enqueue(text.encode(what));
      let last = "";
      try {
        for (let round = 0, now: SweepProgress | null = first; now && !signal.aborted; round++) {
          const told = JSON.stringify(now);
          if (told !== last) say(`event: progress\ndata: ${told}\n\n`);
          else if (round % WORD_EVERY === 0) say(": still at it\n\n");
          last = told;
          if (now.stopped || now.error !== null || now.done === now.pieces) break;
          await rest(LOOK_EVERY_MS, undefined, { signal });
          now = await sweepProgress(params.plan, params.sweep);
        }
        controller.close();
      } catch {
        // The page went away, or the database did: the browser asks again where it is still there.
        if (!signal.aborted) controller.close();
      }
    },
  });
  return new Response(stream, {
    headers: {
      "Content-Type": "text/event-stream; charset=utf-8",
      // Compressing would hold the events back.
      "Cache-Control": "no-cache, no-transform",
      "X-Accel-Buffering": "no",
    },
  });
}
