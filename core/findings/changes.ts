import { dismissalKey } from "../plan/index.ts";
import { type Finding, severities } from "./finding.ts";

/** How the findings of one network differ from those of another. */
export interface FindingChanges {
  readonly appear: readonly Finding[];
  readonly go: readonly Finding[];
  /** Present before and after, but more severe or worded differently now. */
  readonly worse: readonly Finding[];
  readonly changed: readonly Finding[];
}

export const NO_FINDING_CHANGES: FindingChanges = { appear: [], go: [], worse: [], changed: [] };

/** New, resolved and changed findings; resolved ones as they were before, all others as they are after. */
export function findingChanges(before: readonly Finding[], after: readonly Finding[]): FindingChanges {
  const [had, has] = [before, after].map((list) => new Map(list.map((f) => [dismissalKey(f), f])));
  const stays = after.flatMap((finding) => {
    const was = had.get(dismissalKey(finding));
    return was && (was.severity !== finding.severity || was.text !== finding.text) ? [{ was, finding }] : [];
  });
  const isWorse = ({ was, finding }: (typeof stays)[number]) =>
    severities.indexOf(finding.severity) < severities.indexOf(was.severity);
  return {
    appear: after.filter((finding) => !had.has(dismissalKey(finding))),
    go: before.filter((finding) => !has.has(dismissalKey(finding))),
    worse: stays.filter(isWorse).map(({ finding }) => finding),
    changed: stays.filter((stay) => !isWorse(stay)).map(({ finding }) => finding),
  };
}
