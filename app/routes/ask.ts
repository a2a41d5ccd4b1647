import { redirect } from "react-router";
import { loadAnswer } from "../engine/page.server.ts";
import { hrefOf, pageHref } from "../search/links.ts";
import type { Route } from "./+types/ask";

/** The question field without scripts: goes where the best suggestion leads. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const page = await loadAnswer(request, params.plan, "question");
  const query = new URL(request.url).searchParams;
  const [best] = page.answer;
  if (!best) return redirect(pageHref(params.plan, "routes", query, { find: page.view.text.slice(0, 200) }));
  return redirect(hrefOf(params.plan, best, query));
}
