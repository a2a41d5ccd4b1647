import type { Context, Written } from "./context.ts";

export interface Pair {
  readonly primary: Written;
  readonly backup: Written;
}

/** Each active route with its standby route, if both are written and both forward. */
export function pairsOf(context: Context): readonly Pair[] {
  return context.once("pairs", () =>
    context.written.flatMap((backup) => {
      if (backup.state !== "standby" || !context.forwards(backup)) return [];
      const primary = context.routes.beside(backup).find((w) => w.state === "in-use" && context.forwards(w));
      return primary ? [{ primary, backup }] : [];
    }),
  );
}
