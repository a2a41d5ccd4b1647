import type { Edit } from "../../core/plan/index.ts";
import type { PlanHead } from "../plan/head.ts";
import type { AnswerName, AnswerOf } from "../queries/answer.ts";
import type { AskArgs, AskName, AskOf } from "../queries/asks.ts";
import { slowAsks } from "../queries/slow-asks.ts";
import type { View } from "../search/view.ts";
import type { SavedEdit, WorkerQuestion, WorkerReply } from "./queries.worker.ts";
import { Replaced } from "./replaced.ts";

/** What a question in the worker waits for; `replaced` where a newer one of its kind took its place. */
interface Waiting {
  onProgress?: (progress: { covered: number; found: number }) => void;
  resolve: (answer: unknown) => void;
  reject: (error: Error) => void;
}

/** A worker with its open questions. Of those that wait behind a running one, the newest of each kind is kept. */
class Lane {
  private worker: Worker | null = null;
  private next = 0;

  /** `atOnce`: questions that are sent before the first is answered, so that the worker never waits for the page. */
  constructor(private readonly atOnce: number) {}

  private readonly open = new Map<number, Waiting>();
  private readonly queue = new Map<string, { question: WorkerQuestion; waiting: Waiting }>();

  ask(
    kind: string,
    question: DistributiveOmit<WorkerQuestion, "id">,
    onProgress?: Waiting["onProgress"],
  ): Promise<unknown> {
    return new Promise((resolve, reject) => {
      const waiting = { resolve, reject, onProgress };
      const asked = { ...question, id: this.next++ } as WorkerQuestion;
      if (this.open.size < this.atOnce) return this.send(asked, waiting);
      this.queue.get(kind)?.waiting.reject(new Replaced("replaced by a newer query"));
      this.queue.delete(kind);
      this.queue.set(kind, { question: asked, waiting });
    });
  }

  /** Says something that is not answered; a worker that does not run has nothing to know. */
  tell(saved: SavedEdit) {
    this.worker?.postMessage(saved);
  }

  private send(question: WorkerQuestion, waiting: Waiting) {
    this.open.set(question.id, waiting);
    this.running().postMessage(question);
  }

  private running(): Worker {
    if (this.worker) return this.worker;
    this.worker = new Worker(new URL("./queries.worker.ts", import.meta.url), { type: "module" });
    this.worker.onmessage = (event: MessageEvent<WorkerReply>) => {
      const reply = event.data;
      const waiting = this.open.get(reply.id);
      if ("progress" in reply) return waiting?.onProgress?.(reply.progress);
      this.open.delete(reply.id);
      if (reply.ok) waiting?.resolve(reply.answer);
      else waiting?.reject(new Error(reply.message));
      const [kind] = this.queue.keys();
      const following = kind === undefined ? undefined : this.queue.get(kind);
      if (kind === undefined || !following) return;
      this.queue.delete(kind);
      this.send(following.question, following.waiting);
    };
    this.worker.onerror = () => this.stop("the worker stopped");
    return this.worker;
  }

  /** Ends the worker with all that it was asked; the next question starts a new one. */
  stop(why: string) {
    this.worker?.terminate();
    this.worker = null;
    const all = [...this.open.values(), ...[...this.queue.values()].map((entry) => entry.waiting)];
    this.open.clear();
    this.queue.clear();
    for (const waiting of all) waiting.reject(new Error(why));
  }
}

type DistributiveOmit<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never;

/** Pages and queries that follow a keystroke use one worker, slow queries another. */
const quick = new Lane(2);
const slow = new Lane(1);
/** Sweeps can run for minutes, and be stopped. */
const sweeping = new Lane(1);

/** Which plan is asked, at which revision, and which one of it counts as approved. */
export type Revisions = Pick<PlanHead, "planId" | "revision" | "approved">;

/** Asks a page's question about a revision of a plan. */
export function askWorker<N extends AnswerName>(
  page: N,
  of: Revisions,
  view: View,
  kind: string = page,
): Promise<AnswerOf<N>> {
  const { planId, revision, approved } = of;
  return quick.ask(`page ${kind}`, { planId, revision, approved, page, view }) as Promise<AnswerOf<N>>;
}

/** Asks about the plan as it stands; rejected as `Replaced` where a newer question of the kind came after it. */
export function askPlan<N extends AskName>(
  of: Revisions,
  name: N,
  args: AskArgs<N>,
  kind: string = name,
  onProgress?: Waiting["onProgress"],
) {
  const { planId, revision, approved } = of;
  const lane = name === "board" ? sweeping : slowAsks.has(name) ? slow : quick;
  const question = { planId, revision, approved, ask: name, args };
  return lane.ask(kind, question, onProgress) as Promise<AskOf<N>>;
}

/** Sends a saved edit to the workers that hold the plan, so that they reuse unaffected results. */
export function sendEditToWorkers(planId: string, from: number, to: number, edit: Edit) {
  for (const lane of [quick, slow, sweeping]) lane.tell({ planId, from, to, edit });
}

/** Stops the running sweep, if any. */
export function stopSweep() {
  sweeping.stop("stopped");
}
