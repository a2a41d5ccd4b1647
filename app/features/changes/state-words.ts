import type { ChangeState } from "../../../server/changes/changes.ts";

/** What a change's state is called. */
export const stateWords: Record<ChangeState, string> = {
  proposed: "awaiting approval",
  approved: "approved",
  done: "carried out",
  "turned back": "rolled back",
  withdrawn: "withdrawn",
};
