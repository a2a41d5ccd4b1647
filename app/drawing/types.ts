/** Above this number of devices a drawing is packed by site with straight lines, because routing all lines would take
 * minutes, and it is painted on a canvas instead of being part of the page. */
export const LARGE_PLAN = 120;

export interface Point {
  x: number;
  y: number;
}

/** A box of the drawing, in drawing units; `id` is that of the device, link or site. */
export interface NodeDrawing extends Point {
  id: string;
  kind: "device" | "link" | "site";
  width: number;
  height: number;
  /** The pair whose plate this is; its members' boxes are one and the same. */
  pair?: string;
  /** The device that the plate is pinned by, where that is another one of the pair. */
  plate?: string;
}

/** The line of a link, or of one end of a segment that several share (`part`). */
export interface EdgeDrawing {
  link: string;
  part: number;
  points: Point[];
  /** Positions of the labels at its ends, top left; null without a label. */
  labels: (Point | null)[];
  /** The part whose line this is too: of two ends of one plate on one segment. */
  like?: number;
  /** The folded group it belongs to; the first line of the group is drawn for all. */
  trunk?: string;
}

export interface Drawing {
  width: number;
  height: number;
  nodes: NodeDrawing[];
  sites: NodeDrawing[];
  edges: EdgeDrawing[];
}
