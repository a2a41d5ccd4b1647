import { beforeAll, describe, expect, it, vi } from "vitest";
import { applyEdit, type Edit, type Plan } from "../../core/plan/index.ts";
import { NetworkModel } from "../../core/scenario/index.ts";
import { demoPlan } from "../../tests/support/plans.ts";
import { type AnswerName, answer } from "../queries/answer.ts";
import { ask } from "../queries/asks.ts";
import { type View, viewOf } from "../search/view.ts";
import type { SavedEdit, WorkerQuestion, WorkerReply } from "./queries.worker.ts";

// The browser's worker and the server answer with the same code; these tests cover the messages and documents between
// them.

const plan = demoPlan("marrow-bay");
const edit: Edit = {
  label: "a discard route",
  changes: [
    {
      in: "device",
      device: "office-fw",
      collection: "routes",
      before: null,
      after: { to: "198.18.0.0/15", discard: "drop" },
    },
  ],
};
const edited = (() => {
  const outcome = applyEdit(plan, edit);
  if (!outcome.ok) throw new Error(outcome.errors[0].message);
  return outcome.plan;
})();

const documents = new Map<string, Plan>([["/plans/7/document?revision=1", plan]]);
const fetched: string[] = [];
const waiting = new Map<number, (reply: WorkerReply) => void>();
type Handler = (event: { data: WorkerQuestion | SavedEdit }) => Promise<void> | void;
const worker = { onmessage: null as Handler | null };
let next = 0;

/** Sends a question as the page does, copied on its way as messages are. */
function send(question: Record<string, unknown>): Promise<WorkerReply> {
  const id = next++;
  return new Promise((resolve) => {
    waiting.set(id, resolve);
    worker.onmessage?.({
      data: structuredClone({ id, planId: "7", approved: 1, ...question }) as WorkerQuestion,
    });
  });
}

beforeAll(async () => {
  vi.stubGlobal("self", {
    postMessage: (reply: WorkerReply) => {
      if (!("progress" in reply)) waiting.get(reply.id)?.(structuredClone(reply));
    },
    set onmessage(handler: Handler) {
      worker.onmessage = handler;
    },
  });
  vi.stubGlobal("fetch", async (url: string) => {
    fetched.push(url);
    const document = documents.get(url);
    return document ? Response.json(document) : new Response("there is no such revision", { status: 404 });
  });
  await import("./queries.worker.ts");
});

const conditions = {
  "no failures": "",
  "a link down": "down=link:tern-north",
  "a device and a watch down": "down=device:office-core-2&down=watch:tern-edge/none",
  "a moment of a saved outage": "outage=north-dark&at=50",
  "a moment with something down": "fail=link:north-ring&at=0&down=link:tern-north",
};
const pages: [AnswerName, string][] = [
  ["frame", ""],
  ["map", "flow=tickets"],
  ["paths", "from=tern-desk&to=203.0.113.70&protocol=tcp&port=443"],
  ["routes", "find=172.20.0.0/16&sort=-device"],
  ["device", "here=tern-edge&lookup=203.0.113.70"],
  ["summaries", ""],
  ["question", "q=fail+north"],
  ["question", "q=172.20.33.7"],
];

describe("server and worker give the same answer", () => {
  const cases = pages.flatMap(([page, asked]) =>
    Object.entries(conditions).map(([name, query]) => [page, name, `${asked}&${query}`] as const),
  );
  it.each(cases)("to %s, with %s (%s)", async (page, _name, query) => {
    const view: View = viewOf(new URLSearchParams(query));
    const model = NetworkModel.compile(plan);
    const reply = await send({ revision: 1, page, view });
    expect(reply).toEqual({
      id: expect.any(Number),
      ok: true,
      answer: structuredClone(answer(page, model, model, view)),
    });
  });

  it("to what a page asks while it is open", async () => {
    const model = NetworkModel.compile(plan);
    const args = { down: ["link:tern-north"], edit };
    const reply = await send({ revision: 1, ask: "effect", args });
    const direct = await ask("effect", model, args, async () => model);
    expect(reply).toMatchObject({ ok: true, answer: structuredClone(direct) });
  });
});

describe("after an edit is saved", () => {
  it("the worker answers about the new revision without fetching it, as one compiled anew", async () => {
    await send({ revision: 1, page: "frame", view: viewOf(new URLSearchParams()) });
    const before = fetched.length;
    worker.onmessage?.({ data: { planId: "7", from: 1, to: 2, edit } });
    const view = viewOf(new URLSearchParams("here=office-fw&down=link:tern-north"));
    const reply = await send({ revision: 2, page: "device", view });
    expect(fetched.length).toBe(before);
    const anew = answer("device", NetworkModel.compile(edited), NetworkModel.compile(plan), view);
    expect(reply).toMatchObject({ ok: true, answer: structuredClone(anew) });
  });

  it("an edit that does not fit is left alone, and the revision is fetched", async () => {
    documents.set("/plans/7/document?revision=4", edited);
    worker.onmessage?.({ data: { planId: "7", from: 3, to: 4, edit } });
    const reply = await send({ revision: 4, page: "frame", view: viewOf(new URLSearchParams()) });
    expect(reply).toMatchObject({ ok: true });
    expect(fetched).toContain("/plans/7/document?revision=4");
  });

  it("what cannot be answered is told, and can be asked again", async () => {
    const view = viewOf(new URLSearchParams());
    expect(await send({ revision: 9, page: "frame", view })).toMatchObject({
      ok: false,
      message: expect.stringContaining("could not be loaded (404)"),
    });
    documents.set("/plans/7/document?revision=9", plan);
    expect(await send({ revision: 9, page: "frame", view })).toMatchObject({ ok: true });
  });
});
