import type { Edit } from "../plan/index.ts";

export const companionKinds = ["other-end", "floating", "watch", "discard"] as const;
export type CompanionKind = (typeof companionKinds)[number];

/** A change that belongs with a route: the other end, a floating twin, a watch, a discard route. */
export interface Companion {
  readonly kind: CompanionKind;
  /** The reason, in one sentence. */
  readonly why: string;
  readonly edit: Edit;
}
