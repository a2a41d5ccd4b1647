import type { Frame } from "../queries/frame.ts";

/** References of what is down on a page: its conditions, as questions take them. */
export function downOf({ conditions }: Frame): string[] {
  return conditions.plates.map((plate) => plate.ref);
}
