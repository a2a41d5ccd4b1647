import type { AnswerName, AnswerOf } from "../answers/answer.ts";
import type { View } from "../answers/view.ts";
import type { WorkerQuestion, WorkerReply } from "./answers.worker.ts";

let worker: Worker | null = null;
let next = 0;
const open = new Map<number, { resolve: (answer: unknown) => void; reject: (error: Error) => void }>();

function running(): Worker {
  if (worker) return worker;
  worker = new Worker(new URL("./answers.worker.ts", import.meta.url), { type: "module" });
  worker.onmessage = (event: MessageEvent<WorkerReply>) => {
    const reply = event.data;
    const waiting = open.get(reply.id);
    open.delete(reply.id);
    if (reply.ok) waiting?.resolve(reply.answer);
    else waiting?.reject(new Error(reply.message));
  };
  worker.onerror = () => {
    for (const waiting of open.values()) waiting.reject(new Error("the worker stopped"));
    open.clear();
    worker = null;
  };
  return worker;
}

/** Asks the worker about a revision of a plan. */
export function askWorker<N extends AnswerName>(
  name: N,
  planId: string,
  revision: number,
  view: View,
): Promise<AnswerOf<N>> {
  const question: WorkerQuestion = { id: next++, name, planId, revision, view };
  return new Promise((resolve, reject) => {
    open.set(question.id, { resolve: resolve as (answer: unknown) => void, reject });
    running().postMessage(question);
  });
}
