import { data, isRouteErrorResponse } from "react-router";
import { z } from "zod";
import { applyEdit, editSchema, type Plan } from "../../core/plan/index.ts";
import { actorOf, isShared, roleOf } from "../../server/access/actor.ts";
import { auditDetail } from "../../server/access/audit.ts";
import type { EditablePlan } from "../../server/access/grants.ts";
import { permit } from "../../server/access/permit.ts";
import { headOf, redo, type SaveOutcome, saveEdit, undo, undoState } from "../../server/plans.ts";
import { type Visitor, visitorOf } from "../../server/session.ts";
import { sendEditToWorkers } from "../engine/ask.client.ts";
import { jsonBody } from "../engine/bodies.server.ts";
import { cacheHere } from "../engine/cache.ts";
import { keepDocument } from "../plan/document.ts";
import { type PlanHead, storeHead } from "../plan/head.ts";
import type { Route } from "./+types/edit";

const revisionSchema = z.number().int().min(1).max(2_147_483_647);

const bodySchema = z.discriminatedUnion("do", [
  z.strictObject({
    do: z.literal("edit"),
    base: revisionSchema,
    edit: editSchema,
  }),
  z.strictObject({ do: z.literal("undo"), base: revisionSchema }),
  z.strictObject({ do: z.literal("redo"), base: revisionSchema }),
]);
export type EditRequest = z.input<typeof bodySchema>;

/** Saves an edit made on a revision, or takes one back. */
export async function action({ request, params }: Route.ActionArgs) {
  const id = permit(request, params.plan, "edits");
  const visitor = await visitorOf(request);
  const body = bodySchema.safeParse(await jsonBody(request));
  if (!body.success) {
    const outcome: SaveOutcome = {
      ok: false,
      errors: [{ path: "", message: "the edit is not valid; nothing was changed" }],
      revision: null,
    };
    return data({ outcome, known: null }, { status: 400 });
  }
  if (body.data.do === "edit") auditDetail({ edit: body.data.edit.label });
  const outcome = await outcomeOf(id, body.data, visitor);
  const [head, state] = await Promise.all([headOf(id), undoState(id, visitor.session)]);
  const known =
    !head || (outcome.revision === null && body.data.do === "edit")
      ? null
      : {
          planId: id,
          revision: outcome.revision ?? head.revision,
          newest: outcome.revision ?? head.revision,
          approved: head.approved,
          visitor: visitor.name,
          role: roleOf(actorOf(request), id),
          shared: isShared(request),
          ...state,
        };
  return data(
    { outcome, known },
    visitor.setCookie ? { headers: { "Set-Cookie": visitor.setCookie } } : undefined,
  );
}

async function outcomeOf(
  id: EditablePlan,
  body: z.output<typeof bodySchema>,
  visitor: Visitor,
): Promise<SaveOutcome> {
  if (body.do === "edit") return saveEdit(id, body.base, body.edit, visitor);
  // Undo reverts the last edit of this browser. A page that is behind does not show which one that is.
  const head = await headOf(id);
  if (head && head.revision !== body.base) {
    const message = `The plan is now at revision ${head.revision}, shown here. Nothing was ${body.do === "undo" ? "undone" : "redone"}; try again.`;
    return { ok: false, errors: [{ path: "", message }], revision: null };
  }
  return body.do === "undo" ? undo(id, visitor) : redo(id, visitor);
}

/** There is nothing to see at this address. */
export function loader() {
  throw data("Edits are made on the pages of the plan.", { status: 405 });
}

/** The browser learns the new revision before its pages reload. Without an answer, the page keeps the input and shows
 * an error. */
export async function clientAction({ serverAction }: Route.ClientActionArgs): Promise<EditResult> {
  try {
    const result = await serverAction();
    if (result.outcome.ok && result.outcome.applied) takeOver(result.known?.planId, result.outcome);
    if (result.known) storeHead(result.known);
    return result;
  } catch (error) {
    const outcome: SaveOutcome = {
      ok: false,
      errors: [{ path: "", message: notSaved(error) }],
      revision: null,
    };
    return { outcome, known: null };
  }
}

/** Creates the new revision here like the server did, so that the next query needs no download. */
function takeOver(planId: string | undefined, { applied, revision }: Extract<SaveOutcome, { ok: true }>) {
  if (planId === undefined || applied === null) return;
  const { edit, on } = applied;
  sendEditToWorkers(planId, on, revision, edit);
  const change = (before: Plan) => {
    const outcome = applyEdit(before, edit);
    return outcome.ok ? outcome.plan : null;
  };
  keepDocument(cacheHere(), { planId, revision: on }, change, revision);
}

interface EditResult {
  outcome: SaveOutcome;
  known: PlanHead | null;
}

function notSaved(error: unknown): string {
  const said = isRouteErrorResponse(error) && typeof error.data === "string" ? `: ${error.data}` : "";
  return `Not saved${said || ": the server is not responding"}. Your input is still here. Try again.`;
}
