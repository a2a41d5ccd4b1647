import { layoutSchema } from "../../exchange/layout.ts";
import type { ReadablePlan } from "../../server/access/grants.ts";
import { keptLayouts } from "../../server/layouts.ts";

/** The layouts of text tables that a plan keeps; one that can no longer be read is left out. */
export async function knownLayouts(plan: ReadablePlan) {
  const kept = await keptLayouts(plan);
  return kept.flatMap(({ id, name, author, document }) => {
    const read = layoutSchema.safeParse(document);
    return read.success ? [{ id, name, author, layout: read.data }] : [];
  });
}
