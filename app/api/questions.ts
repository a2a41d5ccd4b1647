import { z } from "zod";
import { errorsOfIssues } from "../../core/plan/index.ts";
import { modelAt, shownBy } from "../engine/page.server.ts";
import { type AnswerName, answer, answerNames } from "../queries/answer.ts";
import { askSchemas } from "../queries/ask-schemas.ts";
import { type AskArgs, type AskName, ask, askNames } from "../queries/asks.ts";
import { viewOf } from "../search/view.ts";
import { endpoint } from "./endpoint.ts";
import { Problem } from "./problem.ts";

const isAnswer = (name: string): name is AnswerName => (answerNames as readonly string[]).includes(name);
const isAsk = (name: string): name is AskName => (askNames as readonly string[]).includes(name);

export const questions = [
  endpoint({
    method: "GET",
    path: "/plans/{plan}/ask/{question}",
    role: "reads",
    summary: "Any query that a page can make",
    description: `Queries of pages take the parameters of the page's address: ${answerNames.join(", ")}. Queries of an open page take \`args\`: ${askNames.join(", ")}. Set failures with \`down\` (repeatable), the revision with \`revision\`, and a step of a change with \`after\`, such as 3.4.`,
    query: {
      revision: "the revision; the current one by default",
      after: "the plan after a step of a change: CHANGE.STEP",
      down: "a failed element, such as link:ID; may be repeated",
      args: "JSON object with the arguments of a query of an open page",
      device: "the device",
      lookup: "an address to look up on the device",
      flow: "a flow of the plan, or else from, to, source, protocol and port",
    },
    reply: z.strictObject({ revision: z.number().int(), answer: z.unknown() }),
    answer: async ({ plan, params, query }) => {
      const view = viewOf(query, query.get("device") ?? "");
      const { shown, base } = await shownBy(plan, view);
      const model = await modelAt(plan, shown);
      const approved = () => modelAt(plan, base);
      const name = params.question;
      if (isAnswer(name)) {
        const found = answer(name, model, await approved(), view);
        if (found === null) throw new Problem(404, `the plan has no device ${view.device.slice(0, 60)}`);
        return { body: { revision: shown, answer: found } };
      }
      if (!isAsk(name)) throw new Problem(404, `there is no query ${name.slice(0, 40)}`);
      const args = argsOf(name, { down: query.getAll("down"), ...argsIn(query.get("args")) });
      return { body: { revision: shown, answer: await ask(name, model, args, approved) } };
    },
  }),
];

/** The arguments of a query, read by its schema. Throws a `Problem` that lists the errors. */
function argsOf<N extends AskName>(name: N, given: Record<string, unknown>): AskArgs<N> {
  const read = askSchemas[name].safeParse(given, { reportInput: true });
  if (read.success) return read.data;
  const errors = errorsOfIssues(read.error.issues, ["args"]).slice(0, 50);
  throw new Problem(422, `The arguments do not match the query ${name}.`, errors);
}

function argsIn(text: string | null): Record<string, unknown> {
  if (text === null) return {};
  try {
    const args: unknown = JSON.parse(text);
    if (typeof args === "object" && args !== null && !Array.isArray(args))
      return args as Record<string, unknown>;
  } catch {
    // Told below.
  }
  throw new Problem(400, "args must be a JSON object");
}
