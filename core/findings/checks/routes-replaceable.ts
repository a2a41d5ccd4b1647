import { containsPrefix, exactCover, formatPrefix } from "../../address/index.ts";
import type { Check } from "../check.ts";
import { addRoute, type Context, routeChange, type Written } from "../context.ts";

/** Several routes that fewer could replace with no change for any address. */
export const routesReplaceable: Check = {
  code: "routes-replaceable",
  title: "Routes can be written shorter",
  consequence: "tidy",
  severity: "advice",
  fixesChangeNothing: true,
  run: (context) =>
    context.network.devices.flatMap((device) => {
      const alike = new Map<string, Written[]>();
      for (const written of context.written) {
        if (
          written.device !== device ||
          written.table !== null ||
          written.state !== "in-use" ||
          !context.forwards(written)
        )
          continue;
        if (written.to.length === 0) continue;
        const { to: _to, note: _note, ...rest } = written.route;
        if (context.written.some((w) => w !== written && sameGroup(context, w, written))) continue;
        const key = `${written.to.address.family} ${JSON.stringify(rest, Object.keys(rest).sort())}`;
        alike.set(key, [...(alike.get(key) ?? []), written]);
      }
      return [...alike.values()].flatMap((routes) => {
        const cover = exactCover(routes.map((w) => w.to));
        // One that lies within another is never used, which is a finding of its own.
        const nested = routes.some((a) => routes.some((b) => a !== b && containsPrefix(a.to, b.to)));
        if (cover.length >= routes.length || nested) return [];
        const replaced = routes.filter((w) => !cover.some((p) => formatPrefix(p) === formatPrefix(w.to)));
        const wanted = cover.filter(
          (p) =>
            !routes.some((w) => formatPrefix(w.to) === formatPrefix(p)) &&
            replaced.some((w) => containsPrefix(p, w.to)),
        );
        const { note: _note, ...plain } = routes[0].route;
        return [
          {
            device: device.id,
            subject: routes.map((w) => w.route.to).join(", "),
            text: `On ${device.id} the ${routes.length} routes to ${routes.map((w) => w.route.to).join(", ")} go the same way; ${cover.map(formatPrefix).join(", ")} says the same.`,
            evidence: routes.map((w) => context.routeEvidence(w)),
            // The summary first: no address is without a route in between.
            fixes: [
              {
                label: `Write them as ${cover.map(formatPrefix).join(", ")}`,
                changes: [
                  ...wanted.map((p) => addRoute(device.id, { ...plain, to: formatPrefix(p) })),
                  ...replaced.map((w) => routeChange(w, null)),
                ],
              },
            ],
          },
        ];
      });
    }),
};

function sameGroup(context: Context, a: Written, b: Written): boolean {
  const { group } = context.network.candidates;
  return group[a.candidate] === group[b.candidate];
}
