import { Form, Link, useLocation } from "react-router";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../../plan/down.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { pageHref } from "../../search/links.ts";
import { Button } from "../../ui/button.tsx";
import { Mark } from "../../ui/mark.tsx";
import { PopoverBox } from "../../ui/popover.tsx";

export type Stage = "import" | "network" | "findings" | "routes" | "paths" | "failures" | "changes";

interface Stop {
  name: Stage;
  text: string;
  href: string;
  /** Problems there with their count; "" without any. */
  wrong: string;
  /** Whether it is bad news. */
  grave: boolean;
}

/** The stages in the order of the work, each with its current problems. */
export function WorkLine({ stage }: { stage: Stage }) {
  const { planId, params, page, frame } = usePlan();
  const { conditions, counts } = frame;
  const findings = useFindings();
  const told = (count: number, one: string, many: string) =>
    count === 0 ? "" : `${count} ${count === 1 ? one : many}`;
  const stops: Stop[] = [
    {
      name: "import",
      text: "Import & export",
      href: pageHref(planId, "import", params),
      wrong: "",
      grave: false,
    },
    {
      name: "network",
      text: "Network",
      href: pageHref(planId, "map", params),
      wrong: told(conditions.plates.length, "down", "down"),
      grave: true,
    },
    { name: "findings", text: "Findings", href: pageHref(planId, "findings", params), ...findings },
    {
      name: "routes",
      text: "Routes",
      href: pageHref(planId, "routes", params),
      wrong: told(counts.unusable, "unusable", "unusable"),
      grave: true,
    },
    {
      name: "paths",
      text: "Paths",
      href: pageHref(planId, "paths", params),
      wrong: told(counts.broken, "flow fails", "flows fail"),
      grave: true,
    },
    {
      name: "failures",
      text: "Failures",
      href: pageHref(planId, "failures", params),
      wrong: "",
      grave: false,
    },
    {
      name: "changes",
      text: "Changes",
      href: pageHref(planId, "changes", params),
      wrong: page.revision === page.approved ? "" : "draft",
      grave: false,
    },
  ];
  return (
    <nav
      aria-label="Plan sections"
      className="flex shrink-0 items-center gap-4 border-rule border-b px-4 py-2 md:w-44 md:flex-col md:items-stretch md:gap-0 md:border-r md:border-b-0 md:py-3"
    >
      <Link to="/plans" className="flex items-center gap-2 font-semibold font-sign text-[20px] leading-6">
        <Mark size={22} />
        <span className="hidden md:inline">Iron Fork</span>
      </Link>
      <p className="hidden break-words text-ink-2 leading-[18px] md:line-clamp-3">{frame.planName}</p>
      <ol className="flex flex-1 gap-3 overflow-x-auto md:mt-5 md:block md:flex-none md:overflow-visible">
        {stops.map((stop, i) => (
          <StopLine key={stop.name} stop={stop} here={stop.name === stage} last={i === stops.length - 1} />
        ))}
      </ol>
      <div className="ml-auto flex flex-col gap-1 text-[13px] text-ink-2 md:mt-auto md:ml-0">
        <Link to="/plans" className="hidden md:block">
          All plans
        </Link>
        {page.shared ? (
          <Link to="/account" className="hidden truncate md:block">
            {page.visitor}
          </Link>
        ) : (
          <Visitor name={page.visitor} />
        )}
      </div>
    </nav>
  );
}

function StopLine({ stop, here, last }: { stop: Stop; here: boolean; last: boolean }) {
  return (
    <li className="relative shrink-0 md:min-h-11 md:pb-2">
      {!last && (
        <span
          aria-hidden="true"
          className="absolute top-3 bottom-[-12px] left-[7px] hidden w-[4px] bg-iron md:block"
        />
      )}
      <Link
        to={stop.href}
        aria-current={here ? "page" : undefined}
        className="relative flex items-start gap-2 py-0.5 md:gap-3"
      >
        <span
          aria-hidden="true"
          className={`mt-px block size-[18px] shrink-0 rounded-full border-4 border-iron ${here ? "bg-chosen" : "bg-ground"}`}
        />
        <span>
          <span className={`block text-[15px] ${here ? "font-semibold" : "text-ink-2"}`}>{stop.text}</span>
          {stop.wrong !== "" && (
            <span
              data-count={stop.name}
              className={`block text-[12px] leading-[15px] ${stop.grave ? "font-semibold text-stop" : "text-ink-2"}`}
            >
              {stop.wrong}
            </span>
          )}
        </span>
      </Link>
    </li>
  );
}

/** How many findings are open; counted by the worker that may take long. */
function useFindings(): Pick<Stop, "wrong" | "grave"> {
  const { page, frame } = usePlan();
  const down = downOf(frame);
  const { answer } = useAsking(page, "findings", { down, fixes: false }, { kind: "findings plain" });
  const open = answer?.findings.filter((finding) => !finding.dismissed) ?? [];
  return {
    wrong: open.length === 0 ? "" : `${open.length} open`,
    grave: open.some((finding) => finding.severity === "error"),
  };
}

function Visitor({ name }: { name: string }) {
  const { pathname, search } = useLocation();
  return (
    <PopoverBox
      label="Your name"
      side="top"
      trigger={
        <button type="button" className="hidden truncate text-left md:block">
          {name}
        </button>
      }
    >
      <Form method="post" action="/name" className="flex flex-col gap-2">
        <input type="hidden" name="back" value={`${pathname}${search}`} />
        <label htmlFor="visitor-name" className="text-[13px] text-ink-2">
          Name shown with your edits
        </label>
        <div className="flex gap-2">
          <input
            id="visitor-name"
            name="name"
            defaultValue={name}
            maxLength={60}
            required
            className="field flex-1"
          />
          <Button type="submit">Save</Button>
        </div>
      </Form>
    </PopoverBox>
  );
}
