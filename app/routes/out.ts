import { pack } from "../../exchange/archive.ts";
import { formats, writeFiles } from "../../exchange/writers/index.ts";
import { permit } from "../../server/access/permit.ts";
import { badRequest, revisionIn } from "../engine/bodies.server.ts";
import { documentAt } from "../engine/documents.server.ts";
import { needPlan, notFound } from "../engine/page.server.ts";
import type { Route } from "./+types/out";

const isFormat = (text: string): text is keyof typeof formats => Object.hasOwn(formats, text);

/** A revision written for devices and other tools, as a ZIP archive: ?as=csv, and &device=ID for one alone. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const id = permit(request, params.plan, "reads");
  const query = new URL(request.url).searchParams;
  const as = query.get("as") ?? "";
  if (!isFormat(as)) badRequest(`Add as=…, one of ${Object.keys(formats).join(", ")}.`);
  const head = await needPlan(id);
  const wanted = query.get("revision");
  const revision = wanted === null ? head.revision : revisionIn(wanted);
  const plan = revision === null ? null : await documentAt(id, revision);
  if (!plan) notFound(`The plan has no revision ${wanted?.slice(0, 40)}.`);
  const device = query.get("device");
  if (device !== null && !plan.devices.some(({ id }) => id === device))
    notFound("The plan has no such device.");
  return new Response(pack(writeFiles(plan, as, device)), {
    headers: {
      "Content-Type": "application/zip",
      "Content-Disposition": `attachment; filename="plan-${head.id}-${as}.zip"`,
    },
  });
}
