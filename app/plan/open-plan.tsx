import { createContext, useContext, useMemo } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Frame } from "../queries/frame.ts";
import type { PlanHead } from "./head.ts";
import type { Labels } from "./sentence-parts.ts";

/** The plan whose pages are open, as its layout was given it. */
export interface OpenPlan {
  page: PlanHead;
  planId: string;
  /** What every page shows of it: names, counts, conditions. */
  frame: Frame;
  /** What the page's address says. */
  params: URLSearchParams;
  /** The displayed device, if any: addresses are looked up there. */
  here: string | undefined;
  /** What people call things, by id. */
  labels: Labels;
}

const Context = createContext<Pick<OpenPlan, "page" | "frame" | "labels"> | null>(null);

export function OpenPlanProvider({
  page,
  frame,
  children,
}: {
  page: PlanHead;
  frame: Frame;
  children: React.ReactNode;
}) {
  const value = useMemo(() => ({ page, frame, labels: labelsOf(frame) }), [page, frame]);
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

/** The open plan, on each of its pages. */
export function usePlan(): OpenPlan {
  const open = useContext(Context);
  if (!open) throw new Error("usePlan is for the pages of a plan");
  const [params] = useSearchParams();
  const { device: here } = useParams();
  return { ...open, planId: open.page.planId, params, here };
}

function labelsOf({ devices, flows, links, gateways, fates }: Frame): Labels {
  const byId = (list: readonly { id: string; label: string }[]) =>
    new Map(list.map(({ id, label }) => [id, label]));
  return {
    devices: byId(devices),
    flows: byId(flows),
    links: byId(links),
    gateways: byId(gateways),
    fates: new Map(fates.map(({ ref, label }) => [ref, label])),
  };
}
