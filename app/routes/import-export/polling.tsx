import { data } from "react-router";
import { parseAddress } from "../../../core/address/index.ts";
import type { DeviceFacts } from "../../../exchange/facts/index.ts";
import { may } from "../../../server/access/actor.ts";
import { permit } from "../../../server/access/permit.ts";
import { allowedPrefixes } from "../../../server/live/allowed.ts";
import { credentialsOf, targetsOf, trialsOf } from "../../../server/live/targets.ts";
import { newestReadings } from "../../../server/readings.ts";
import { visitorOf } from "../../../server/session.ts";
import { formOf } from "../../engine/bodies.server.ts";
import { doOnDevices, liveFormSchema } from "../../engine/live-forms.server.ts";
import { PollingView } from "../../features/exchange/live/polling-view.tsx";
import { titleOf } from "../../plan/title.ts";
import type { Route } from "./+types/polling";

/** The devices polled by the server and all latest readings; with a search address, those that know it. */
export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const text = new URL(request.url).searchParams.get("find")?.trim() ?? "";
  const address = parseAddress(text) ? text : null;
  const [readings, targets, trials, credentials] = await Promise.all([
    newestReadings<DeviceFacts>(plan, address),
    targetsOf(plan),
    trialsOf(plan),
    credentialsOf(plan),
  ]);
  return {
    allowed: allowedPrefixes(),
    administers: may(request, "administers", plan),
    targets,
    trials,
    credentials,
    kept: {
      readings: readings.map(({ facts, ...reading }) => ({
        ...reading,
        interfaces: facts.interfaces.length,
        routes: facts.routes.length,
        neighbours: facts.neighbours.length,
      })),
      find: text,
      unread: text !== "" && address === null,
    },
  };
}

/** Adds, changes, polls and removes polled devices. */
export async function action({ request, params }: Route.ActionArgs) {
  const plan = permit(request, params.plan, "edits");
  const visitor = await visitorOf(request);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  const told = await doOnDevices(request, plan, await formOf(request, liveFormSchema), visitor.name);
  return data(told, { status: Object.keys(told.errors).length > 0 ? 400 : 200, headers });
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Polling", matches);
}

export default function Page({ loaderData, actionData }: Route.ComponentProps) {
  return <PollingView {...loaderData} told={actionData ?? null} />;
}
