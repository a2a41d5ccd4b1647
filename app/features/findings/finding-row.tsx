import { useId, useState } from "react";
import { Link } from "react-router";
import type { Evidence, Finding } from "../../../core/findings/index.ts";
import type { Dismissal, Edit } from "../../../core/plan/index.ts";
import type { useEditing } from "../../plan/editing.ts";
import { EditPreview } from "../../plan/impact/edit-preview.tsx";
import { LinkedSentence } from "../../plan/linked-sentence.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { useRights } from "../../plan/rights.tsx";
import { deviceHref, pageHref } from "../../search/links.ts";
import { EvidenceView } from "./evidence-view.tsx";

interface FindingRowProps {
  finding: Finding;
  /** The kind's title, where the row does not stand under it. */
  heading?: string;
  fixes: boolean;
  editing: ReturnType<typeof useEditing>;
}

/** Fixes that are offered at once; the others are a click away. */
const SHOWN = 1;

/** One finding: its sentence, its evidence opened in place, its fixes previewed, and setting it aside. */
export function FindingRow({ finding, heading, fixes, editing }: FindingRowProps) {
  const [open, setOpen] = useState<"" | "evidence" | "aside" | number>("");
  const [others, setOthers] = useState(false);
  const { edits } = useRights();
  const toggle = (what: typeof open) => setOpen(open === what ? "" : what);
  return (
    <li className="py-1.5" data-finding={finding.code}>
      {heading && <span className="text-ink-2">{heading}: </span>}
      <LinkedSentence text={finding.text} here={finding.device ?? undefined} />
      {finding.dismissed && <p className="text-ink-2">Risk accepted: {finding.dismissed}</p>}
      <p className="mt-0.5 flex flex-wrap gap-2 text-[13px]">
        {finding.evidence.length > 0 && (
          <button
            type="button"
            className="button"
            aria-expanded={open === "evidence"}
            onClick={() => toggle("evidence")}
          >
            Evidence
          </button>
        )}
        {!finding.dismissed &&
          finding.fixes.slice(0, others ? undefined : SHOWN).map((fix, i) => (
            <button
              key={fix.label}
              type="button"
              className={`button whitespace-normal! text-left ${open === i ? "button-chosen" : ""}`}
              aria-expanded={open === i}
              onClick={() => toggle(i)}
            >
              Fix: {fix.label}
            </button>
          ))}
        {!finding.dismissed && !others && finding.fixes.length > SHOWN && (
          <button type="button" className="button" onClick={() => setOthers(true)}>
            {finding.fixes.length - SHOWN} more fixes
          </button>
        )}
        {fixes && !finding.dismissed && finding.fixes.length === 0 && (
          <span className="self-center text-ink-2">no proven fix</span>
        )}
        {edits && finding.dismissed && (
          <button
            type="button"
            className="button"
            disabled={editing.busy}
            onClick={() => editing.save(reopenEdit(finding))}
          >
            Reopen
          </button>
        )}
        {edits && !finding.dismissed && (
          <button
            type="button"
            className="button"
            aria-expanded={open === "aside"}
            onClick={() => toggle("aside")}
          >
            Accept risk
          </button>
        )}
      </p>
      {open === "evidence" && (
        <div className="mt-1 border-iron border-l-4 bg-sunk px-3 py-2">
          {finding.evidence.slice(0, 6).map((evidence) => (
            <EvidenceItem key={JSON.stringify(evidence)} evidence={evidence} />
          ))}
        </div>
      )}
      {typeof open === "number" && finding.fixes[open] && (
        <EditPreview
          edit={finding.fixes[open].edit}
          proven
          busy={editing.busy}
          onTake={() => editing.save(finding.fixes[open].edit)}
        />
      )}
      {open === "aside" && (
        <AsideForm busy={editing.busy} onSave={(reason) => editing.save(asideEdit(finding, reason))} />
      )}
    </li>
  );
}

function EvidenceItem({ evidence }: { evidence: Evidence }) {
  const { page, params } = usePlan();
  return (
    <div className="py-1">
      <EvidenceView evidence={evidence} />
      <p className="text-[13px]">
        <Link className="name-link" to={evidenceHref(evidence, page.planId, params)}>
          Show in plan
        </Link>
      </p>
    </div>
  );
}

function evidenceHref(evidence: Evidence, planId: string, params: URLSearchParams): string {
  switch (evidence.kind) {
    case "route":
      return deviceHref(planId, evidence.device, params, { lookup: evidence.to });
    case "range":
      return deviceHref(planId, evidence.device, params, { lookup: evidence.prefix });
    case "path": {
      const down = new URLSearchParams(evidence.failed.map((ref) => ["down", ref]));
      return pageHref(planId, "paths", down, { flow: evidence.flow });
    }
    case "interface":
      return deviceHref(planId, evidence.interface.split("/")[0], params);
    case "watch":
      return deviceHref(planId, evidence.watch.split("/")[0], params);
  }
}

function AsideForm({ busy, onSave }: { busy: boolean; onSave: (reason: string) => void }) {
  const [reason, setReason] = useState("");
  const [told, setTold] = useState(false);
  const id = useId();
  return (
    <form
      className="mt-1 flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        setTold(true);
        if (reason.trim()) onSave(reason.trim());
      }}
    >
      <label htmlFor={id} className="text-ink-2">
        Reason for accepting
      </label>
      <input
        id={id}
        value={reason}
        onChange={(event) => setReason(event.target.value)}
        placeholder="saved with the plan"
        maxLength={2000}
        aria-invalid={told && !reason.trim() ? true : undefined}
        aria-describedby={`${id}-error`}
        className="field w-96 max-w-full"
      />
      <button type="submit" className="button" disabled={busy}>
        Accept
      </button>
      <span id={`${id}-error`} role="alert" className="text-stop">
        {told && !reason.trim() ? "Enter a reason." : ""}
      </span>
    </form>
  );
}

function dismissalOf({ code, device, subject }: Finding, reason: string): Dismissal {
  return device === null ? { code, subject, reason } : { code, device, subject, reason };
}

function asideEdit(finding: Finding, reason: string): Edit {
  return {
    label: `Accept risk: ${finding.text}`.slice(0, 300),
    changes: [{ in: "plan", collection: "dismissals", before: null, after: dismissalOf(finding, reason) }],
  };
}

function reopenEdit(finding: Finding): Edit {
  const before = dismissalOf(finding, finding.dismissed ?? "");
  return {
    label: `Reopen: ${finding.text}`.slice(0, 300),
    changes: [{ in: "plan", collection: "dismissals", before, after: null }],
  };
}
