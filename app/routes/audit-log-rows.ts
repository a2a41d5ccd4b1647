import { recordLines } from "../../server/access/audit-log.ts";
import { permitAdministration } from "../../server/access/permit.ts";
import type { Route } from "./+types/audit-log-rows";

/** The whole record as JSON lines. */
export async function loader({ request }: Route.LoaderArgs) {
  const lines: string[] = [];
  for await (const line of recordLines(permitAdministration(request))) lines.push(line);
  return new Response(lines.join(""), {
    headers: {
      "Content-Type": "application/jsonl",
      "Content-Disposition": 'attachment; filename="record.jsonl"',
      "Cache-Control": "no-store",
    },
  });
}
