import type { Point } from "../../drawing/types.ts";

interface Box extends Point {
  readonly width: number;
  readonly height: number;
}

export interface SignPlace extends Box {
  /** Size of the text, in units of the drawing. */
  readonly size: number;
}

/** Sizes of the text that are tried, in pixels, the best first. */
const SIZES = [14, 12, 10, 9];

/** Steps in each direction between the places that are tried. */
const STEPS = 8;

/**
 * Where the names of sites stand when the map is seen from afar: in or beside their sites, over no plate and no other name.
 * @param sites boxes of the sites in units of the drawing, with the text of their names
 * @param plates boxes of the devices
 * @param scale pixels to a unit
 * @returns by the site's id; none for a site that has no free place
 */
export function placeSigns(
  sites: readonly (Box & { readonly id: string; readonly text: string })[],
  plates: readonly Box[],
  scale: number,
): Map<string, SignPlace> {
  const places = new Map<string, SignPlace>();
  const taken: Box[] = [...plates];
  for (const site of sites) {
    const place = SIZES.map((pixels) => freePlace(site, taken, pixels / scale)).find((one) => one !== null);
    if (!place) continue;
    places.set(site.id, place);
    taken.push(place);
  }
  return places;
}

/** The free place of a size that is nearest to the middle of a site; at most one height of the sign outside of it. */
function freePlace(
  site: Box & { readonly text: string },
  taken: readonly Box[],
  size: number,
): SignPlace | null {
  const width = site.text.length * size * 0.52 + size;
  const height = size * 1.5;
  const around = {
    x: site.x - Math.max(0, width - site.width) / 2 - height,
    y: site.y - height,
    width: Math.max(site.width, width) + 2 * height,
    height: site.height + 2 * height,
  };
  const near = taken.filter((box) => overlaps(box, around));
  let best: SignPlace | null = null;
  let bestOff = Number.POSITIVE_INFINITY;
  for (let i = 0; i <= STEPS; i++)
    for (let j = 0; j <= STEPS; j++) {
      const x = around.x + ((around.width - width) * i) / STEPS;
      const y = around.y + ((around.height - height) * j) / STEPS;
      const place = { x, y, width, height, size };
      const off =
        Math.abs(x + width / 2 - site.x - site.width / 2) +
        Math.abs(y + height / 2 - site.y - site.height / 2);
      if (off >= bestOff || near.some((box) => overlaps(box, place))) continue;
      best = place;
      bestOff = off;
    }
  return best;
}

export function overlaps(a: Box, b: Box): boolean {
  return a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;
}
