import { useEffect } from "react";
import { data, redirect, useRevalidator } from "react-router";
import { z } from "zod";
import { parseItem } from "../../core/plan/index.ts";
import type { Runbook } from "../../core/steps/index.ts";
import { auditDetail } from "../../server/access/audit.ts";
import type { EditablePlan } from "../../server/access/grants.ts";
import { missingRole, permit, permitIfAllowed } from "../../server/access/permit.ts";
import {
  approveChange,
  authorsOf,
  closeChange,
  type Done,
  rewriteChange,
  setRollback,
  tickChange,
  withdrawChange,
} from "../../server/changes/changes.ts";
import { templatesOf } from "../../server/changes/templates.ts";
import { askReadings } from "../../server/live/runs.ts";
import { targetsOf } from "../../server/live/targets.ts";
import { visitorOf } from "../../server/session.ts";
import { formOf } from "../engine/bodies.server.ts";
import { itemDetail, itemsOf, loadChange, stepItems, wordFields, wordsIn } from "../engine/changes.server.ts";
import { readingsFor } from "../engine/device-readings.server.ts";
import { needPlan } from "../engine/page.server.ts";
import { ownWords } from "../engine/words.server.ts";
import { ChangeView } from "../features/changes/change-view.tsx";
import { moving } from "../plan/head.ts";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/change";

export const handle = { stage: "changes" };

export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const loaded = await loadChange(plan, params.change);
  const { told, runbook } = loaded;
  const [seen, templates, authors] = await Promise.all([
    readingsFor(plan, runbook),
    templatesOf(plan),
    told.state === "proposed" ? authorsOf(plan, told) : [],
  ]);
  return { change: told, runbook, seen, own: ownWords(loaded, templates), authors };
}

const stay = z.string().optional();
const formSchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("approve"), stay }),
  z.object({ do: z.literal("withdraw"), stay }),
  z.object({ do: z.literal("rewrite"), stay, ...wordFields }),
  z.object({ do: z.literal("tick"), stay, item: z.string() }),
  z.object({ do: z.literal("untick"), stay, item: z.string() }),
  z.object({ do: z.literal("turn back"), stay }),
  z.object({ do: z.literal("go on"), stay }),
  z.object({ do: z.literal("done"), stay }),
  z.object({ do: z.literal("turned back"), stay }),
]);

/** Approves a change, says it otherwise, ticks, goes back, ends it. */
export async function action({ request, params }: Route.ActionArgs) {
  const plan = permit(request, params.plan, "edits");
  const number = params.change;
  await needPlan(plan);
  const visitor = await visitorOf(request);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  const form = await formOf(request, formSchema);
  auditDetail({ change: number });
  const approves = form.do === "approve";
  const approvable = approves ? permitIfAllowed(request, plan, "approves") : null;
  if (approves && !approvable) return data({ error: missingRole("approves") }, { status: 403, headers });
  const done = approvable
    ? await approveChange(approvable, number, visitor)
    : await act(plan, number, form, visitor);
  if (!done.ok) return data({ error: done.error }, { status: 409, headers });
  return form.stay === "yes"
    ? data({ error: null }, { headers })
    : redirect(`/plans/${plan}/changes/${number}`, { headers });
}

async function act(
  plan: EditablePlan,
  number: string,
  form: z.output<typeof formSchema>,
  visitor: Awaited<ReturnType<typeof visitorOf>>,
): Promise<Done> {
  switch (form.do) {
    case "withdraw":
      return withdrawChange(plan, number, visitor);
    case "rewrite": {
      const said = wordsIn(form);
      return said.ok ? rewriteChange(plan, number, said.words, visitor) : said;
    }
    case "tick":
    case "untick": {
      const loaded = await loadChange(plan, number);
      const { change } = loaded;
      const { item } = form;
      if (!itemsOf(change.runbook).includes(item))
        return { ok: false, error: "the runbook has no such step" };
      auditDetail(itemDetail(loaded, item));
      const done = await tickChange(plan, number, item, form.do === "tick", visitor);
      if (done.ok) await readAfter(plan, change.runbook.visits, item, visitor.name);
      return done;
    }
    case "turn back":
    case "go on":
      return setRollback(plan, number, form.do === "turn back", visitor);
    case "done":
    case "turned back": {
      const { change } = await loadChange(plan, number);
      const as = form.do === "done" ? "done" : "turned back";
      return closeChange(plan, number, as, stepItems(change.runbook), visitor);
    }
    case "approve":
      throw new Error("approving is not among these");
  }
}

/** Approving moves what counts as approved: the browser learns of it before its pages are answered anew. */
export function clientAction({ serverAction, params }: Route.ClientActionArgs) {
  return moving(params.plan, serverAction);
}

/** After a step is done or rolled back, its device is polled if possible, so that checks update automatically. */
async function readAfter(
  plan: EditablePlan,
  visits: Runbook["visits"],
  item: string,
  by: string,
): Promise<void> {
  const ticked = parseItem(item);
  const device = ticked?.what === "step" ? visits[ticked.visit - 1]?.device : null;
  if (!device) return;
  const targets = (await targetsOf(plan)).filter((target) => target.device === device);
  if (targets.length > 0)
    await askReadings(
      plan,
      targets.map(({ id }) => id),
      by,
    );
}

export function meta({ matches, loaderData }: Route.MetaArgs) {
  return titleOf(loaderData ? `Change ${loaderData.change.number}` : "Change", matches);
}

/** Everyone who follows a change sees the ticks of others and new readings. */
function useFollowing(plan: string, number: string) {
  const { revalidate } = useRevalidator();
  useEffect(() => {
    const events = new EventSource(`/plans/${plan}/changes/${number}/events`);
    let first = true;
    events.addEventListener("changed", () => {
      // The first message repeats the page's state.
      if (!first) void revalidate();
      first = false;
    });
    return () => events.close();
  }, [plan, number, revalidate]);
}

export default function Page({ loaderData, params: { plan, change } }: Route.ComponentProps) {
  useFollowing(plan, change);
  return <ChangeView {...loaderData} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
