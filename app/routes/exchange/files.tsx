import { FilesView } from "../../features/exchange/files/files-view.tsx";
import { titleOf } from "../../plan/title.ts";
import type { Route } from "./+types/files";

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Exchange", matches);
}

export default function Page() {
  return <FilesView />;
}
