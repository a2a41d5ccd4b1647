import { askPage } from "../engine/page.client.ts";
import { loadAnswer } from "../engine/page.server.ts";
import { DeviceView } from "../features/device/device-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/device";

export const handle = { stage: "routes" };

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadAnswer(request, params.plan, "device", params.device);
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "device", params.device, serverLoader);
}

export function meta({ loaderData, matches }: Route.MetaArgs) {
  return titleOf(loaderData?.answer.device.label ?? "Device", matches);
}

export default function Page({ loaderData: { answer } }: Route.ComponentProps) {
  return <DeviceView key={answer.device.id} answer={answer} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
