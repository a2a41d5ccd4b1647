import { useState } from "react";
import type { Consequence, Finding } from "../../../core/findings/index.ts";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../../plan/down.ts";
import { useEditing } from "../../plan/editing.ts";
import { NoFlows } from "../../plan/flows/no-flows.tsx";
import type { PlanHead } from "../../plan/head.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { Refusals } from "../../plan/refusals.tsx";
import type { FindingSet } from "../../queries/findings.ts";
import type { Frame } from "../../queries/frame.ts";
import { FindingRow } from "./finding-row.tsx";
import { ReadingNotices } from "./reading-notices.tsx";

const consequenceWords: Record<Consequence, { title: string; what: string }> = {
  lost: { title: "Traffic is lost now", what: "packets are dropped or get no reply" },
  inactive: { title: "Configured, but not active", what: "routes, sessions and tunnels that do nothing" },
  "on-failure": {
    title: "Traffic may be lost in a failure",
    what: "works now, but not after a failure or failover",
  },
  astray: { title: "Traffic takes an unexpected path", what: "arrives, but not as planned" },
  tidy: { title: "Configuration can be improved", what: "no traffic is affected" },
};

/** Problems, their reasons and fixes; the most severe for traffic first. */
export function FindingsView({ set }: { set: FindingSet | null }) {
  const { page, frame, params } = usePlan();
  const editing = useEditing(page, "findings");
  const down = downOf(frame);
  const plain = useAsking(page, "findings", { down, fixes: false }, { kind: "findings plain" });
  const full = useAsking(page, "findings", { down, fixes: true }, { kind: "findings full" });
  const held = full.answer ?? plain.answer ?? set;
  const findings = held?.findings ?? [];
  const groups = groupsOf(held);
  const aside = findings.filter((finding) => finding.dismissed);
  const open = findings.length - aside.length;
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 py-3">
      <h1 className="font-semibold font-sign text-[26px]">Findings</h1>
      <p role="status" className="text-ink-2">
        {held
          ? open === 0
            ? frame.flows.length === 0
              ? "No findings for the routes. Add flows to check traffic."
              : "No findings."
            : `${open} ${open === 1 ? "finding" : "findings"}${aside.length ? `, ${aside.length} accepted` : ""}${down.length ? ", with the failures above" : ""}.`
          : "Checking the plan …"}
        {held && !held.fixes && " Verifying fixes …"}
      </p>
      <Refusals errors={editing.errors} />
      {frame.flows.length === 0 && <NoFlows />}
      <ReadingNotices />
      {groups.map(({ consequence, groups: kinds }) => (
        <section key={consequence} aria-labelledby={`consequence-${consequence}`} className="mt-5">
          <h2
            id={`consequence-${consequence}`}
            className={`font-semibold font-sign text-[20px] ${consequence === "lost" ? "text-stop" : ""}`}
          >
            {consequenceWords[consequence].title}
            <span className="pl-2 font-normal font-word text-[14px] text-ink-2">
              {consequenceWords[consequence].what}
            </span>
          </h2>
          {kinds.map((kind) => (
            <Kind
              key={kind.code}
              code={kind.code}
              title={kind.title}
              findings={kind.findings}
              fixes={held?.fixes ?? false}
              page={page}
              frame={frame}
              params={params}
              editing={editing}
            />
          ))}
        </section>
      ))}
      {aside.length > 0 && (
        <section aria-label="Accepted risks" className="mt-6">
          <h2 className="font-semibold font-sign text-[20px] text-ink-2">Accepted risks</h2>
          <ul>
            {aside.map((finding) => (
              <FindingRow
                key={keyOf(finding)}
                finding={finding}
                heading={held?.kinds.find((kind) => kind.code === finding.code)?.title}
                fixes
                editing={editing}
              />
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

/** Open findings by their effect on traffic, and within each group by kind. */
function groupsOf(set: FindingSet | null) {
  const open = set?.findings.filter((finding) => !finding.dismissed) ?? [];
  return (Object.keys(consequenceWords) as Consequence[]).flatMap((consequence) => {
    const kinds = (set?.kinds ?? [])
      .filter((kind) => kind.consequence === consequence)
      .map((kind) => ({ ...kind, findings: open.filter((finding) => finding.code === kind.code) }))
      .filter((kind) => kind.findings.length > 0);
    return kinds.length ? [{ consequence, groups: kinds }] : [];
  });
}

function keyOf({ code, device, subject }: Finding): string {
  return `${code} ${device} ${subject}`;
}

/** Rows of a kind that are shown before the rest is folded. */
const SHOWN = 3;

function Kind({
  title,
  findings,
  ...rest
}: {
  code: string;
  title: string;
  findings: Finding[];
  fixes: boolean;
  page: PlanHead;
  frame: Frame;
  params: URLSearchParams;
  editing: ReturnType<typeof useEditing>;
}) {
  const [all, setAll] = useState(false);
  const shown = all ? findings : findings.slice(0, SHOWN);
  const places = [...new Set(findings.slice(SHOWN).map((finding) => finding.device ?? "the plan"))];
  return (
    <section aria-label={title} className="mt-2 border-rule border-t pt-1">
      <h3 className="font-semibold">
        {title}
        {findings.length > 1 && <span className="pl-1 font-normal text-ink-2">· {findings.length}</span>}
      </h3>
      <ul>
        {shown.map((finding) => (
          <FindingRow key={keyOf(finding)} finding={finding} {...rest} />
        ))}
      </ul>
      {findings.length > SHOWN && (
        <button
          type="button"
          className="name-link text-ink-2"
          onClick={() => setAll(!all)}
          aria-expanded={all}
        >
          {all
            ? "Show fewer"
            : `Show ${findings.length - SHOWN} more: on ${places.slice(0, 4).join(", ")}${places.length > 4 ? ` and ${places.length - 4} more` : ""}`}
        </button>
      )}
    </section>
  );
}
