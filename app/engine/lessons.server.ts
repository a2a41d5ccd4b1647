import { lessons } from "../../demo/lessons.ts";
import { readPlanText } from "../../exchange/plan-text.ts";

/** A small plan to learn with: one mistake each. */
export interface Lesson {
  file: string;
  topic: string;
  name: string;
  /** The error that it demonstrates. */
  about: string;
  /** What to try with it. */
  attempt: string;
}

const texts = import.meta.glob<string>("../../demo/cases/*.yaml", {
  query: "?raw",
  import: "default",
  eager: true,
});

export function lessonText(file: string): string | null {
  return texts[`../../demo/cases/${file}.yaml`] ?? null;
}

let known: Lesson[] | null = null;

/** The lessons, in the order in which they are offered. */
export function allLessons(): Lesson[] {
  known ??= lessons.flatMap((lesson): Lesson[] => {
    const reading = readPlanText(lessonText(lesson.file) ?? "");
    return reading.ok ? [{ ...lesson, name: reading.plan.name, about: reading.plan.description ?? "" }] : [];
  });
  return known;
}
