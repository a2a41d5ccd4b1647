import type { Family } from "../address/index.ts";
import type { Context, Written } from "./context.ts";

/** Defaults that make a routing loop, in its order. */
export interface DefaultCircle {
  readonly circle: readonly Written[];
  readonly family: Family;
}

/** Every circle that the defaults in use of several devices make, with no failures. */
export function defaultCircles(context: Context): readonly DefaultCircle[] {
  return context.once("circles of defaults", () => findCircles(context));
}

function findCircles(context: Context): DefaultCircle[] {
  const circles = new Map<string, DefaultCircle>();
  for (const family of [4, 6] as const) {
    const isDefault = (w: Written) =>
      w.state === "in-use" &&
      w.to.length === 0 &&
      w.to.address.family === family &&
      w.table === null &&
      context.forwards(w);
    const defaults = new Map(context.routes.all.filter(isDefault).map((w) => [w.device.index, w]));
    for (const start of defaults.values()) {
      const way: Written[] = [];
      for (
        let at: Written | undefined = start;
        at && !way.includes(at);
        at = defaults.get(context.nextDevice(at))
      )
        way.push(at);
      if (defaults.get(context.nextDevice(way[way.length - 1])) !== start) continue;
      const devices = way.map((w) => w.device.index).sort((a, b) => a - b);
      const key = `${family} ${devices.join()}`;
      if (!circles.has(key)) circles.set(key, { circle: way, family });
    }
  }
  return [...circles.values()];
}
