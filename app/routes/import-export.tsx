import { ExchangeTabs } from "../features/exchange/exchange-tabs.tsx";

export const handle = { stage: "import" };

export default function ExchangeLayout() {
  return <ExchangeTabs />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
