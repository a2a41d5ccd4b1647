import { comparePrefix, containsPrefix, exactCover, formatPrefix, PrefixList } from "../../address/index.ts";
import { addTo } from "../../collections/index.ts";
import type { Check } from "../check.ts";
import { addRoute, routeChange, type Written } from "../context.ts";

/** Several routes that fewer could replace with no change for any address. */
export const routesReplaceable: Check = {
  code: "routes-replaceable",
  title: "Routes can be summarized",
  consequence: "tidy",
  severity: "advice",
  fixesChangeNothing: true,
  ofOwnRoutes: true,
  run: (context) =>
    context.devices.flatMap((device) => {
      const alike = new Map<string, Written[]>();
      for (const written of context.routes.of(device.index)) {
        if (written.table !== null || written.state !== "in-use" || !context.forwards(written)) continue;
        if (written.to.length === 0) continue;
        const { to: _to, note: _note, ...rest } = written.route;
        if (context.routes.beside(written).length > 1) continue;
        const key = `${written.to.address.family} ${JSON.stringify(rest, Object.keys(rest).sort())}`;
        addTo(alike, key, written);
      }
      return [...alike.values()].flatMap((routes) => {
        const cover = exactCover(routes.map((w) => w.to));
        // One inside another is never used, which is a separate finding.
        if (cover.length >= routes.length || anyNested(routes)) return [];
        const [covering, written] = [cover, routes.map((w) => w.to)].map(
          (list) => new Set(list.map(formatPrefix)),
        );
        const replaced = routes.filter((w) => !covering.has(formatPrefix(w.to)));
        const list = new PrefixList(replaced, (w) => w.to);
        const wanted = cover.filter((p) => !written.has(formatPrefix(p)) && list.within(p).length > 0);
        const { note: _note, ...plain } = routes[0].route;
        return [
          {
            device: device.id,
            subject: routes.map((w) => w.route.to).join(", "),
            text: `On ${device.id} the ${routes.length} routes to ${routes.map((w) => w.route.to).join(", ")} have the same next hop. ${cover.map(formatPrefix).join(", ")} covers the same addresses.`,
            evidence: routes.map((w) => context.routeEvidence(w)),
            // The summary first: no address is without a route in between.
            fixes: [
              {
                label: `Replace them with ${cover.map(formatPrefix).join(", ")}`,
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

/** Whether one of the routes lies within another. */
function anyNested(routes: readonly Written[]): boolean {
  const sorted = routes.map((w) => w.to).sort(comparePrefix);
  return sorted.some((prefix, i) => i > 0 && containsPrefix(sorted[i - 1], prefix));
}
