import { lineOf } from "../../drawing/lines.ts";
import type { Drawing, NodeDrawing, Point } from "../../drawing/types.ts";
import type { MapAnswer, MapLink } from "../../queries/map.ts";

/** A link's line between two boxes of the drawing: for a shared segment, one line an end. */
export interface Line {
  key: string;
  link: string;
  /** The link as the map shows it. */
  shown: MapLink;
  part: number;
  points: Point[];
  /** Positions of the labels at its ends, as computed; empty if a box was moved. */
  labels: (Point | null)[];
  /** The ends that have their label on this line, with where the line starts for them. */
  from: string;
  to: string | null;
  /** Not drawn itself, for another end of the same plate, or the first of folded lines, has the same line. */
  hidden: boolean;
  /** The folded lines that it represents, including itself; null for a single line. */
  trunk: {
    readonly name: string;
    readonly texts: readonly [string, string];
    readonly links: MapLink[];
  } | null;
}

/** The lines of a drawing, with the boxes that they join where these were moved. */
export function linesOf(
  answer: MapAnswer,
  placed: Drawing,
  nodes: ReadonlyMap<string, NodeDrawing>,
  pins: ReadonlyMap<string, Point>,
): Line[] {
  const links = new Map(answer.links.map((link) => [link.id, link]));
  const chosen = chosenParts(links, placed);
  const trunks = new Map(answer.trunks.map((trunk) => [trunk.name, trunk]));
  return placed.edges.flatMap((edge) => {
    const shown = links.get(edge.link);
    if (!shown) return [];
    const shared = shown.ends.length !== 2;
    const from = shown.ends[shared ? edge.part : 0]?.device;
    const to = shared ? null : shown.ends[1].device;
    if (!from) return [];
    const a = nodes.get(`device:${from}`);
    const b = nodes.get(to === null ? `link:${shown.id}` : `device:${to}`);
    const moved = pins.has(from) || (to !== null && pins.has(to));
    const trunk = edge.trunk === undefined ? undefined : trunks.get(edge.trunk);
    const isFirst = trunk?.links[0] === edge.link;
    const all = isFirst ? trunk.links.flatMap((id) => links.get(id) ?? []) : [];
    return [
      {
        key: `${edge.link} ${edge.part}`,
        link: edge.link,
        shown,
        part: edge.part,
        points: lineOf(edge, a, b, moved),
        labels: moved ? [] : edge.labels,
        from,
        to,
        trunk: trunk && isFirst ? { name: trunk.name, texts: trunk.texts, links: all } : null,
        hidden:
          (trunk !== undefined && !isFirst) ||
          (chosen.get(`${edge.link} ${edge.like ?? edge.part}`) ?? edge.part) !== edge.part,
      },
    ];
  });
}

/** Of ends that have one line, the part that is drawn: one that is up, else the first. */
function chosenParts(links: ReadonlyMap<string, MapLink>, { edges }: Drawing): ReadonlyMap<string, number> {
  const chosen = new Map<string, number>();
  for (const { link, part, like } of edges) {
    if (like === undefined) continue;
    const key = `${link} ${like}`;
    const ends = links.get(link)?.ends;
    const now = chosen.get(key) ?? like;
    chosen.set(key, !ends?.[now]?.up && ends?.[part]?.up ? part : now);
  }
  return chosen;
}

/** The ends of a link that have their label on a line. */
export function endsOn({ shown, part }: Line) {
  return shown.ends.length === 2 ? shown.ends : [shown.ends[part]];
}

/** The places where devices were pinned. */
export function pinsOf({ devices }: MapAnswer): Map<string, Point> {
  return new Map(devices.flatMap((device) => (device.place ? [[device.id, device.place] as const] : [])));
}

/** What the map shows as down: links and devices, as references. */
export function downIn({ links, devices }: MapAnswer): string {
  const refs = [
    ...links.filter((link) => link.down).map((link) => `link:${link.id}`),
    ...devices.filter((device) => !device.up).map((device) => `device:${device.id}`),
  ];
  return refs.join(" ");
}
