import { Worker } from "node:worker_threads";
import type { PieceMessage, Task } from "./compute.ts";

/** A computing thread, started when first needed; it runs the bundle of compute.ts. One task at a time. */
export class Thread {
  private worker: Worker | null = null;
  /** The plan that the thread holds. */
  private holds = "";

  /** Works a task out; `null` where it was broken off. `document` is asked for only where the thread lacks it. */
  async run(
    task: Omit<Task, "document">,
    document: () => Promise<Task["document"]>,
    onProgress: (covered: number, found: number) => void,
  ): Promise<Exclude<PieceMessage, { kind: "progress" }> | null> {
    const whole: Task = { ...task, document: this.holds === task.key ? null : await document() };
    const worker = this.running();
    this.holds = task.key;
    return new Promise((resolve) => {
      const finish = (told: Exclude<PieceMessage, { kind: "progress" }> | null) => {
        worker.off("message", onMessage).off("error", onError).off("exit", onExit);
        resolve(told);
      };
      const onMessage = (told: PieceMessage) => {
        if (told.kind === "progress") onProgress(told.covered, told.found);
        else finish(told);
      };
      const onError = (error: unknown) => {
        this.forget();
        finish({ kind: "failed", message: String(error) });
      };
      const onExit = () => {
        this.forget();
        finish(null);
      };
      worker.on("message", onMessage).on("error", onError).on("exit", onExit);
      worker.postMessage(whole);
    });
  }

  /** Breaks off what runs; the next task starts a thread anew. */
  async stop(): Promise<void> {
    await this.worker?.terminate();
    this.forget();
  }

  private running(): Worker {
    this.worker ??= new Worker(new URL("./compute.js", import.meta.url));
    return this.worker;
  }

  private forget() {
    this.worker = null;
    this.holds = "";
  }
}
