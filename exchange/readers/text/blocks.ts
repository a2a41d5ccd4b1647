import type { Token, Tokenizer } from "./tokens.ts";
import { plain, roleOf } from "./vocabulary.ts";

/** The key of a line "key: value" or "key = value"; null for other lines. */
function keyOf(line: string): string | null {
  const match = /^\s{0,40}([\p{L}][\p{L}\d ./_()-]{0,40}?)\s{0,20}(?::|=|\.{2,40}:?)(?=\s+\S)/u.exec(
    line.slice(0, 200),
  );
  return match ? plain(match[1]) : null;
}

/**
 * The blocks of a text in which each record is several lines "key: value": for the position of each line of a record, the
 * record's number. A record ends at a blank line, at a line that is no pair, or where its first key comes again.
 */
export function blocksOf(lines: readonly string[], tokensOf: Tokenizer): Map<number, number> {
  const blocks = new Map<number, number>();
  let record: { first: string; lines: number[]; known: number } | null = null;
  let count = 0;
  const end = () => {
    if (
      record &&
      record.lines.length >= 2 &&
      record.known >= 1 &&
      record.lines.some((i) => hasNetwork(tokensOf(lines[i])))
    ) {
      for (const i of record.lines) blocks.set(i, count);
      count++;
    }
    record = null;
  };
  for (const [i, line] of lines.entries()) {
    const key = keyOf(line);
    if (key === null) {
      end();
      continue;
    }
    if (record && key === record.first) end();
    record ??= { first: key, lines: [], known: 0 };
    record.lines.push(i);
    if (roleOf(key)) record.known++;
  }
  end();
  return blocks;
}

const hasNetwork = (tokens: readonly Token[]) =>
  tokens.some(({ shape, text }) => (shape === "prefix" || shape === "address") && /\d/.test(text));
