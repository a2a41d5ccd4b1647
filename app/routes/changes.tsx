import { data } from "react-router";
import { historyOf } from "../../server/plans.ts";
import { loadPage } from "../data/page.server.ts";
import { ChangesView } from "../views/changes/changes-view.tsx";
import { Frame } from "../views/frame/frame.tsx";
import type { Route } from "./+types/changes";

const SHOWN = 100;

export async function loader({ request, params }: Route.LoaderArgs) {
  const { data: page, init } = await loadPage(request, params.plan, "frame");
  return data({ ...page, history: await historyOf(page.planId, SHOWN) }, init ?? undefined);
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `Changes · ${page?.answer.planName ?? ""} · Iron Fork` }];
}

export default function ChangesPage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer} stage="changes">
      <ChangesView page={loaderData} history={loaderData.history} />
    </Frame>
  );
}
