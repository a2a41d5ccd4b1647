import type { RunbookText } from "./runbook-text.ts";

/** Escapes characters with a meaning in Markdown. */
const plain = (text: string) =>
  text
    .replace(/[\\`*_{}[\]<>#|]/g, "\\$&")
    .split("\n")
    .map((line) => line.trim())
    .join(" ");

/** A runbook in Markdown, with boxes to tick. */
export function runbookMarkdown({ title, about, verdict, remarks, visits, record }: RunbookText): string {
  const lines = [
    `# ${plain(title)}`,
    "",
    ...about.map(([term, value]) => `- **${term}:** ${plain(value)}`),
    "",
    plain(verdict),
    ...remarks.flatMap((text) => ["", plain(text)]),
    ...visits.flatMap((visit) => [
      "",
      `## ${plain(visit.title)}`,
      ...listed("Before", visit.before),
      "",
      ...visit.steps.flatMap(({ text, own, done }, n) => [
        `- [${done ? "x" : " "}] ${n + 1}. ${plain(text)}${done ? ` (${plain(done)})` : ""}`,
        ...(own ? ["", ...fenced(own), ""] : []),
      ]),
      ...listed("After", visit.after),
      ...(visit.meanwhile.length > 0 ? ["", ...visit.meanwhile.map((text) => `> ${plain(text)}`)] : []),
      ...listed("Rollback", visit.steps.map(({ undo }) => undo).toReversed()),
    ]),
    "",
    "## History",
    "",
    ...record.map((text) => `- ${plain(text)}`),
  ];
  return `${lines.join("\n")}\n`;
}

function listed(title: string, items: readonly string[]): string[] {
  return items.length > 0 ? ["", `${title}:`, "", ...items.map((text) => `- [ ] ${plain(text)}`)] : [];
}

/** A block whose fence is longer than any in it. */
function fenced(text: string): string[] {
  const longest = Math.max(2, ...[...text.matchAll(/`+/g)].map(([run]) => run.length));
  const fence = "`".repeat(longest + 1);
  return [fence, text, fence];
}
