import { data } from "react-router";
import { z } from "zod";
import { permit } from "../../server/access/permit.ts";
import { visitorOf } from "../../server/session.ts";
import { formOf } from "../engine/bodies.server.ts";
import { type ArchiveNotice, takeArchive } from "../engine/import-archive.server.ts";
import type { Route } from "./+types/archive";

export type { ArchiveNotice };

/** Reads an archive on the server, and takes it into the plan. */
export async function action({ request, params }: Route.ActionArgs) {
  const plan = permit(request, params.plan, "edits");
  const visitor = await visitorOf(request);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  const { file } = await formOf(request, z.object({ file: z.instanceof(File) }));
  if (file.size === 0) return data(null, { status: 400, headers });
  const told = await takeArchive(plan, file, visitor);
  return data(told, { status: told.error === "" ? 200 : 400, headers });
}

/** There is nothing to see at this address. */
export function loader() {
  throw data("Archives are imported on the Import page.", { status: 405 });
}
