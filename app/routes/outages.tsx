import { OutagesView } from "../features/outages/outages-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/outages";

export const handle = { stage: "outages" };

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Outages", matches);
}

export default OutagesView;

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
