import { useParams, useSearchParams } from "react-router";
import { type Known, useKnown } from "../../plan/known.ts";
import type { Frame as FrameData } from "../../queries/frame.ts";
import { Conditions } from "./conditions.tsx";
import { EditBar } from "./edit-bar.tsx";
import { QuestionField } from "./question-field.tsx";
import { type Stage, WorkLine } from "./work-line.tsx";

interface FrameProps {
  page: Known;
  frame: FrameData;
  stage: Stage;
  /** The device that is looked at: addresses are looked up there. */
  here?: string;
  children: React.ReactNode;
}

/** What is always in sight: the work line, the conditions, the question field. */
export function Frame({ page, frame, stage, here, children }: FrameProps) {
  useKnown(page);
  const { plan } = useParams();
  const [params] = useSearchParams();
  const planId = plan ?? page.planId;
  return (
    <div className="flex h-full flex-col md:flex-row">
      <a
        href="#answer"
        className="sr-only focus:not-sr-only focus:absolute focus:z-20 focus:bg-chosen focus:p-2 focus:text-chosen-ink"
      >
        Skip to the answer
      </a>
      <WorkLine planId={planId} frame={frame} stage={stage} params={params} page={page} />
      <div className="flex min-h-0 min-w-0 flex-1 flex-col">
        <header className="flex min-h-[52px] flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule px-4 py-2">
          <Conditions frame={frame} params={params} />
          <div className="flex flex-1 items-center justify-end gap-3">
            <QuestionField planId={planId} here={here} />
            <EditBar page={page} />
          </div>
        </header>
        <main id="answer" className="flex min-h-0 flex-1 flex-col">
          {children}
        </main>
      </div>
    </div>
  );
}
