import { useMemo } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Drawing } from "../../drawing/types.ts";
import type { Known } from "../../plan/known.ts";
import type { MapAnswer } from "../../queries/map.ts";
import { withParam } from "../../search/links.ts";
import { Builder } from "./builder.tsx";
import { Canvas } from "./canvas.tsx";
import { FlowPanel } from "./flow-panel.tsx";

/** What is attached to what, and where the chosen flow goes. */
export function MapView({ page, answer, drawing }: { page: Known; answer: MapAnswer; drawing: Drawing }) {
  const { plan } = useParams();
  const [params] = useSearchParams();
  const planId = plan ?? page.planId;
  const edit = params.get("edit");
  const flow = useMemo(() => (answer.flow?.ok ? answer.flow.answer : null), [answer.flow]);
  return (
    <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
      <h1 className="sr-only">Map of {answer.frame.planName}</h1>
      <div className="relative min-h-[420px] min-w-0 flex-1">
        {answer.devices.length === 0 ? (
          <p className="p-8 text-ink-2">
            This plan has no devices yet.{" "}
            <Link className="name-link font-medium text-ink" to={withParam(params, "edit", "new:device")}>
              Add the first device
            </Link>
            , or{" "}
            <Link className="name-link font-medium text-ink" to={withParam(params, "edit", "new:list")}>
              paste a list of interfaces
            </Link>
            .
          </p>
        ) : (
          <Canvas page={page} planId={planId} answer={answer} drawing={drawing} flow={flow} params={params} />
        )}
      </div>
      {edit === null ? (
        <FlowPanel planId={planId} page={page} answer={answer} params={params} />
      ) : (
        <Builder page={page} chosen={edit} />
      )}
    </div>
  );
}
