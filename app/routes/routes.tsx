import { askPage } from "../engine/page.client.ts";
import { loadAnswer } from "../engine/page.server.ts";
import { RoutesView } from "../features/routes/routes-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/routes";

export const handle = { stage: "routes" };

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadAnswer(request, params.plan, "routes");
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "routes", "", serverLoader);
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Routes", matches);
}

export default function Page({ loaderData }: Route.ComponentProps) {
  return <RoutesView answer={loaderData.answer} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
