import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { routeEdit, type Written } from "../context.ts";

const meantAsBackup = /\b(float\w*|back-?up|stand-?by|secondary|spare)\b/i;

/** A route meant as a backup whose distance is not higher than its primary's: both in use, or the wrong one. */
export const floatingNotHigher: Check = {
  code: "floating-not-higher",
  title: "A backup is not less preferred than its primary",
  consequence: "astray",
  severity: "error",
  ofOwnRoutes: true,
  run: (context) => {
    const { candidates } = context.network;
    const preference = (w: Written) =>
      candidates.distance[w.candidate] >= 0
        ? candidates.distance[w.candidate]
        : candidates.metric[w.candidate];
    return context.written.flatMap((backup) => {
      if (!context.forwards(backup) || backup.route.enabled === false) return [];
      const rivals = context.routes
        .beside(backup)
        .filter((w) => w !== backup && context.forwards(w) && w.route.enabled !== false);
      const primary = rivals.find((w) => preference(w) >= preference(backup) && !isBackup(w));
      // Said in its note, or by a distance that was written out and is the primary's own.
      const explicit =
        primary !== undefined &&
        backup.route.distance !== undefined &&
        primary.route.distance === undefined &&
        preference(primary) === preference(backup);
      if (!primary || !(isBackup(backup) || explicit)) return [];
      const [distances, was] = [candidates.distance[backup.candidate] >= 0, preference(primary)];
      const after = distances
        ? { ...backup.route, distance: Math.min(255, was + 10) }
        : { ...backup.route, metric: was + 10 };
      const equal = was === preference(backup);
      return [
        {
          device: backup.device.id,
          subject: describeRoute(backup.route),
          text: `On ${backup.device.id} the backup ${describeRoute(backup.route)} has the ${distances ? "distance" : "metric"} ${preference(backup)}, ${equal ? "the same as" : "lower than"} its primary ${describeRoute(primary.route)}: ${equal ? "both are active" : "it is preferred over the primary"}.`,
          evidence: [context.routeEvidence(backup), context.routeEvidence(primary)],
          fixes: [routeEdit(backup, after, `Raise ${describeRoute(backup.route)} to ${was + 10}`)],
        },
      ];
    });
  },
};

function isBackup(written: Written): boolean {
  return meantAsBackup.test(written.route.note ?? "");
}
