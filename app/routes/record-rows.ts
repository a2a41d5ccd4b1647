import { recordLines } from "../../server/access/record.ts";

/** The whole record as JSON lines. */
export async function loader() {
  const lines: string[] = [];
  for await (const line of recordLines()) lines.push(line);
  return new Response(lines.join(""), {
    headers: {
      "Content-Type": "application/jsonl",
      "Content-Disposition": 'attachment; filename="record.jsonl"',
      "Cache-Control": "no-store",
    },
  });
}
