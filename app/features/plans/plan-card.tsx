import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useSubmit } from "react-router";
import type { SheetView } from "../../engine/page.server.ts";
import { Confirm } from "../../ui/dialog.tsx";
import { SmallDrawing } from "./small-drawing.tsx";

export interface PlanOnCard {
  id: string;
  name: string;
  revision: number;
  author: string;
  description: string | null;
  /** Whether the user may delete it. */
  edits: boolean;
  /** null until computed. */
  sheet: SheetView | null;
}

/** A plan's overview. It can be opened, exported and deleted even without its sheet. */
export function PlanCard({ plan }: { plan: PlanOnCard }) {
  const { sheet, failed, card } = useSheet(plan);
  return (
    <li ref={card} className="flex flex-col border border-rule bg-panel">
      <Link
        to={`/plans/${plan.id}/map`}
        className="block h-52 border-rule border-b bg-ground p-2"
        aria-label={`Open ${plan.name}`}
      >
        {sheet && <SmallDrawing drawing={sheet.drawing} roles={sheet.roles} />}
      </Link>
      <div className="p-4">
        <h2 className="font-semibold font-sign text-[20px]">
          <Link to={`/plans/${plan.id}/map`}>{plan.name}</Link>
        </h2>
        <p className="mt-1 line-clamp-2 text-ink-2">{plan.description}</p>
        {sheet ? (
          <Figures sheet={sheet} />
        ) : (
          <p className="mt-3 text-ink-2" role="status">
            {failed
              ? "No summary: the plan may be too large or invalid. You can still export or delete it."
              : "Computing summary …"}
          </p>
        )}
        <div className="mt-3 flex gap-4 text-[13px] text-ink-2">
          <span>
            Revision {plan.revision} by {plan.author}
          </span>
          <a className="name-link" href={`/plans/${plan.id}/document?format=yaml`}>
            YAML
          </a>
          <a className="name-link" href={`/plans/${plan.id}/document?format=json`}>
            JSON
          </a>
          {plan.edits && <DeletePlan plan={plan} />}
        </div>
      </div>
    </li>
  );
}

/** The sheet from the list, else requested once when the card becomes visible. Neither the page nor its actions wait
 * for it. */
function useSheet({ id, revision, sheet }: PlanOnCard) {
  const card = useRef<HTMLLIElement>(null);
  const [inSight, setInSight] = useState(false);
  const missing = sheet === null;
  const { data, isError } = useQuery({
    queryKey: [id, revision, "sheet"],
    enabled: missing && inSight,
    queryFn: async ({ signal }) => {
      const response = await fetch(`/plans/${id}/sheet`, { signal });
      if (!response.ok) throw new Error(`the sheet of plan ${id}: ${response.status}`);
      return (await response.json()) as SheetView;
    },
  });
  useEffect(() => {
    if (!missing || !card.current) return;
    const observer = new IntersectionObserver(([entry]) => {
      if (!entry.isIntersecting) return;
      observer.disconnect();
      setInSight(true);
    });
    observer.observe(card.current);
    return () => observer.disconnect();
  }, [missing]);
  return { sheet: sheet ?? data ?? null, failed: isError, card };
}

function Figures({ sheet }: { sheet: SheetView }) {
  const { flows, devices, links, routes } = sheet.counts;
  return (
    <dl className="mt-3 flex flex-wrap gap-x-6 gap-y-1">
      {flows === 0 ? (
        <div>
          <dt className="text-[13px] text-ink-2">flows</dt>
          <dd>No flows defined</dd>
        </div>
      ) : (
        <>
          <Figure term="flows work" of={flows} value={sheet.works} />
          <Figure term="survive any single failure" of={flows} value={sheet.survive} />
        </>
      )}
      <div>
        <dt className="text-[13px] text-ink-2">contains</dt>
        <dd>
          {devices} devices, {links} links, {routes} static routes
        </dd>
      </div>
    </dl>
  );
}

function Figure({ term, value, of }: { term: string; value: number; of: number }) {
  return (
    <div>
      <dt className="text-[13px] text-ink-2">{term}</dt>
      <dd className={`font-semibold font-sign text-[20px] ${value === of ? "" : "text-stop"}`}>
        {value} of {of}
      </dd>
    </div>
  );
}

function DeletePlan({ plan }: { plan: PlanOnCard }) {
  const submit = useSubmit();
  return (
    <Confirm
      title={`Delete ${plan.name}?`}
      action="Delete plan"
      trigger={
        <button type="button" className="ml-auto">
          Delete
        </button>
      }
      onConfirm={() =>
        submit({ do: "delete", plan: plan.id }, { method: "post", encType: "multipart/form-data" })
      }
    >
      This deletes the plan with all revisions and changes. An administrator can restore it under Accounts for
      30 days.
    </Confirm>
  );
}
