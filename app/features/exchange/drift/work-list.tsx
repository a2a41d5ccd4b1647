import { Form } from "react-router";
import { usePlan } from "../../../plan/open-plan.tsx";
import { Button } from "../../../ui/button.tsx";
import { ClockTime } from "../../../ui/clock-time.tsx";

export interface WorkView {
  id: string;
  key: string;
  device: string;
  text: string;
  author: string;
  notedAt: Date;
}

/** Corrections to make on devices; `open` are the differences that the newest readings still show. */
export function WorkList({ work, open }: { work: readonly WorkView[]; open: ReadonlySet<string> }) {
  const { labels } = usePlan();
  if (work.length === 0) return null;
  return (
    <section aria-label="Work list for devices">
      <h2 className="font-semibold font-sign text-[20px]">Work list for devices</h2>
      <ul>
        {work.map(({ id, key, device, text, author, notedAt }) => {
          const isOpen = open.has(key);
          return (
            <li key={id} className="flex flex-wrap items-baseline gap-3 border-rule border-t py-1">
              <span className={isOpen ? "font-medium text-warn" : "text-ink-2"}>
                <span aria-hidden="true">{isOpen ? "○" : "✓"}</span> {isOpen ? "open" : "no longer present"}
              </span>
              <span className="font-medium">{labels.devices.get(device) ?? device}</span>
              <span>{text}</span>
              <span className="ml-auto text-[13px] text-ink-2">
                {author}, <ClockTime at={notedAt} />
              </span>
              <Form method="post">
                <input type="hidden" name="work" value={id} />
                <Button
                  type="submit"
                  look="quiet"
                  name="do"
                  value="done"
                  aria-label={`Remove the list: ${text}`}
                >
                  Remove
                </Button>
              </Form>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
