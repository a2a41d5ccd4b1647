import { LRUCache } from "lru-cache";
import type { Progress } from "../../core/failures/index.ts";
import { applyEdit, type Edit, type Plan } from "../../core/plan/index.ts";
import type { Scenario } from "../../core/scenario/index.ts";
import { type AnswerName, answer } from "../queries/answer.ts";
import { type AskArgs, type AskName, ask } from "../queries/asks.ts";
import { heldOf, modelAfter, modelOf } from "../queries/engines.ts";
import type { View } from "../search/view.ts";

/** A page's question, or one that a page asks while it is open. */
export type WorkerQuestion = { id: number; planId: string; revision: number; approved: number } & (
  | { page: AnswerName; view: View }
  | { ask: AskName; args: AskArgs<AskName> }
);

/** An edit that was saved: it made one revision of another. */
export interface SavedEdit {
  planId: string;
  from: number;
  to: number;
  edit: Edit;
}

export type WorkerReply =
  | { id: number; progress: { covered: number; found: number } }
  | { id: number; ok: true; answer: unknown }
  | { id: number; ok: false; message: string };

const documents = new LRUCache<string, Promise<Plan>>({ max: 4 });

/** The document of a revision, fetched once: a revision never changes. */
function documentOf(planId: string, revision: number): Promise<Plan> {
  const key = `${planId} ${revision}`;
  let held = documents.get(key);
  if (!held) {
    held = fetch(`/plans/${planId}/document?revision=${revision}`).then((response) => {
      if (!response.ok) throw new Error(`the plan could not be loaded (${response.status})`);
      return response.json() as Promise<Plan>;
    });
    documents.set(key, held);
    held.catch(() => documents.delete(key));
  }
  return held;
}

async function modelAt(planId: string, revision: number): Promise<Scenario> {
  const key = `${planId} ${revision}`;
  return heldOf(key) ?? modelOf(await documentOf(planId, revision), key);
}

const TELL_EVERY_MS = 150;

/** Tells the page how far a long answer has come, a few times a second. */
function progressOf(id: number): Progress {
  let last = performance.now();
  return (covered, found) => {
    if (performance.now() - last > TELL_EVERY_MS) {
      last = performance.now();
      self.postMessage({ id, progress: { covered, found } } satisfies WorkerReply);
    }
    return true;
  };
}

/** Makes the new revision out of the old one, where that is held; else it is fetched when it is asked about. */
function applySaved({ planId, from, to, edit }: SavedEdit) {
  const before = heldOf(`${planId} ${from}`);
  const outcome = before && applyEdit(before.plan, edit);
  if (!before || !outcome?.ok) return;
  modelAfter(before, outcome.plan, `${planId} ${to}`);
}

self.onmessage = async (event: MessageEvent<WorkerQuestion | SavedEdit>) => {
  const question = event.data;
  if ("edit" in question) return applySaved(question);
  const { id, planId, revision, approved } = question;
  let reply: WorkerReply;
  try {
    const model = await modelAt(planId, revision);
    const base = () => modelAt(planId, approved);
    const found =
      "page" in question
        ? answer(question.page, model, await base(), question.view)
        : await ask(question.ask, model, question.args, base, progressOf(id));
    reply = { id, ok: true, answer: found };
  } catch (error) {
    reply = { id, ok: false, message: String(error) };
  }
  self.postMessage(reply);
};
