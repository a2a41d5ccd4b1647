import type { InputFile } from "./readers/index.ts";
import { promptIn } from "./readers/text/segments.ts";

/**
 * The parts of a text that was pasted from several devices: each prompt with a command starts one. Lines keep their
 * numbers. A text with prompts of one device, or without any, is returned whole.
 */
export function sectionsOf(file: InputFile): InputFile[] {
  const lines = file.text.split("\n");
  const starts: { device: string; line: number }[] = [];
  for (const [i, line] of lines.entries()) {
    const prompt = line.length < 300 ? promptIn(line) : null;
    if (prompt && prompt.command !== "" && prompt.device !== starts.at(-1)?.device)
      starts.push({ device: prompt.device, line: i });
  }
  if (new Set(starts.map(({ device }) => device)).size < 2) return [file];
  return starts.map(({ device, line }, n) => {
    const from = n === 0 ? 0 : line;
    const text = "\n".repeat(from) + lines.slice(from, starts[n + 1]?.line).join("\n");
    return { ...file, device, text };
  });
}
