import { askPage } from "../engine/page.client.ts";
import { loadPage } from "../engine/page.server.ts";
import { DeskView } from "../features/desk/desk-view.tsx";
import { Frame } from "../features/frame/frame.tsx";
import type { Route } from "./+types/desk";

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadPage(request, params.plan, "frame");
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "frame", "", serverLoader);
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `Route desk · ${page?.answer.planName ?? ""} · Iron Fork` }];
}

export default function DeskPage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer} stage="routes">
      <DeskView page={loaderData} frame={loaderData.answer} />
    </Frame>
  );
}
