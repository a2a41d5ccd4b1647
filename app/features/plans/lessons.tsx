import { Form, useNavigation } from "react-router";
import type { Lesson } from "../../engine/lessons.server.ts";
import { Button } from "../../ui/button.tsx";

/** Small plans to learn with, by topic: the error in each, and an exercise. */
export function Lessons({ lessons }: { lessons: readonly Lesson[] }) {
  const busy = useNavigation().state !== "idle";
  const topics = [...new Set(lessons.map((lesson) => lesson.topic))];
  return (
    <section aria-label="Learn" className="mt-8 border-rule border-t pt-4">
      <h2 className="font-semibold font-sign text-[20px]">Learn from common mistakes</h2>
      <p className="text-ink-2">
        Each example is a small network with one mistake. It opens as your own plan: find the mistake, fix it,
        delete the plan.
      </p>
      <div className="mt-3 grid gap-x-8 gap-y-4 md:grid-cols-2">
        {topics.map((topic) => (
          <section key={topic} aria-label={topic}>
            <h3 className="font-semibold font-sign text-[17px] text-ink-2">{topic}</h3>
            <ul>
              {lessons
                .filter((lesson) => lesson.topic === topic)
                .map((lesson) => (
                  <li key={lesson.file} className="flex items-start gap-3 border-rule border-t py-2">
                    <div className="min-w-0 flex-1">
                      <p className="font-medium">{lesson.name}</p>
                      <p className="text-[13px] text-ink-2 leading-[18px]">
                        {lesson.about} <span className="text-ink">Try: {lesson.attempt}</span>
                      </p>
                    </div>
                    <Form method="post" encType="multipart/form-data">
                      <input type="hidden" name="do" value="lesson" />
                      <input type="hidden" name="lesson" value={lesson.file} />
                      <Button type="submit" disabled={busy} aria-label={`Open ${lesson.name}`}>
                        Open
                      </Button>
                    </Form>
                  </li>
                ))}
            </ul>
          </section>
        ))}
      </div>
    </section>
  );
}
