import { layoutSchema } from "../../../exchange/layout.ts";
import { keptLayouts } from "../../../server/layouts.ts";
import { FilesView } from "../../features/exchange/files/files-view.tsx";
import { titleOf } from "../../plan/title.ts";
import type { Route } from "./+types/files";

/** The layouts of text tables that the workspace knows. */
export async function loader() {
  const kept = await keptLayouts();
  return {
    layouts: kept.flatMap(({ id, name, author, document }) => {
      const read = layoutSchema.safeParse(document);
      return read.success ? [{ id, name, author, layout: read.data }] : [];
    }),
  };
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Exchange", matches);
}

export default function Page({ loaderData: { layouts } }: Route.ComponentProps) {
  return <FilesView layouts={layouts} />;
}
