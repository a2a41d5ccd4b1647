import { useState } from "react";
import { Link } from "react-router";
import { useAsking } from "../../engine/asking.ts";
import { downOf } from "../../plan/down.ts";
import { useEditing } from "../../plan/editing.ts";
import { EditPreview } from "../../plan/impact/edit-preview.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import type { FlowAnswer } from "../../queries/flows.ts";
import { deviceHref } from "../../search/links.ts";

interface MendingProps {
  flow: FlowAnswer;
}

/** Advice about a packet that is lost, and the changes that fix it, proven before they are offered. */
export function Mending({ flow }: MendingProps) {
  const { page, frame, params } = usePlan();
  const [wanted, setWanted] = useState(false);
  const editing = useEditing(page, "mending");
  const { asked } = flow;
  const down = downOf(frame);
  const question = {
    flow: asked.flow ?? undefined,
    from: asked.from,
    source: asked.source || undefined,
    to: asked.to,
    protocol: asked.protocol,
    port: asked.port ?? undefined,
  };
  const { answer, pending } = useAsking(page, "remedies", wanted ? { down, asked: question } : null);
  const drop = flow.now.outbound.drop ?? flow.now.reply?.drop;
  if (!drop) return null;
  return (
    <section aria-label="Fix" className="mt-4 max-w-4xl border-rule border-t pt-2">
      <h2 className="font-semibold font-sign text-[17px]">Fix</h2>
      <p>
        {drop.advice}{" "}
        <Link className="name-link" to={deviceHref(page.planId, drop.device, params)}>
          Open {frame.devices.find((device) => device.id === drop.device)?.label ?? drop.device}
        </Link>
      </p>
      {!wanted && (
        <button type="button" className="button mt-1" onClick={() => setWanted(true)}>
          Find changes that fix it
        </button>
      )}
      <div role="status">
        {pending && <p className="text-ink-2">Trying neighbors along the path …</p>}
        {wanted && !pending && answer?.length === 0 && <p>No routes and no translation fix this flow.</p>}
      </div>
      {!pending &&
        answer?.map((edit) => (
          <div key={edit.label}>
            <p className="mt-1 font-medium">{edit.label}</p>
            <EditPreview
              edit={edit}
              proven
              busy={editing.busy}
              onTake={() => {
                setWanted(false);
                editing.save(edit);
              }}
            />
          </div>
        ))}
    </section>
  );
}
