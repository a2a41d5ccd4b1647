import { formatPrefix, type Prefix } from "../../address/index.ts";
import { describeRoute } from "../../plan/index.ts";
import type { Check } from "../check.ts";
import { type Context, routeEdit, type Written } from "../context.ts";
import { defaultCircles } from "../default-circles.ts";

/** A route that makes no difference: the next shorter one leads the same way, or equals leave it no share. */
export const routeNeverUsed: Check = {
  code: "route-never-used",
  title: "A route has no effect",
  consequence: "tidy",
  severity: "advice",
  fixesChangeNothing: true,
  ofOwnRoutes: true,
  run: (context) => {
    const circling = new Set(defaultCircles(context).flatMap(({ circle }) => circle));
    return context.written.flatMap((written) => {
      if (written.route.watch || !context.forwards(written)) return [];
      const cover = written.state === "in-use" ? coveringRoute(context, written, circling) : null;
      const limited =
        written.reason === "equal-cost-limit" || written.reason === "equal-cost-other-interface";
      if (!cover && !limited) return [];
      return [
        {
          device: written.device.id,
          subject: describeRoute(written.route),
          text: cover
            ? `On ${written.device.id} the route ${describeRoute(written.route)} has no effect: ${formatPrefix(cover)} uses the same next hop.`
            : `On ${written.device.id} the route ${describeRoute(written.route)} is never active: routes of the same distance fill all equal-cost places.`,
          evidence: [context.routeEvidence(written)],
          fixes: cover
            ? [
                routeEdit(
                  written,
                  null,
                  `Remove ${describeRoute(written.route)} from ${written.device.label}`,
                ),
              ]
            : [],
        },
      ];
    });
  },
};

/** The next shorter destination in use, where it goes out by the very same next hops and the route has no rival. */
function coveringRoute(context: Context, written: Written, circling: ReadonlySet<Written>): Prefix | null {
  if (context.routes.beside(written).length > 1) return null;
  const wider = context.routes
    .inTableOf(written)
    .holding(written.to)
    .filter((w) => w.to.length < written.to.length && w.state === "in-use");
  const longest = Math.max(-1, ...wider.map((w) => w.to.length));
  const next = wider.filter((w) => w.to.length === longest);
  const way = (w: Written) =>
    w.hops.map((h) => `${h.out} ${h.address?.w0} ${h.address?.w1} ${h.address?.w2} ${h.address?.w3}`).join();
  if (next.length !== 1 || !context.forwards(next[0]) || way(next[0]) !== way(written) || next[0].route.watch)
    return null;
  // A default route that is part of a loop is wrong and will be removed; the longer route remains.
  if (circling.has(next[0])) return null;
  // A backup behind the wider route would carry in its place; then the longer one does make a difference.
  return context.routes.beside(next[0]).length > 1 ? null : next[0].to;
}
