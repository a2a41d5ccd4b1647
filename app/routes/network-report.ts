import { stageOf } from "../../core/plan/index.ts";
import { permit } from "../../server/access/permit.ts";
import { badRequest, printed, revisionIn } from "../engine/bodies.server.ts";
import { needPlan, notFound } from "../engine/page.server.ts";
import { bookHtml, drawingHtml, drawingSvg } from "../features/book/book.server.tsx";
import type { Route } from "./+types/network-report";

const named = (type: string, name: string) => ({
  "Content-Type": type,
  "Content-Disposition": `attachment; filename="${name}"`,
});

/** The network on paper: the book as a page or PDF, its drawing as SVG or PDF. ?as=html|pdf|drawing-svg|drawing-pdf */
export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const query = new URL(request.url).searchParams;
  const head = await needPlan(plan);
  const wanted = query.get("revision");
  const revision = wanted === null ? head.revision : revisionIn(wanted);
  if (revision === null || (revision > head.revision && !stageOf(revision)))
    notFound(`The plan has no revision ${wanted?.slice(0, 40)}.`);
  const as = query.get("as") ?? "html";
  if (as === "html")
    return new Response(await bookHtml(plan, revision, false), {
      headers: { "Content-Type": "text/html; charset=utf-8" },
    });
  if (as === "pdf") return printed(await bookHtml(plan, revision, true), `plan-${head.id}-book.pdf`);
  if (as === "drawing-svg")
    return new Response(await drawingSvg(plan, revision), {
      headers: named("image/svg+xml", `plan-${head.id}.svg`),
    });
  if (as === "drawing-pdf") return printed(await drawingHtml(plan, revision), `plan-${head.id}-drawing.pdf`);
  badRequest("Add as=html, pdf, drawing-svg or drawing-pdf to the address.");
}
