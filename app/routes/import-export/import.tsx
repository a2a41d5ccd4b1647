import { permit } from "../../../server/access/permit.ts";
import { knownLayouts } from "../../engine/layouts.server.ts";
import { FilesView } from "../../features/exchange/files/files-view.tsx";
import { titleOf } from "../../plan/title.ts";
import type { Route } from "./+types/import";

/** The layouts of text tables that the plan keeps. */
export async function loader({ request, params }: Route.LoaderArgs) {
  return { layouts: await knownLayouts(permit(request, params.plan, "reads")) };
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Import", matches);
}

export default function Page({ loaderData: { layouts } }: Route.ComponentProps) {
  return <FilesView layouts={layouts} />;
}
