import { once } from "node:events";
import type { Response } from "express";
import { EVENT_HEADERS } from "../jobs/event-stream.ts";
import { mayStill, personOf } from "./access.ts";
import { refuse } from "./refuse.ts";

/** Streams that one person may have open: a few windows, each with a few. */
const MAX_OF_ONE = 16;
/** How often it is looked whether a listener may still listen, in milliseconds. */
const LOOK_EVERY_MS = 5000;

/** Server-sent events to open pages: a bounded number for each person, ended when they may listen no more. */
export class EventStreams {
  private readonly open = new Map<string, number>();

  constructor(private readonly ending: AbortSignal) {}

  /** Sends events until they end, the page goes, or the listener may not have them any more. */
  async send(
    res: Response,
    of: string,
    begin: (signal: AbortSignal) => Promise<AsyncGenerator<string> | null>,
  ) {
    const { req } = res;
    const person = personOf(req, res);
    const own = this.open.get(person) ?? 0;
    if (own >= MAX_OF_ONE) {
      res.set("Retry-After", "30");
      return refuse(res, 429, "Too many pages of yours wait for news. Close some of them.");
    }
    this.open.set(person, own + 1);
    const gone = new AbortController();
    res.on("close", () => gone.abort());
    const look = setInterval(async () => {
      if (!(await mayStill(req, res).catch(() => true))) gone.abort();
    }, LOOK_EVERY_MS);
    try {
      const events = await begin(AbortSignal.any([gone.signal, this.ending]));
      if (!events) return refuse(res, 404, `There is no such ${of}.`);
      res.set(EVENT_HEADERS).flushHeaders();
      for await (const event of events) {
        if (!res.write(event)) await Promise.race([once(res, "drain"), once(res, "close")]);
      }
      res.end();
    } finally {
      clearInterval(look);
      const left = (this.open.get(person) ?? 1) - 1;
      if (left > 0) this.open.set(person, left);
      else this.open.delete(person);
    }
  }
}
