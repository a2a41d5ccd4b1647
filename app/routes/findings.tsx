import { askPage } from "../engine/page.client.ts";
import { loadPage } from "../engine/page.server.ts";
import { FindingsView } from "../features/findings/findings-view.tsx";
import { Frame } from "../features/frame/frame.tsx";
import type { Route } from "./+types/findings";

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadPage(request, params.plan, "findings");
}

/** The frame at once from the worker; the findings follow from the one that may take long. */
export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  const page = await askPage(request, params.plan, "frame", "", async () => {
    const whole = await serverLoader();
    return { ...whole, answer: whole.answer.frame };
  });
  return { ...page, answer: { frame: page.answer, set: null } };
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `Findings · ${page?.answer.frame.planName ?? ""} · Iron Fork` }];
}

export default function FindingsPage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer.frame} stage="findings">
      <FindingsView page={loaderData} frame={loaderData.answer.frame} set={loaderData.answer.set} />
    </Frame>
  );
}
