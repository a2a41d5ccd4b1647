import { parseAddress } from "../../core/address/index.ts";
import type { DeviceFacts } from "../../exchange/facts/index.ts";
import { newestReadings } from "../../server/readings.ts";
import { ExchangeView } from "../features/exchange/exchange-view.tsx";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/exchange";

export const handle = { stage: "exchange" };

/** What devices said last, of those that know an address where one is looked for. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const text = new URL(request.url).searchParams.get("find")?.trim() ?? "";
  const address = parseAddress(text) ? text : null;
  const readings = await newestReadings<DeviceFacts>(params.plan, address);
  return { readings, find: text, unread: text !== "" && address === null };
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Exchange", matches);
}

export default function Page({ loaderData }: Route.ComponentProps) {
  return <ExchangeView kept={loaderData} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
