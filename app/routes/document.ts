import { writePlanText } from "../../exchange/plan-text.ts";
import { permit } from "../../server/access/permit.ts";
import { headOf } from "../../server/plans.ts";
import { revisionIn } from "../engine/bodies.server.ts";
import { documentAt } from "../engine/documents.server.ts";
import { notFound } from "../engine/page.server.ts";
import type { Route } from "./+types/document";

/** A revision's document: as stored, or with ?format=yaml or json as a download. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const query = new URL(request.url).searchParams;
  const id = permit(request, params.plan, "reads");
  const head = await headOf(id);
  if (!head) notFound("There is no such plan.");
  const wanted = query.get("revision");
  const revision = wanted === null ? head.revision : revisionIn(wanted);
  const plan = revision === null ? null : await documentAt(id, revision);
  if (!plan) notFound(`The plan has no revision ${wanted?.slice(0, 40)}.`);
  const format = query.get("format");
  if (format !== "yaml" && format !== "json") {
    // A revision never changes, so the browser may keep it.
    const keep = query.has("revision")
      ? { "Cache-Control": "private, max-age=31536000, immutable" }
      : undefined;
    return Response.json(plan, { headers: keep });
  }
  const file = plan.name.toLowerCase().replace(/[^a-z0-9]+/g, "-");
  return new Response(writePlanText(plan, format, new URL("/plan.schema.json", request.url).href), {
    headers: {
      "Content-Type": format === "yaml" ? "application/yaml" : "application/json",
      "Content-Disposition": `attachment; filename="${file}.${format}"`,
    },
  });
}
