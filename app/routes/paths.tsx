import { askPage } from "../engine/page.client.ts";
import { loadPage } from "../engine/page.server.ts";
import { Frame } from "../features/frame/frame.tsx";
import { PathsView } from "../features/paths/paths-view.tsx";
import type { Route } from "./+types/paths";

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadPage(request, params.plan, "paths");
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "paths", "", serverLoader);
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `Paths · ${page?.answer.frame.planName ?? ""} · Iron Fork` }];
}

export default function PathsPage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer.frame} stage="paths">
      <PathsView page={loaderData} answer={loaderData.answer} />
    </Frame>
  );
}
