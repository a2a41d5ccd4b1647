import { useNavigation } from "react-router";
import { useHead } from "../../plan/head.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { Conditions } from "./conditions.tsx";
import { EditBar } from "./edit-bar.tsx";
import { QuestionField } from "./question-field.tsx";
import { type Stage, WorkLine } from "./work-line.tsx";

export type { Stage };

/** The permanent frame: work line, conditions and question field. It stays mounted while pages change. */
export function Frame({ stage, children }: { stage: Stage; children: React.ReactNode }) {
  const { page } = usePlan();
  useHead(page);
  return (
    <div className="flex h-full flex-col md:flex-row">
      <a
        href="#answer"
        className="sr-only focus:not-sr-only focus:absolute focus:z-20 focus:bg-chosen focus:p-2 focus:text-chosen-ink"
      >
        Skip to content
      </a>
      <PendingBar />
      <WorkLine stage={stage} />
      <div className="flex min-h-0 min-w-0 flex-1 flex-col">
        <header className="flex min-h-[52px] flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule px-4 py-2">
          <Conditions />
          <div className="flex flex-1 flex-wrap items-center justify-end gap-3">
            <QuestionField />
            <EditBar />
          </div>
        </header>
        <main id="answer" className="flex min-h-0 flex-1 flex-col">
          {children}
        </main>
      </div>
    </div>
  );
}

/** Shown where the next page takes its time; quick ones come without it. */
function PendingBar() {
  const { state } = useNavigation();
  if (state === "idle") return null;
  return (
    <div role="progressbar" aria-label="Loading page" className="pending-bar fixed inset-x-0 top-0 z-40 h-1">
      <div className="h-full bg-chosen" />
    </div>
  );
}
