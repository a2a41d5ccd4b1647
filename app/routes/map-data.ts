import { permit } from "../../server/access/permit.ts";
import { drawingOf, loadAnswer } from "../engine/page.server.ts";
import { openedIn } from "../search/opened.ts";
import type { Route } from "./+types/map-data";

/** The map with its drawing, for plans whose first page does not carry them. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const page = await loadAnswer(request, params.plan, "map");
  const opened = openedIn(new URL(request.url).searchParams);
  return Response.json({
    answer: page.answer,
    drawing: await drawingOf(permit(request, params.plan, "reads"), page.revision, opened),
  });
}
