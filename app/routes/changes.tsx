import { redirect } from "react-router";
import { approve, historyOf } from "../../server/plans.ts";
import { badRequest, formBody, revisionIn, textOf } from "../engine/bodies.server.ts";
import { ChangesView } from "../features/changes/changes-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/changes";

export const handle = { stage: "changes" };

const SHOWN = 100;

export async function loader({ params }: Route.LoaderArgs) {
  return { history: await historyOf(params.plan, SHOWN) };
}

/** Lets the revision that the page shows count as approved. */
export async function action({ request, params }: Route.ActionArgs) {
  const revision = revisionIn(textOf(await formBody(request), "approve"));
  if (revision === null) badRequest("This does not say which revision is approved.");
  await approve(params.plan, revision);
  return redirect(`/plans/${params.plan}/changes`);
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Changes", matches);
}

export default function Page({ loaderData: { history } }: Route.ComponentProps) {
  return <ChangesView history={history} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
