import { data, redirect } from "react-router";
import { z } from "zod";
import { preferences } from "../../core/steps/index.ts";
import { auditDetail } from "../../server/access/audit.ts";
import { missingRole, permit, permitIfAllowed } from "../../server/access/permit.ts";
import {
  approveRevision,
  fourEyesOf,
  listChanges,
  proposeChange,
  setFourEyes,
} from "../../server/changes/changes.ts";
import { historyOf } from "../../server/plans.ts";
import { visitorOf } from "../../server/session.ts";
import { formOf } from "../engine/bodies.server.ts";
import { proveDraft, wordFields, wordsIn } from "../engine/changes.server.ts";
import { needPlan } from "../engine/page.server.ts";
import { bringBack } from "../engine/revisions.server.ts";
import { ChangesView } from "../features/changes/changes-view.tsx";
import { moving } from "../plan/head.ts";
import { titleOf } from "../plan/title.ts";
import type { Route } from "./+types/changes";

export const handle = { stage: "changes" };

const SHOWN = 100;

export async function loader({ request, params }: Route.LoaderArgs) {
  const plan = permit(request, params.plan, "reads");
  const [history, changes, fourEyes] = await Promise.all([
    historyOf(plan, SHOWN),
    listChanges(plan),
    fourEyesOf(plan),
  ]);
  return { history, changes, fourEyes };
}

const revision = z.coerce.number().int().min(1).max(2_147_483_647);
const formSchema = z.discriminatedUnion("do", [
  z.object({ do: z.literal("approve"), revision }),
  z.object({ do: z.literal("four-eyes"), on: z.string() }),
  z.object({ do: z.literal("bring-back"), revision }),
  z.object({
    do: z.literal("propose"),
    replaces: z.string().optional(),
    prefer: z.enum(preferences).default("visits"),
    ...wordFields,
  }),
]);

/** Approves a revision, makes a change of the draft, brings a revision back as a draft, or says whether four eyes are asked for. */
export async function action({ request, params }: Route.ActionArgs) {
  const plan = permit(request, params.plan, "edits");
  await needPlan(plan);
  const visitor = await visitorOf(request);
  const headers = visitor.setCookie ? { "Set-Cookie": visitor.setCookie } : undefined;
  const form = await formOf(request, formSchema);
  const refuse = (error: string, status = 409) => data({ error }, { status, headers });
  const here = () => redirect(`/plans/${plan}/changes`, { headers });
  switch (form.do) {
    case "approve": {
      const { revision } = form;
      const approvable = permitIfAllowed(request, plan, "approves");
      if (!approvable) return refuse(missingRole("approves"), 403);
      auditDetail({ revision });
      const done = await approveRevision(approvable, revision, visitor);
      return done.ok ? here() : refuse(done.error);
    }
    case "four-eyes": {
      const on = form.on === "yes";
      // Whoever approves could else let themselves approve their own work.
      const needed = on ? "approves" : "administers";
      const permitted = permitIfAllowed(request, plan, needed);
      if (!permitted) return refuse(missingRole(needed), 403);
      auditDetail({ rule: on ? "a second approver is required" : "authors may approve their own changes" });
      await setFourEyes(permitted, on);
      return here();
    }
    case "bring-back": {
      auditDetail({ revision: form.revision });
      const done = await bringBack(plan, form.revision, visitor);
      return done.ok ? here() : refuse(done.error);
    }
    case "propose": {
      const said = wordsIn(form);
      if (!said.ok) return refuse(said.error, 400);
      const draft = await proveDraft(plan, form.prefer);
      if (!draft.ok) return refuse(draft.error);
      auditDetail({ title: said.words.title });
      const replaces = form.replaces || null;
      const made = await proposeChange(plan, draft.proven, said.words, visitor, replaces);
      return made.ok ? redirect(`/plans/${plan}/changes/${made.number}`, { headers }) : refuse(made.error);
    }
  }
}

/** Approving moves what counts as approved: the browser learns of it before its pages are answered anew. */
export function clientAction({ serverAction, params }: Route.ClientActionArgs) {
  return moving(params.plan, serverAction);
}

export function meta({ matches }: Route.MetaArgs) {
  return titleOf("Changes", matches);
}

export default function Page({ loaderData }: Route.ComponentProps) {
  return <ChangesView {...loaderData} />;
}

export { ErrorPage as ErrorBoundary } from "../ui/error-page.tsx";
