import { layoutSchema } from "../../exchange/layout.ts";
import { keptLayouts } from "../../server/layouts.ts";

/** The layouts of text tables that the workspace knows; one that can no longer be read is left out. */
export async function knownLayouts() {
  const kept = await keptLayouts();
  return kept.flatMap(({ id, name, author, document }) => {
    const read = layoutSchema.safeParse(document);
    return read.success ? [{ id, name, author, layout: read.data }] : [];
  });
}
