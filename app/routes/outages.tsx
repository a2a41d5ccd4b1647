import { askPage } from "../data/page.client.ts";
import { loadPage } from "../data/page.server.ts";
import { Frame } from "../views/frame/frame.tsx";
import { OutagesView } from "../views/outages/outages-view.tsx";
import type { Route } from "./+types/outages";

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadPage(request, params.plan, "frame");
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "frame", "", serverLoader);
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `Outages · ${page?.answer.planName ?? ""} · Iron Fork` }];
}

export default function OutagesPage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer} stage="outages">
      <OutagesView page={loaderData} frame={loaderData.answer} />
    </Frame>
  );
}
