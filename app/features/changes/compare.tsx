import { Link, useSearchParams } from "react-router";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../../plan/down.ts";
import { ChangesByDevice } from "../../plan/impact/change-list.tsx";
import { ImpactView } from "../../plan/impact/impact-view.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { elementLabel } from "../../plan/sentence-parts.ts";
import { pageHref } from "../../search/links.ts";
import { Waiting } from "../../ui/waiting.tsx";

/** Two revisions held against each other: as written, flows, classes of addresses, findings, and what flows survive. */
export function Compare() {
  const { page, frame, labels } = usePlan();
  const [params] = useSearchParams();
  const [from, to] = [Number(params.get("from")), Number(params.get("to"))];
  const known = [from, to].every((n) => Number.isInteger(n) && n >= 1 && n <= page.newest);
  const of = { planId: page.planId, revision: to, approved: from };
  const down = downOf(frame);
  const written = useAsking(of, "draft", known ? { down } : null, { kind: "compare" });
  const board = useAsking(of, "survival", known ? { down } : null);
  return (
    <section aria-label="Comparison" className="mt-3 max-w-4xl">
      <h2 className="font-semibold font-sign text-[20px]">
        Revision {to} vs. {from}
      </h2>
      <p>
        <Link className="name-link text-ink-2" to={pageHref(page.planId, "changes", params)}>
          Back to draft
        </Link>
      </p>
      {!known && <p role="alert">Enter two revisions from 1 to {page.newest}.</p>}
      {known && (written.pending || written.error !== "") && (
        <Waiting text="Comparing revisions …" error={written.error} retry={written.retry} />
      )}
      {written.answer && written.answer.changes.length === 0 && <p>The two revisions are identical.</p>}
      {written.answer && written.answer.changes.length > 0 && (
        <>
          <ChangesByDevice changes={written.answer.changes} />
          {written.answer.effect && (
            <div className="mt-3">
              <h3 className="font-semibold">Impact</h3>
              <ImpactView effect={{ ...written.answer.effect, routes: [] }} findings={written.answer} />
            </div>
          )}
          <h3 className="mt-3 font-semibold">Impact of single failures</h3>
          {(board.pending || board.error !== "") && (
            <Waiting text="Simulating single failures …" error={board.error} retry={board.retry} />
          )}
          {board.answer?.length === 0 && (
            <p>Every flow survives the same single failures in both revisions.</p>
          )}
          <ul>
            {board.answer?.map(({ flow, lost, gained }) => (
              <li key={flow}>
                <span className="font-medium">{labels.flows.get(flow) ?? flow}</span>
                {lost.length > 0 && (
                  <span className="text-stop">
                    {" "}
                    no longer survives {lost.map((ref) => elementLabel(ref, labels)).join(", ")}
                    {gained.length > 0 ? ";" : ""}
                  </span>
                )}
                {gained.length > 0 && (
                  <span> now survives {gained.map((ref) => elementLabel(ref, labels)).join(", ")}</span>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
