import { Readable } from "node:stream";
import { data } from "react-router";
import { permit } from "../../server/access/permit.ts";
import { EVENT_HEADERS } from "../../server/jobs/event-stream.ts";
import { sweepEvents } from "../../server/jobs/sweeps.ts";
import type { Route } from "./+types/sweep-events";

/** The same events as the server's own stream, for development without it. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const events = await sweepEvents(permit(request, params.plan, "reads"), params.sweep, request.signal);
  if (!events) throw data("There is no such sweep.", { status: 404 });
  return new Response(Readable.toWeb(Readable.from(events)) as ReadableStream, {
    headers: EVENT_HEADERS,
  });
}
