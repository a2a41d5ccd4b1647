import { data } from "react-router";
import type { Plan } from "../../core/plan/index.ts";
import { documentOf, headOf, undoState } from "../../server/plans.ts";
import { visitorOf } from "../../server/session.ts";
import { type AnswerName, type AnswerOf, answer } from "../answers/answer.ts";
import { isPrepared } from "../answers/engines.ts";
import { type View, viewOf } from "../answers/view.ts";

/** What every page of a plan is given, whether the server or the browser's worker answered. */
export interface Page<T> {
  planId: string;
  revision: number;
  visitor: string;
  undo: string | null;
  redo: string | null;
  view: View;
  answer: NonNullable<T>;
}

export function notFound(message: string): never {
  throw data(message, { status: 404 });
}

/** Answers a page on the server. */
export async function loadPage<N extends AnswerName>(request: Request, planId: string, name: N, device = "") {
  const [visitor, head] = await Promise.all([visitorOf(request), headOf(planId)]);
  if (!head) notFound("There is no such plan; it may have been deleted.");
  const key = `${planId} ${head.revision}`;
  const plan = isPrepared(key) ? null : await documentOf(planId, head.revision);
  const view = viewOf(new URL(request.url).searchParams, device);
  const found = answer(name, plan as Plan, key, view);
  if (found === null) notFound(`The plan has no device ${device}.`);
  const { undo, redo } = await undoState(planId, visitor.session);
  const page: Page<AnswerOf<N>> = {
    planId,
    revision: head.revision,
    visitor: visitor.name,
    undo,
    redo,
    view,
    answer: found as NonNullable<AnswerOf<N>>,
  };
  return data(page, visitor.setCookie ? { headers: { "Set-Cookie": visitor.setCookie } } : undefined);
}
