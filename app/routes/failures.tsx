import { OutagesView } from "../features/outages/outages-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/failures";

export const handle = { stage: "failures" };

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Failure matrix", matches);
}

export default OutagesView;

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
