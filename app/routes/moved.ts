import { redirect } from "react-router";
import { movedTo } from "../../server/access/moved-pages.ts";
import type { Route } from "./+types/moved";

/** Sends bookmarks of earlier versions to the page's present address. */
export function loader({ request }: Route.LoaderArgs) {
  const { pathname, search } = new URL(request.url);
  const target = movedTo(pathname);
  if (target === null) throw new Response(null, { status: 404 });
  return redirect(`${target}${search}`, 301);
}
