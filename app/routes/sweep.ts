import { data } from "react-router";
import type { SweptFlow } from "../../core/reports/index.ts";
import { permit } from "../../server/access/permit.ts";
import { cachedResult } from "../../server/cached-results.ts";
import { stopSweep, sweepQuestion, sweepResult } from "../../server/jobs/sweeps.ts";
import { visitorOf } from "../../server/session.ts";
import { modelAt } from "../engine/page.server.ts";
import { boardOf } from "../queries/board.ts";
import type { Route } from "./+types/sweep";

/** The board of a complete sweep; computed once. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const id = permit(request, params.plan, "reads");
  const asked = await sweepQuestion(id, params.sweep);
  if (!asked) throw notDone();
  const { plan, revision, depth, down } = asked;
  const board = await cachedResult(plan, revision, `board of sweep ${params.sweep}`, async () => {
    const found = await sweepResult(plan, params.sweep);
    if (!found) throw notDone();
    const model = await modelAt(plan, revision);
    return boardOf(model, model.under(down), depth, found as SweptFlow[]);
  });
  return Response.json(board);
}

function notDone() {
  return data("There is no such sweep, or it is not done.", { status: 404 });
}

/** Stops it, unless others wait for it too; completed work is kept, and a later request continues from there. */
export async function action({ request, params }: Route.ActionArgs) {
  const visitor = await visitorOf(request);
  await stopSweep(permit(request, params.plan, "reads"), params.sweep, visitor.session);
  return data({ stopped: true });
}
