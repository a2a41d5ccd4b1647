import { askPage } from "../engine/page.client.ts";
import { loadAnswer } from "../engine/page.server.ts";
import { SummariesView } from "../features/summaries/summaries-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/summaries";

export const handle = { stage: "routes" };

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadAnswer(request, params.plan, "summaries");
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "summaries", "", serverLoader);
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Summaries", matches);
}

export default function Page({ loaderData }: Route.ComponentProps) {
  return <SummariesView answer={loaderData.answer} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
