import type { ChangeState } from "../../../server/changes/changes.ts";

/** What a change's state is called. */
export const stateWords: Record<ChangeState, string> = {
  proposed: "waits for approval",
  approved: "approved",
  done: "carried out",
  "turned back": "turned back",
  withdrawn: "withdrawn",
};
