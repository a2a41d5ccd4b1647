import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { describe, expect, it } from "vitest";

const root = fileURLToPath(new URL("..", import.meta.url));
const read = (file: string) => readFileSync(`${root}${file}`, "utf8");

interface Rule {
  readonly number: string;
  readonly hasSource: boolean;
  readonly tests: readonly string[];
}

/** The rules of docs/rules.md, each under a heading "### 4.4 Title". */
function rulesIn(text: string): Rule[] {
  return text
    .split(/^### /m)
    .slice(1)
    .map((part) => ({
      number: part.slice(0, part.indexOf(" ")),
      hasSource: /^\*Source:\* \S/m.test(part),
      tests: [...(/^\*Tests:\* (.*)$/m.exec(part)?.[1].matchAll(/`([^`]+)`/g) ?? [])].map(([, file]) => file),
    }));
}

const NUMBERS = String.raw`\d+(?:\.\d+)?(?:(?:,? and |, | to | or )\d+(?:\.\d+)?)*`;
/** "rule 4.4", "rules 3.1 to 3.4, 7.3 and 8"; in names of tests also "9.1 and 9.4: …" and "… (14.7)". */
const CITATIONS = [
  new RegExp(String.raw`\b[Rr]ules? (${NUMBERS})`, "g"),
  new RegExp(String.raw`\b(?:it|describe)(?:\.\w+)*\(\s*["'\`](${NUMBERS}): `, "g"),
  /\((\d+\.\d+)\)["'`]/g,
];

/** The numbers that a text cites: a range is all that it holds. */
function citedIn(text: string): Set<string> {
  const cited = new Set<string>();
  for (const pattern of CITATIONS)
    for (const [, list] of text.matchAll(pattern)) {
      for (const [, from, to] of list.matchAll(/(\d+(?:\.\d+)?) to (\d+(?:\.\d+)?)/g))
        for (const between of numbersBetween(from, to)) cited.add(between);
      for (const [number] of list.matchAll(/\d+(?:\.\d+)?/g)) cited.add(number);
    }
  return cited;
}

function numbersBetween(from: string, to: string): string[] {
  const [chapter, first] = from.split(".");
  const [lastChapter, last] = to.split(".");
  const list = (a: string, b: string) =>
    Array.from({ length: Number(b) - Number(a) + 1 }, (_, n) => Number(a) + n);
  if (first === undefined) return list(chapter, lastChapter).map(String);
  return chapter === lastChapter ? list(first, last).map((n) => `${chapter}.${n}`) : [];
}

describe("docs/rules.md", () => {
  const text = read("docs/rules.md");
  const rules = rulesIn(text);
  const known = new Set([
    ...rules.map(({ number }) => number),
    ...[...text.matchAll(/^## (\d+)\. /gm)].map(([, chapter]) => chapter),
  ]);
  const files = execFileSync("git", ["ls-files", "*.ts", "*.tsx"], { cwd: root, encoding: "utf8" })
    .split("\n")
    .filter((file) => file !== "" && file !== "tests/rules.test.ts");

  it("holds every rule that code or tests cite", () => {
    const unknown = files.flatMap((file) =>
      [...citedIn(read(file))].flatMap((number) => (known.has(number) ? [] : [`${file}: rule ${number}`])),
    );
    expect(unknown).toEqual([]);
  });

  it.each(rules.map((rule) => [rule.number, rule] as const))(
    "rule %s has a source, and tests that cite it",
    (number, rule) => {
      const [chapter] = number.split(".");
      // A chapter of one rule is cited by its own number.
      const isAlone = rules.filter((other) => other.number.startsWith(`${chapter}.`)).length === 1;
      const silent = rule.tests.filter((file) => {
        const cited = citedIn(read(file));
        return !cited.has(number) && !(isAlone && cited.has(chapter));
      });
      expect({ hasSource: rule.hasSource, isTested: rule.tests.length > 0, silent }).toEqual({
        hasSource: true,
        isTested: true,
        silent: [],
      });
    },
  );
});
