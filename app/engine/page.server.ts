import { data } from "react-router";
import { revisionText, stageOf } from "../../core/plan/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import { actorOf, isShared, roleOf } from "../../server/access/actor.ts";
import type { ReadablePlan } from "../../server/access/grants.ts";
import { permit } from "../../server/access/permit.ts";
import { cachedResult } from "../../server/cached-results.ts";
import { changeOf } from "../../server/changes/changes.ts";
import { type Head, headOf, undoState } from "../../server/plans.ts";
import { visitorOf } from "../../server/session.ts";
import type { Opened } from "../drawing/folds.ts";
import { layoutOf } from "../drawing/layout.server.ts";
import { trunksOf } from "../drawing/trunks.ts";
import type { Drawing } from "../drawing/types.ts";
import type { PlanHead } from "../plan/head.ts";
import { type AnswerName, type AnswerOf, answer } from "../queries/answer.ts";
import { heldOf, modelOf } from "../queries/engines.ts";
import { type PlanSheet, rolesOf, sheetOf } from "../queries/sheet.ts";
import { type View, viewOf } from "../search/view.ts";
import { documentAt } from "./documents.server.ts";

/** What a page's own question is answered with, whether by the server or by the browser's worker. */
export interface PageAnswer<T> {
  planId: string;
  revision: number;
  view: View;
  answer: NonNullable<T>;
}

export function notFound(message: string): never {
  throw data(message, { status: 404 });
}

/** The head of a plan; ends the request with 404 if there is no such plan. */
export async function needPlan(planId: ReadablePlan): Promise<Head> {
  return (await headOf(planId)) ?? notFound("There is no such plan; it may have been deleted.");
}

/** Put in at build time. */
declare const __DRAWING_VERSION__: string | undefined;

/** A kept drawing belongs to the version of the code that lays out, beside that of the engine. */
const DRAWING = `drawing ${typeof __DRAWING_VERSION__ === "string" ? __DRAWING_VERSION__ : "from source"}`;

/** The drawing of a revision, with pairs as one plate and parallel lines as one unless opened; each computed once. */
export async function drawingOf(
  planId: ReadablePlan,
  revision: number,
  opened: Opened = "all",
): Promise<Drawing> {
  // Without anything to fold, all variants are the same drawing.
  const model = opened === "all" ? null : await modelAt(planId, revision);
  const names = model ? [...model.plan.pairs, ...trunksOf(model.network)].map(nameOf) : [];
  const folded = names.filter((name) => !opened.includes(name)).sort();
  return cachedResult(planId, revision, [DRAWING, ...folded].join(" "), async () => {
    const document = model?.plan ?? (await documentAt(planId, revision));
    if (!document) notFound(`The plan has no ${revisionText(revision)}.`);
    return layoutOf(document, folded.length > 0 ? opened : "all");
  });
}

/** What an address opens a pair by, or lines. */
const nameOf = (one: { id: string } | { name: string }) => ("id" in one ? one.id : one.name);

/** A plan's card in the list of plans; computed once. */
export function planSheetOf(planId: ReadablePlan, revision: number): Promise<SheetView> {
  return cachedResult(planId, revision, "sheet", async () => {
    const [model, drawing] = [await modelAt(planId, revision), await drawingOf(planId, revision)];
    return { ...sheetOf(model), roles: rolesOf(model.plan), drawing };
  });
}

/** What a plan's card in the list shows. */
export interface SheetView extends PlanSheet {
  roles: Record<string, string>;
  drawing: Drawing;
}

/** A revision made ready for questions. */
export async function modelAt(planId: ReadablePlan, revision: number): Promise<Scenario> {
  const key = `${planId} ${revision}`;
  const held = heldOf(key);
  if (held) return held;
  const plan = await documentAt(planId, revision);
  if (!plan) notFound(`The plan has no ${revisionText(revision)}.`);
  return modelOf(plan, key);
}

/** What a view shows of a plan: which revision or stage, and the one that it is held against. */
export async function shownBy(planId: ReadablePlan, view: View) {
  const head = await needPlan(planId);
  const shown = view.revision ?? head.revision;
  if (shown > head.revision && !stageOf(shown))
    notFound(`The plan has no revision ${shown}; the newest is ${head.revision}.`);
  // In the middle of a change the network is held against the one that the change starts from.
  const stage = stageOf(shown);
  const base = stage ? ((await changeOf(planId, stage.change))?.base ?? head.approved) : head.approved;
  return { head, shown, base };
}

async function modelsFor(planId: ReadablePlan, view: View) {
  const { head, shown, base } = await shownBy(planId, view);
  const [model, approved] = await Promise.all([modelAt(planId, shown), modelAt(planId, base)]);
  return { head, shown, base, model, approved };
}

/** What stays in sight on all pages of a plan, and the header that keeps a new session. */
export async function loadFrame(request: Request, plan: string) {
  const planId = permit(request, plan, "reads");
  const view = viewOf(new URL(request.url).searchParams);
  const [visitor, { head, shown, base, model, approved }] = await Promise.all([
    visitorOf(request),
    modelsFor(planId, view),
  ]);
  const { undo, redo } = await undoState(planId, visitor.session);
  const page: PlanHead = {
    planId,
    revision: shown,
    newest: head.revision,
    approved: base,
    visitor: visitor.name,
    role: roleOf(actorOf(request), planId),
    shared: isShared(request),
    undo,
    redo,
  };
  return { page, frame: answer("frame", model, approved, view), setCookie: visitor.setCookie };
}

/** Answers a page's own question on the server. */
export async function loadAnswer<N extends AnswerName>(
  request: Request,
  plan: string,
  name: N,
  device = "",
): Promise<PageAnswer<AnswerOf<N>>> {
  const planId = permit(request, plan, "reads");
  const view = viewOf(new URL(request.url).searchParams, device);
  const { shown, model, approved } = await modelsFor(planId, view);
  const found = answer(name, model, approved, view);
  if (found === null) notFound(`The plan has no device ${device}.`);
  return { planId, revision: shown, view, answer: found as NonNullable<AnswerOf<N>> };
}
