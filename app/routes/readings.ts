import { data } from "react-router";
import { z } from "zod";
import { deviceFactsSchema, readingOf } from "../../exchange/facts/index.ts";
import { permit } from "../../server/access/permit.ts";
import { headOf } from "../../server/plans.ts";
import { keepReadings } from "../../server/readings.ts";
import { visitorOf } from "../../server/session.ts";
import { jsonBody } from "../engine/bodies.server.ts";
import { notFound } from "../engine/page.server.ts";
import type { Route } from "./+types/readings";

const bodySchema = z.strictObject({ facts: z.array(deviceFactsSchema).max(5000) });

/** Stores device readings, by device and time. */
export async function action({ request, params }: Route.ActionArgs) {
  const plan = permit(request, params.plan, "edits");
  const body = bodySchema.safeParse(await jsonBody(request));
  if (!body.success) return data({ kept: 0, error: "these readings are not valid" }, { status: 400 });
  if (!(await headOf(plan))) notFound("There is no such plan; it may have been deleted.");
  const visitor = await visitorOf(request);
  const readings = body.data.facts.map(readingOf);
  await keepReadings(plan, visitor.name, readings);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  return data({ kept: readings.length, error: "" }, { headers });
}

/** There is nothing to see at this address. */
export function loader() {
  throw data("Readings are listed on the Polling page.", { status: 405 });
}
