import type { Plan } from "../../core/plan/index.ts";
import { type AnswerName, answer } from "../answers/answer.ts";
import { isPrepared } from "../answers/engines.ts";
import type { View } from "../answers/view.ts";

export interface WorkerQuestion {
  id: number;
  name: AnswerName;
  planId: string;
  revision: number;
  view: View;
}

export type WorkerReply =
  | { id: number; ok: true; answer: unknown }
  | { id: number; ok: false; message: string };

const documents = new Map<string, Promise<Plan>>();

/** The document of a revision, fetched once: a revision never changes. */
function documentOf(planId: string, revision: number): Promise<Plan> {
  const key = `${planId} ${revision}`;
  let held = documents.get(key);
  if (!held) {
    held = fetch(`/plans/${planId}/document?revision=${revision}`).then((response) => {
      if (!response.ok) throw new Error(`the plan could not be fetched (${response.status})`);
      return response.json() as Promise<Plan>;
    });
    documents.set(key, held);
    held.catch(() => documents.delete(key));
    if (documents.size > 4) documents.delete(documents.keys().next().value as string);
  }
  return held;
}

self.onmessage = async (event: MessageEvent<WorkerQuestion>) => {
  const { id, name, planId, revision, view } = event.data;
  const key = `${planId} ${revision}`;
  let reply: WorkerReply;
  try {
    const plan = isPrepared(key) ? (null as unknown as Plan) : await documentOf(planId, revision);
    reply = { id, ok: true, answer: answer(name, plan, key, view) };
  } catch (error) {
    reply = { id, ok: false, message: String(error) };
  }
  self.postMessage(reply);
};
