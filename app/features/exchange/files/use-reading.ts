import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Layout, TokenRole } from "../../../../exchange/layout.ts";
import { askPlan } from "../../../engine/ask.client.ts";
import { usePlan } from "../../../plan/open-plan.tsx";
import type { AskArgs } from "../../../queries/asks.ts";
import type { ExchangeAnswer } from "../../../queries/exchange.ts";
import type { SourceFile } from "./drop-area.tsx";
import type { LayoutView } from "./saved-layouts.tsx";

interface ReadingInput {
  files: readonly SourceFile[];
  words: Readonly<Record<string, string>>;
  without: readonly string[];
  taught: Layout["shapes"];
  layouts: readonly LayoutView[];
  answers: Readonly<Record<string, TokenRole>>;
}

/** The result of reading files, requested again whenever a file, a meaning, a role, a checkbox or the plan changes. The
 * previous result remains visible until then. */
export function useReading({ files, words, without, taught, layouts, answers }: ReadingInput) {
  const { page } = usePlan();
  const [answer, setAnswer] = useState<ExchangeAnswer | null>(null);
  const reading = useMutation({
    mutationFn: (asked: AskArgs<"exchange">) => askPlan(page, "exchange", asked, "exchange"),
    onSuccess: setAnswer,
  });
  const { mutate, reset } = reading;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the revision identifies the plan.
  useEffect(() => {
    if (files.length === 0) {
      reset();
      setAnswer(null);
      return;
    }
    const own: Layout = { ironForkLayout: 1, name: "", words: {}, shapes: taught };
    const known = layouts.map(({ layout }) => layout);
    mutate({
      files: [...files],
      words: Object.entries(words),
      without: [...without],
      layouts: [own, ...known],
      roles: Object.entries(answers),
    });
  }, [files, words, without, taught, layouts, answers, mutate, reset, page.revision]);
  return { reading, answer: files.length > 0 ? answer : null };
}
