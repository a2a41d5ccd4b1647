import { askPage } from "../engine/page.client.ts";
import { loadPage } from "../engine/page.server.ts";
import { Frame } from "../features/frame/frame.tsx";
import { ReportView } from "../features/outages/report-view.tsx";
import type { Route } from "./+types/report";

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadPage(request, params.plan, "frame");
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "frame", "", serverLoader);
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `What happens when · ${page?.answer.planName ?? ""} · Iron Fork` }];
}

export default function ReportPage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer} stage="outages">
      <ReportView page={loaderData} frame={loaderData.answer} />
    </Frame>
  );
}
