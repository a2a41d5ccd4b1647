import type { TextedRunbook } from "../../../exchange/texts/index.ts";
import type { Change } from "../../../server/changes/changes.ts";
import type { Live } from "../../engine/device-readings.server.ts";
import type { OwnWords } from "../../engine/words.server.ts";

/** What the page of a change shows. */
export interface ChangeShown {
  readonly change: Omit<Change, "runbook" | "id" | "session">;
  readonly runbook: TextedRunbook;
  /** The latest readings of its devices. */
  readonly seen: Live;
  /** The authors of its content, while it waits for approval. */
  readonly authors: readonly string[];
  /** Its steps in the users' own words. */
  readonly own: OwnWords;
}
