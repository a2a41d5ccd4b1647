import type { Asked } from "./flows.ts";
import type { Picked } from "./summaries.ts";

/** A moment of an outage: one that the plan has saved, or elements that fail at once and perhaps heal. */
export interface MomentAsked {
  outage: string;
  fail: string[];
  healMs: number | null;
  /** Milliseconds from the first failure. */
  atMs: number;
}

/** Under what the network is looked at: what is down to begin with, and how far an outage has come. */
export interface Looked {
  down: readonly string[];
  moment: MomentAsked | null;
}

/** What a page's address says: the conditions, what is chosen, what is looked up. */
export interface View extends Looked {
  down: string[];
  asked: Asked;
  device: string;
  vrf?: string;
  lookup?: string;
  text: string;
  picked: Picked;
}

/** The moment that an address names; null where it names none. */
function momentOf(params: URLSearchParams): MomentAsked | null {
  const at = params.get("at");
  const outage = params.get("outage") ?? "";
  const fail = params.getAll("fail");
  if (at === null || at.trim() === "" || !Number.isFinite(Number(at)) || (outage === "" && fail.length === 0))
    return null;
  const heal = params.get("heal");
  const healMs = heal === null || heal.trim() === "" || !Number.isFinite(Number(heal)) ? null : Number(heal);
  return { outage, fail, healMs, atMs: Number(at) };
}

/** Reads a page's address; what it does not say is left open. */
export function viewOf(params: URLSearchParams, device = ""): View {
  const text = (key: string) => params.get(key)?.trim() || undefined;
  const protocol = text("protocol");
  const port = Number(text("port"));
  const withPort = protocol === "tcp" || protocol === "udp";
  return {
    down: params.getAll("down"),
    moment: momentOf(params),
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
    picked: { routes: params.getAll("route"), block: text("block") ?? "" },
  };
}
