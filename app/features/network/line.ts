import type { Point } from "../../drawing/types.ts";

/** A link's line between two boxes of the drawing: for a shared segment, one line an end. */
export interface Line {
  key: string;
  link: string;
  part: number;
  points: Point[];
  /** Where the labels of its ends stand, as laid out; empty where a box was moved. */
  labels: (Point | null)[];
  /** The ends that have their label on this line, with where the line starts for them. */
  from: string;
  to: string | null;
}
