import type { z } from "zod";

/** An error in a document and its path: "devices[2].routes[0].to". */
export interface PlanError {
  readonly path: string;
  readonly message: string;
}

/** The most errors that one reading reports. */
export const MAX_ERRORS = 50;

export function pathText(path: readonly PropertyKey[]): string {
  return path.reduce<string>(
    (text, key) => text + (typeof key === "number" ? `[${key}]` : text ? `.${String(key)}` : String(key)),
    "",
  );
}

export function formatPlanError(error: PlanError): string {
  return error.path ? `${error.path}: ${error.message}` : error.message;
}

/** Zod's issues as our sentences; a union reports the branch that matched best. */
export function errorsOfIssues(
  issues: readonly z.core.$ZodIssue[],
  above: readonly PropertyKey[] = [],
): PlanError[] {
  return issues.flatMap((issue): PlanError[] => {
    const path = [...above, ...issue.path];
    const at = (message: string) => [{ path: pathText(path), message }];
    switch (issue.code) {
      case "unrecognized_keys":
        return issue.keys.map((key) => ({
          path: pathText([...path, key.slice(0, 60)]),
          message: "unknown key; remove it or correct its spelling",
        }));
      case "invalid_type":
        return at(
          issue.input === undefined
            ? `is missing; expected ${words[issue.expected] ?? issue.expected}`
            : `expected ${words[issue.expected] ?? issue.expected}`,
        );
      case "invalid_value":
        if (issue.message.startsWith("the ")) return at(issue.message);
        return at(`expected ${issue.values.map((v) => JSON.stringify(v)).join(" or ")}`);
      case "invalid_union": {
        const nearest = issue.errors.length
          ? issue.errors.reduce((a, b) => (b.length < a.length ? b : a))
          : [];
        if (issue.discriminator) return at(`expected a known kind`);
        return nearest.length ? errorsOfIssues(nearest, path) : at(issue.message);
      }
      case "too_small":
        return at(issue.message.startsWith("Too") ? `must be at least ${issue.minimum}` : issue.message);
      case "too_big":
        return at(issue.message.startsWith("Too") ? `must be at most ${issue.maximum}` : issue.message);
      default:
        return at(issue.message);
    }
  });
}

const words: Record<string, string> = {
  string: "text",
  array: "a list",
  object: "an object",
  number: "a number",
  int: "a whole number",
  boolean: "true or false",
};

/** Tells that something at a path of the document is wrong. */
export type Report = (path: PropertyKey[], message: string) => void;

/** Tells of each item whose key stands earlier in the list too. */
export function unique<T>(
  items: readonly T[],
  key: (item: T) => string,
  path: PropertyKey[],
  what: string,
  report: Report,
) {
  const first = new Map<string, number>();
  for (const [i, item] of items.entries()) {
    const k = key(item);
    const earlier = first.get(k);
    if (earlier === undefined) first.set(k, i);
    else
      report([...path, i], `the ${what} ${k} appears twice; it is also at ${pathText([...path, earlier])}`);
  }
}
