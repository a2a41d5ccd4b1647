import { useMemo } from "react";
import { data, Outlet, useMatches } from "react-router";
import { askFrame } from "../engine/page.client.ts";
import { loadFrame } from "../engine/page.server.ts";
import { Frame, type Stage } from "../features/frame/frame.tsx";
import { OpenPlanProvider } from "../plan/open-plan.tsx";
import { packFrame, unpackFrame } from "../queries/packed-frame.ts";
import type { Route } from "./+types/plan";

/** What stays in sight on all pages of a plan. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const { setCookie, page, frame } = await loadFrame(request, params.plan);
  return data(
    { page, frame: packFrame(frame) },
    setCookie ? { headers: { "Set-Cookie": setCookie } } : undefined,
  );
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askFrame(request, params.plan, serverLoader);
}

/** Each page says at which stage of the work it stands. */
interface PageHandle {
  stage?: Stage;
}

export default function PlanLayout({ loaderData: { page, frame: packed } }: Route.ComponentProps) {
  const frame = useMemo(() => unpackFrame(packed), [packed]);
  const stage = useMatches()
    .map((match) => (match.handle as PageHandle | undefined)?.stage)
    .findLast((found) => found !== undefined);
  return (
    <OpenPlanProvider page={page} frame={frame}>
      <Frame stage={stage ?? "network"}>
        <Outlet />
      </Frame>
    </OpenPlanProvider>
  );
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
