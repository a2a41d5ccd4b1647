import { loadAnswer } from "../engine/page.server.ts";
import { FindingsView } from "../features/findings/findings-view.tsx";
import { headOf } from "../plan/head.ts";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/findings";

export const handle = { stage: "findings" };

export async function loader({ request, params }: Route.LoaderArgs) {
  const { answer } = await loadAnswer(request, params.plan, "findings");
  return answer;
}

/** Once the plan is in the browser, the page comes at once; its findings follow from the worker that may take long. */
export async function clientLoader({ params, serverLoader }: Route.ClientLoaderArgs) {
  return headOf(params.plan) ? { set: null } : serverLoader();
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Findings", matches);
}

export default function Page({ loaderData: { set } }: Route.ComponentProps) {
  return <FindingsView set={set} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
