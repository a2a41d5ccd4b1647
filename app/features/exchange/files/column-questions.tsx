import type { TokenRole } from "../../../../exchange/layout.ts";
import type { Question } from "../../../../exchange/readers/text/numbers.ts";
import { roleNames } from "./role-names.ts";

interface ColumnQuestionsProps {
  questions: readonly Question[];
  answers: Readonly<Record<string, TokenRole>>;
  onAnswers: (answers: Record<string, TokenRole>) => void;
}

/** Columns that the text leaves open, each asked once for all files, with its possible readings on the first line. */
export function ColumnQuestions({ questions, answers, onAnswers }: ColumnQuestionsProps) {
  const byColumn = new Map<string, Question[]>();
  for (const question of questions)
    byColumn.set(question.column, [...(byColumn.get(question.column) ?? []), question]);
  const answered = Object.entries(answers).filter(([column]) => !byColumn.has(column));
  if (byColumn.size === 0 && answered.length === 0) return null;
  return (
    <section aria-label="Open questions" className="mt-3 border border-warn p-2">
      <h2 className="font-semibold">Open questions</h2>
      {byColumn.size > 0 && (
        <p className="text-[13px] text-ink-2">
          The text does not say what these numbers are. Their routes are read after you answer.
        </p>
      )}
      <ul className="mt-1 flex flex-col gap-2">
        {[...byColumn].map(([column, asked]) => (
          <li key={column} className="flex flex-wrap items-center gap-2">
            <span>
              {/^\d+$/.test(column) ? `Value ${column} of the line` : `Column ${column}`} on{" "}
              {asked.reduce((sum, { lines }) => sum + lines.length, 0)} lines is the
            </span>
            {asked[0].candidates.map((candidate) => (
              <button
                key={candidate.role}
                type="button"
                className="border border-rule px-2 py-0.5 hover:bg-sunk"
                onClick={() => onAnswers({ ...answers, [column]: candidate.role })}
              >
                <span className="font-medium">{roleNames[candidate.role]}</span>
                {": "}
                <span className="addr">{readingText(candidate)}</span>
              </button>
            ))}
          </li>
        ))}
        {answered.map(([column, role]) => (
          <li key={column} className="flex items-center gap-2 text-ink-2">
            {/^\d+$/.test(column) ? `Value ${column} of the line` : `Column ${column}`}: {roleNames[role]}
            <button
              type="button"
              className="name-link"
              onClick={() => {
                const { [column]: _removed, ...others } = answers;
                onAnswers(others);
              }}
            >
              Change
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A route as it would be read. */
function readingText({ to, via, distance, metric }: Question["candidates"][number]): string {
  const numbers = [
    distance === null ? "" : ` distance ${distance}`,
    metric === null ? "" : ` metric ${metric}`,
  ].join("");
  return `${to}${via ? ` via ${via}` : ""}${numbers || " without the number"}`;
}
