import { OutView } from "../../features/exchange/out-view.tsx";
import { titleOf } from "../../plan/title.ts";
import type { Route } from "./+types/out";

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Out", matches);
}

export default function Page() {
  return <OutView />;
}
