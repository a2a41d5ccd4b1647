import { permit } from "../../../server/access/permit.ts";
import { knownLayouts } from "../../engine/layouts.server.ts";
import { RebuildView } from "../../features/exchange/rebuild/rebuild-view.tsx";
import { titleOf } from "../../plan/title.ts";
import type { Route } from "./+types/topology";

/** The layouts of text tables that the plan keeps. */
export async function loader({ request, params }: Route.LoaderArgs) {
  return { layouts: await knownLayouts(permit(request, params.plan, "reads")) };
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Topology from a route table", matches);
}

export default function Page({ loaderData: { layouts } }: Route.ComponentProps) {
  return <RebuildView layouts={layouts} />;
}
