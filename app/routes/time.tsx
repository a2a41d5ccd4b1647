import { askPage } from "../engine/page.client.ts";
import { loadPage } from "../engine/page.server.ts";
import { Frame } from "../features/frame/frame.tsx";
import { TimeView } from "../features/outages/time-view.tsx";
import type { Route } from "./+types/time";

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadPage(request, params.plan, "frame");
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "frame", "", serverLoader);
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `Outage in time · ${page?.answer.planName ?? ""} · Iron Fork` }];
}

export default function TimePage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer} stage="outages">
      <TimeView page={loaderData} frame={loaderData.answer} />
    </Frame>
  );
}
