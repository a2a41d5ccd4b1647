import type { Frame } from "../queries/frame.ts";

/** A page's title: its subject and its plan. */
export function titleOf(what: string, matches: readonly unknown[]): { title: string }[] {
  const layouts = matches as readonly ({ loaderData?: { frame?: Frame } } | undefined)[];
  const name = layouts.map((match) => match?.loaderData?.frame?.planName).find((found) => found);
  return [{ title: [what, name, "Iron Fork"].filter(Boolean).join(" · ") }];
}
