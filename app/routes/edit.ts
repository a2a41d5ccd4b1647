import { data } from "react-router";
import { z } from "zod";
import { editSchema } from "../../core/plan/index.ts";
import { headOf, redo, type SaveOutcome, saveEdit, undo, undoState } from "../../server/plans.ts";
import { visitorOf } from "../../server/session.ts";
import { keepKnown } from "../data/known.ts";
import type { Route } from "./+types/edit";

const bodySchema = z.discriminatedUnion("do", [
  z.strictObject({ do: z.literal("edit"), base: z.number().int().positive(), edit: editSchema }),
  z.strictObject({ do: z.literal("undo") }),
  z.strictObject({ do: z.literal("redo") }),
]);
export type EditRequest = z.input<typeof bodySchema>;

/** Saves an edit made on a revision, or takes one back. */
export async function action({ request, params }: Route.ActionArgs) {
  const visitor = await visitorOf(request);
  const body = bodySchema.safeParse(await request.json().catch(() => null));
  if (!body.success) {
    const outcome: SaveOutcome = {
      ok: false,
      errors: [{ path: "", message: "this is not an edit" }],
      revision: null,
    };
    return data({ outcome, known: null }, { status: 400 });
  }
  const outcome = await (body.data.do === "edit"
    ? saveEdit(params.plan, body.data.base, body.data.edit, visitor)
    : body.data.do === "undo"
      ? undo(params.plan, visitor)
      : redo(params.plan, visitor));
  const [head, state] = await Promise.all([headOf(params.plan), undoState(params.plan, visitor.session)]);
  const known =
    outcome.revision === null || !head
      ? null
      : {
          planId: params.plan,
          revision: outcome.revision,
          approved: head.approved,
          visitor: visitor.name,
          ...state,
        };
  return data(
    { outcome, known },
    visitor.setCookie ? { headers: { "Set-Cookie": visitor.setCookie } } : undefined,
  );
}

/** The browser learns of the new revision before its pages are answered anew. */
export async function clientAction({ serverAction }: Route.ClientActionArgs) {
  const result = await serverAction();
  if (result.known) keepKnown(result.known);
  return result;
}
