import { knownLayouts } from "../../engine/layouts.server.ts";
import { RebuildView } from "../../features/exchange/rebuild/rebuild-view.tsx";
import { titleOf } from "../../plan/title.ts";
import type { Route } from "./+types/rebuild";

/** The layouts of text tables that the workspace knows. */
export async function loader() {
  return { layouts: await knownLayouts() };
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Rebuild the picture", matches);
}

export default function Page({ loaderData: { layouts } }: Route.ComponentProps) {
  return <RebuildView layouts={layouts} />;
}
