import { askPage } from "../engine/page.client.ts";
import { loadPage } from "../engine/page.server.ts";
import { DeviceView } from "../features/device/device-view.tsx";
import { Frame } from "../features/frame/frame.tsx";
import type { Route } from "./+types/device";

export async function loader({ request, params }: Route.LoaderArgs) {
  return loadPage(request, params.plan, "device", params.device);
}

export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  return askPage(request, params.plan, "device", params.device, serverLoader);
}

export function meta({ data: page }: Route.MetaArgs) {
  return [
    { title: `${page?.answer.device.label ?? "Device"} · ${page?.answer.frame.planName ?? ""} · Iron Fork` },
  ];
}

export default function DevicePage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame
      page={loaderData}
      frame={loaderData.answer.frame}
      stage="routes"
      here={loaderData.answer.device.id}
    >
      <DeviceView key={loaderData.answer.device.id} page={loaderData} answer={loaderData.answer} />
    </Frame>
  );
}
