import { ExchangeView } from "../features/exchange/exchange-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/exchange";

export const handle = { stage: "exchange" };

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Exchange", matches);
}

export default ExchangeView;

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
