import { data } from "react-router";
import { stopSweep, sweepResult } from "../../server/jobs/sweeps.ts";
import { visitorOf } from "../../server/session.ts";
import type { Route } from "./+types/sweep";

/** What a sweep found, once it is whole: one entry a flow. */
export async function loader({ params }: Route.LoaderArgs) {
  const found = await sweepResult(params.plan, params.sweep);
  if (!found) throw data("There is no such sweep, or it is not done.", { status: 404 });
  return Response.json(found);
}

/** Stops it, unless others wait for it too; what is done is kept, and it goes on from there when asked for again. */
export async function action({ request, params }: Route.ActionArgs) {
  const visitor = await visitorOf(request);
  await stopSweep(params.plan, params.sweep, visitor.session);
  return data({ stopped: true });
}
