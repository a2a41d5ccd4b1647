import { askPage } from "../engine/page.client.ts";
import { loadPage } from "../engine/page.server.ts";
import { Frame } from "../features/frame/frame.tsx";
import { SummariesView } from "../features/summaries/summaries-view.tsx";
import type { Route } from "./+types/summaries";

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadPage(request, params.plan, "summaries");
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "summaries", "", serverLoader);
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `Summaries · ${page?.answer.frame.planName ?? ""} · Iron Fork` }];
}

export default function SummariesPage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer.frame} stage="routes">
      <SummariesView page={loaderData} answer={loaderData.answer} />
    </Frame>
  );
}
