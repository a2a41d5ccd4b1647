import { LRUCache } from "lru-cache";
import { permit } from "../../server/access/permit.ts";
import { type Drawing, LARGE_PLAN } from "../drawing/types.ts";
import { askPage } from "../engine/page.client.ts";
import { drawingOf, loadAnswer } from "../engine/page.server.ts";
import { MapView } from "../features/network/map-view.tsx";
import { titleOf } from "../plan/title.ts";
import { openedIn, openedText } from "../search/opened.ts";
import type { Route } from "./+types/map";

export const handle = { stage: "network" };

export async function loader({ request, params }: Route.LoaderArgs) {
  const page = await loadAnswer(request, params.plan, "map");
  const { answer } = page;
  // The page opens before its large map, which is loaded separately.
  const asPage = request.headers.get("accept")?.includes("text/html") ?? false;
  if (asPage && answer.devices.length > LARGE_PLAN)
    return { ...page, answer: { ...answer, devices: [], pairs: [], links: [] }, drawing: null };
  const opened = openedIn(new URL(request.url).searchParams);
  return { ...page, drawing: await drawingOf(permit(request, params.plan, "reads"), page.revision, opened) };
}

const drawings = new LRUCache<string, Promise<Drawing>>({ max: 12 });

/** The layout comes from the server, once a revision; all else is computed in the browser. */
export async function clientLoader({ request, params, serverLoader }: Route.ClientLoaderArgs) {
  let whole: Awaited<ReturnType<typeof serverLoader>> | null = null;
  const page = await askPage(request, params.plan, "map", "", async () => {
    whole = await serverLoader();
    return whole;
  });
  if (whole) return whole as Awaited<ReturnType<typeof serverLoader>>;
  const opened = openedIn(new URL(request.url).searchParams);
  const key = `/plans/${params.plan}/layout?revision=${page.revision}${openedText(opened)}`;
  let drawing = drawings.get(key);
  if (!drawing) {
    drawing = fetch(key).then((response) => {
      if (!response.ok) throw new Error("the layout could not be loaded");
      return response.json();
    });
    drawings.set(key, drawing);
    drawing.catch(() => drawings.delete(key));
  }
  return { ...page, drawing: await drawing };
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Map", matches);
}

export default function Page({ loaderData: { answer, drawing } }: Route.ComponentProps) {
  return <MapView answer={answer} drawing={drawing} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
