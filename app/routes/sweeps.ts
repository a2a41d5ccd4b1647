import { data } from "react-router";
import { z } from "zod";
import { engineVersion } from "../../server/jobs/engine.ts";
import { askSweep } from "../../server/jobs/sweeps.ts";
import type { Route } from "./+types/sweeps";

const bodySchema = z.strictObject({
  revision: z.number().int().positive(),
  depth: z.union([z.literal(1), z.literal(2), z.literal(3)]),
  down: z.array(z.string().max(200)).max(500),
});
export type SweepRequest = z.input<typeof bodySchema>;

/** Has a plan swept by the workers: gives the sweep's number, of one that was asked for before where there is. */
export async function action({ request, params }: Route.ActionArgs) {
  const body = bodySchema.safeParse(await request.json().catch(() => null));
  if (!body.success) return data({ error: "this does not say what to sweep" }, { status: 400 });
  const sweep = await askSweep({ plan: params.plan, engine: engineVersion, ...body.data });
  if (sweep === null)
    return data({ error: "the plan has no such revision, or no flow to sweep" }, { status: 404 });
  return data({ sweep });
}
