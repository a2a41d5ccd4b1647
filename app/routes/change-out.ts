import { permit } from "../../server/access/permit.ts";
import { templatesOf } from "../../server/changes/templates.ts";
import { badRequest, printed } from "../engine/bodies.server.ts";
import { loadChange } from "../engine/changes.server.ts";
import { needPlan } from "../engine/page.server.ts";
import { ownWords } from "../engine/words.server.ts";
import { runbookMarkdown } from "../features/changes/paper/markdown.ts";
import { runbookHtml } from "../features/changes/paper/paper.server.tsx";
import { labelsOfPlans, toldRunbook } from "../features/changes/paper/runbook-text.ts";
import type { Route } from "./+types/change-out";

/** A change's runbook to take along: ?as=html, pdf, md or json. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const number = params.change;
  const as = new URL(request.url).searchParams.get("as") ?? "html";
  const head = await needPlan(plan);
  const loaded = await loadChange(plan, number);
  const { change, runbook, before, after } = loaded;
  const named = (type: string, ending: string) => ({
    "Content-Type": type,
    "Content-Disposition": `attachment; filename="plan-${plan}-change-${number}.${ending}"`,
    "Cache-Control": "no-store",
  });
  if (as === "json") {
    return Response.json({ ...loaded.told, runbook }, { headers: named("application/json", "json") });
  }
  const own = ownWords(loaded, await templatesOf(plan));
  const told = toldRunbook(head.name, change, runbook, labelsOfPlans(before, after), after, own);
  if (as === "md")
    return new Response(runbookMarkdown(told), { headers: named("text/markdown; charset=utf-8", "md") });
  if (as === "html")
    return new Response(runbookHtml(told, false), {
      headers: { "Content-Type": "text/html; charset=utf-8" },
    });
  if (as !== "pdf") badRequest("Add as=html, pdf, md or json to the address.");
  return printed(runbookHtml(told, true), `plan-${plan}-change-${number}.pdf`);
}
