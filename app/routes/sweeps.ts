import { data } from "react-router";
import { z } from "zod";
import { permit } from "../../server/access/permit.ts";
import { engineVersion } from "../../server/jobs/engine.ts";
import { askSweep } from "../../server/jobs/sweeps.ts";
import { visitorOf } from "../../server/session.ts";
import { jsonBody } from "../engine/bodies.server.ts";
import type { Route } from "./+types/sweeps";

const bodySchema = z.strictObject({
  revision: z.number().int().min(1).max(2_147_483_647),
  depth: z.union([z.literal(1), z.literal(2), z.literal(3)]),
  down: z.array(z.string().max(200)).max(500),
});
export type SweepRequest = z.input<typeof bodySchema>;

/** Has the workers sweep a plan: returns the sweep's number, of an earlier request if there is one. */
export async function action({ request, params }: Route.ActionArgs) {
  const plan = permit(request, params.plan, "reads");
  const body = bodySchema.safeParse(await jsonBody(request));
  if (!body.success) return data({ error: "the failures to simulate are missing" }, { status: 400 });
  const visitor = await visitorOf(request);
  const { sweep, error } = await askSweep({ plan, engine: engineVersion, ...body.data }, visitor.session);
  if (sweep === null) return data({ error }, { status: 404 });
  return data({ sweep }, visitor.setCookie ? { headers: { "Set-Cookie": visitor.setCookie } } : undefined);
}

/** There is nothing to see at this address. */
export function loader() {
  throw data("Simulations are started on the Failures page.", { status: 405 });
}
