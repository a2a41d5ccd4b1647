import { answerApi } from "../api/api.ts";
import type { Route } from "./+types/api";

/** Programs' way in: see app/api. */
export function loader({ request, params, context }: Route.LoaderArgs) {
  return answerApi(request, `/${params["*"] ?? ""}`, context.requestId);
}

export function action({ request, params, context }: Route.ActionArgs) {
  return answerApi(request, `/${params["*"] ?? ""}`, context.requestId);
}
