import { stageRevision } from "../../core/plan/index.ts";
import type { FlowQuery } from "../queries/flows.ts";
import type { Picked } from "../queries/summaries.ts";
import { type Looked, momentIn } from "./looked.ts";
import { type RouteFilter, routeFilterOf } from "./route-filter.ts";

/** The content of a page's address: conditions, selection, lookup. */
export interface View extends Looked {
  /** The revision that the address pins; null where it shows the newest. */
  revision: number | null;
  down: string[];
  asked: FlowQuery;
  device: string;
  vrf?: string;
  lookup?: string;
  text: string;
  picked: Picked;
  routes: RouteFilter;
}

/** The revision that an address pins, or the stage of a change (`after`, such as 3.4, or 3.t4 for what four ticks did); null where it names none. */
function revisionIn(params: URLSearchParams): number | null {
  const [, change, ticks, steps] = /^(\d{1,5})\.(t?)(\d{1,4})$/.exec(params.get("after")?.trim() ?? "") ?? [];
  if (change !== undefined)
    return stageRevision({
      change: Number(change),
      steps: Number(steps),
      ...(ticks ? { byTicks: true as const } : {}),
    });
  const revision = Number(params.get("revision")?.trim() || Number.NaN);
  return Number.isInteger(revision) && revision > 0 && revision < 2 ** 31 ? revision : null;
}

/** Reads a page's address; missing parameters have defaults. */
export function viewOf(params: URLSearchParams, device = ""): View {
  const text = (key: string) => params.get(key)?.trim() || undefined;
  const protocol = text("protocol");
  const port = Number(text("port"));
  const withPort = protocol === "tcp" || protocol === "udp";
  return {
    revision: revisionIn(params),
    down: params.getAll("down"),
    moment: momentIn(params),
    asked: {
      flow: text("flow"),
      from: text("from"),
      source: text("source"),
      to: text("to"),
      protocol: withPort || protocol === "icmp" ? protocol : undefined,
      port: withPort && Number.isInteger(port) && port >= 1 && port <= 65535 ? port : undefined,
    },
    device: device || (text("here") ?? text("device") ?? ""),
    vrf: text("vrf"),
    lookup: text("lookup"),
    text: params.get("q") ?? "",
    routes: routeFilterOf(params),
    picked: { routes: params.getAll("route"), block: text("block") ?? "" },
  };
}
