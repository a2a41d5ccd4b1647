import { Form, Link, useLocation } from "react-router";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../../plan/down.ts";
import type { Known } from "../../plan/known.ts";
import type { Frame } from "../../queries/frame.ts";
import { pageHref } from "../../search/links.ts";

export type Stage = "network" | "routes" | "paths" | "outages" | "findings" | "changes";

interface WorkLineProps {
  planId: string;
  frame: Frame;
  stage: Stage;
  params: URLSearchParams;
  page: Known;
}

/** The stages in the order of the work, as a strip map, each with what is wrong there now. */
export function WorkLine({ planId, frame, stage, params, page }: WorkLineProps) {
  const { conditions, counts } = frame;
  const stages = [
    {
      name: "network",
      text: "Network",
      href: pageHref(planId, "map", params),
      count: conditions.plates.length,
      what: "elements down",
    },
    {
      name: "routes",
      text: "Routes",
      href: pageHref(planId, "routes", params),
      count: counts.unusable,
      what: "unusable routes",
    },
    {
      name: "paths",
      text: "Paths",
      href: pageHref(planId, "paths", params),
      count: counts.broken,
      what: "flows that do not work",
    },
    { name: "outages", text: "Outages", href: pageHref(planId, "outages", params), count: 0, what: "" },
    { name: "changes", text: "Changes", href: pageHref(planId, "changes", params), count: 0, what: "" },
  ] as const;
  return (
    <nav
      aria-label="Stages of the work"
      className="flex shrink-0 items-center gap-4 border-rule border-b px-4 py-2 md:w-44 md:flex-col md:items-stretch md:gap-0 md:border-r md:border-b-0 md:py-3"
    >
      <Link to="/plans" className="flex items-center gap-2 font-semibold font-sign text-[20px] leading-6">
        <svg viewBox="0 0 24 24" width="22" height="22" aria-hidden="true">
          <path d="M4 2v4c0 4 3 6 6 7v9h4v-9c3-1 6-3 6-7V2h-4v4c0 2-2 3-4 3S8 8 8 6V2z" fill="currentColor" />
        </svg>
        <span className="hidden md:inline">Iron Fork</span>
      </Link>
      <p className="hidden truncate text-ink-2 md:block" title={frame.planName}>
        {frame.planName}
      </p>
      <ol className="flex flex-1 gap-3 overflow-x-auto md:mt-5 md:block md:flex-none">
        {stages.map((entry, i) => (
          <li key={entry.name} className="relative md:h-11">
            {i < stages.length - 1 && (
              <span
                aria-hidden="true"
                className="absolute top-3 left-[7px] hidden h-11 w-[4px] bg-iron md:block"
              />
            )}
            <Link
              to={entry.href}
              aria-current={entry.name === stage ? "page" : undefined}
              className="relative flex items-center gap-2 py-0.5 md:gap-3"
            >
              <span
                aria-hidden="true"
                className={`block size-[18px] shrink-0 rounded-full border-4 border-iron ${entry.name === stage ? "bg-chosen" : "bg-ground"}`}
              />
              <span className={`text-[15px] ${entry.name === stage ? "font-semibold" : "text-ink-2"}`}>
                {entry.text}
              </span>
              {entry.count > 0 && (
                <span
                  title={`${entry.count} ${entry.what}`}
                  className="ml-auto min-w-5 rounded-[3px] border border-stop px-1 text-center font-semibold text-[12px] text-stop leading-[18px]"
                >
                  {entry.count}
                  <span className="sr-only"> {entry.what}</span>
                </span>
              )}
            </Link>
          </li>
        ))}
      </ol>
      <div className="ml-auto flex flex-col gap-1 text-[13px] text-ink-2 md:mt-auto md:ml-0">
        <FindingsLink page={page} frame={frame} params={params} here={stage === "findings"} />
        <Link to="/plans" className="hidden md:block">
          All plans
        </Link>
        <Visitor name={page.visitor} />
      </div>
    </nav>
  );
}

/** The way to the findings, with how many are open; counted by the worker that may take long. */
function FindingsLink({
  page,
  frame,
  params,
  here,
}: {
  page: Known;
  frame: Frame;
  params: URLSearchParams;
  here: boolean;
}) {
  const down = downOf(frame);
  const { answer } = useAsking(page, "findings", { down, fixes: false }, { kind: "findings plain" });
  const open = answer?.findings.filter((finding) => !finding.dismissed) ?? [];
  const grave = open.some((finding) => finding.severity === "error");
  return (
    <Link
      to={pageHref(page.planId, "findings", params)}
      aria-current={here ? "page" : undefined}
      className={here ? "font-semibold text-ink" : ""}
    >
      Findings
      {open.length > 0 && (
        <strong className={`pl-1 ${grave ? "text-stop" : "text-ink"}`} data-testid="finding-count">
          {open.length}
        </strong>
      )}
    </Link>
  );
}

function Visitor({ name }: { name: string }) {
  const { pathname, search } = useLocation();
  return (
    <details className="relative hidden md:block">
      <summary className="list-none truncate" title="The name that your edits are kept under">
        {name}
      </summary>
      <Form
        method="post"
        action="/name"
        className="absolute bottom-6 left-0 z-10 flex w-60 gap-2 border border-iron bg-panel p-2 shadow-md"
      >
        <input type="hidden" name="back" value={`${pathname}${search}`} />
        <input
          name="name"
          defaultValue={name}
          maxLength={60}
          required
          aria-label="Your name"
          className="field flex-1"
        />
        <button type="submit" className="button">
          Keep
        </button>
      </Form>
    </details>
  );
}
