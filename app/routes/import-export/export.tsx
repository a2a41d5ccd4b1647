import { OutView } from "../../features/exchange/out-view.tsx";
import { titleOf } from "../../plan/title.ts";
import type { Route } from "./+types/export";

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Export", matches);
}

export default function Page() {
  return <OutView />;
}
