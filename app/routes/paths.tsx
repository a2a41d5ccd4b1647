import { askPage } from "../engine/page.client.ts";
import { loadAnswer } from "../engine/page.server.ts";
import { PathsView } from "../features/paths/paths-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/paths";

export const handle = { stage: "paths" };

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadAnswer(request, params.plan, "paths");
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "paths", "", serverLoader);
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Paths", matches);
}

export default function Page({ loaderData }: Route.ComponentProps) {
  return <PathsView answer={loaderData.answer} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
