import type { Marks } from "./schemas.ts";
export function marksOf({ partly, uncertain }: { partly: boolean; uncertain: boolean }): Marks {
  return { ...(partly ? { partly } : {}), ...(uncertain ? { uncertain } : {}) };
}
