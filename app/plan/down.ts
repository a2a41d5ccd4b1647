import type { Frame } from "../queries/frame.ts";

/** References of the failed elements of a page's conditions, as questions take them. */
export function downOf({ conditions }: Frame): string[] {
  return conditions.plates.map((plate) => plate.ref);
}
