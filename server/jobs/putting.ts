import { Queue } from "./queue.ts";

let queue: Promise<Queue> | null = null;

/** The queue as the application uses it: it puts in and cancels, and takes nothing. */
export function putting(): Promise<Queue> {
  queue ??= Queue.open({ tend: false });
  queue.catch(() => {
    queue = null;
  });
  return queue;
}

/** Ends the application's hold on the queue. */
export async function closeQueue(): Promise<void> {
  const open = queue;
  queue = null;
  if (open) await (await open).close();
}
