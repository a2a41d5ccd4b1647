import { data, redirect } from "react-router";
import { approve, historyOf } from "../../server/plans.ts";
import { badRequest, formBody, revisionIn, textOf } from "../engine/bodies.server.ts";
import { loadPage } from "../engine/page.server.ts";
import { ChangesView } from "../features/changes/changes-view.tsx";
import { Frame } from "../features/frame/frame.tsx";
import type { Route } from "./+types/changes";

const SHOWN = 100;

export async function loader({ request, params }: Route.LoaderArgs) {
  const { data: page, init } = await loadPage(request, params.plan, "frame");
  return data({ ...page, history: await historyOf(page.planId, SHOWN) }, init ?? undefined);
}

/** Lets the revision that the page shows count as approved. */
export async function action({ request, params }: Route.ActionArgs) {
  const revision = revisionIn(textOf(await formBody(request), "approve"));
  if (revision === null) badRequest("This does not say which revision is approved.");
  await approve(params.plan, revision);
  return redirect(`/plans/${params.plan}/changes`);
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `Changes · ${page?.answer.planName ?? ""} · Iron Fork` }];
}

export default function ChangesPage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer} stage="changes">
      <ChangesView page={loaderData} frame={loaderData.answer} history={loaderData.history} />
    </Frame>
  );
}
