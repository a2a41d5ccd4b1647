import { DeskView } from "../features/desk/desk-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/add-routes";

export const handle = { stage: "routes" };

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Add routes", matches);
}

export default DeskView;

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
