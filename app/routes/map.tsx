import { data } from "react-router";
import type { Drawing } from "../drawing/types.ts";
import { askPage } from "../engine/page.client.ts";
import { drawingOf, loadPage } from "../engine/page.server.ts";
import { Frame } from "../features/frame/frame.tsx";
import { MapView } from "../features/network/map-view.tsx";
import type { Route } from "./+types/map";

export async function loader({ request, params }: Route.LoaderArgs) {
  const { data: page, init } = await loadPage(request, params.plan, "map");
  return data({ ...page, drawing: await drawingOf(page.planId, page.revision) }, init ?? undefined);
}

const drawings = new Map<string, Promise<Drawing>>();

/** The layout comes from the server, once a revision; all else is computed in the browser. */
export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  let whole: Awaited<ReturnType<typeof serverLoader>> | null = null;
  const page = await askPage(request, params.plan, "map", "", async () => {
    whole = await serverLoader();
    return whole;
  });
  if (whole) return whole as Awaited<ReturnType<typeof serverLoader>>;
  const key = `/plans/${params.plan}/layout?revision=${page.revision}`;
  let drawing = drawings.get(key);
  if (!drawing) {
    drawing = fetch(key).then((response) => {
      if (!response.ok) throw new Error("the layout could not be fetched");
      return response.json();
    });
    drawings.set(key, drawing);
    drawing.catch(() => drawings.delete(key));
  }
  return { ...page, drawing: await drawing };
}

export function meta({ data: page }: Route.MetaArgs) {
  return [{ title: `Map · ${page?.answer.frame.planName ?? ""} · Iron Fork` }];
}

export default function MapPage({ loaderData }: Route.ComponentProps) {
  return (
    <Frame page={loaderData} frame={loaderData.answer.frame} stage="network">
      <MapView page={loaderData} answer={loaderData.answer} drawing={loaderData.drawing} />
    </Frame>
  );
}
