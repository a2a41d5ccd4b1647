import { askPage } from "../engine/page.client.ts";
import { loadPage } from "../engine/page.server.ts";
import { Frame } from "../features/frame/frame.tsx";
import { RoutesView } from "../features/routes/routes-view.tsx";
import type { Route } from "./+types/routes";

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadPage(request, params.plan, "routes");
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "routes", "", serverLoader);
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `Routes · ${page?.answer.frame.planName ?? ""} · Iron Fork` }];
}

export default function RoutesPage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer.frame} stage="routes">
      <RoutesView answer={loaderData.answer} />
    </Frame>
  );
}
