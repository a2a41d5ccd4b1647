/** What stands beside a verdict where it holds: some ways work where others do not; which way is taken is not known. */
export interface Marks {
  partly?: true;
  uncertain?: true;
}

export function marksOf({ partly, uncertain }: { partly: boolean; uncertain: boolean }): Marks {
  return { ...(partly ? { partly } : {}), ...(uncertain ? { uncertain } : {}) };
}
