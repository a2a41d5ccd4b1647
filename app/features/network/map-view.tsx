import { useMemo } from "react";
import { Link } from "react-router";
import type { Drawing } from "../../drawing/types.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import type { MapAnswer } from "../../queries/map.ts";
import { withParam } from "../../search/links.ts";
import { Builder } from "./builder.tsx";
import { Canvas } from "./canvas.tsx";
import { FlowPanel } from "./flow-panel.tsx";

/** What is attached to what, and where the chosen flow goes. */
export function MapView({ answer, drawing }: { answer: MapAnswer; drawing: Drawing }) {
  const { frame, params } = usePlan();
  const edit = params.get("edit");
  const flow = useMemo(() => (answer.flow?.ok ? answer.flow.answer : null), [answer.flow]);
  return (
    <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
      <h1 className="sr-only">Map of {frame.planName}</h1>
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
          <Canvas answer={answer} drawing={drawing} flow={flow} />
        )}
      </div>
      {edit === null ? <FlowPanel answer={answer} /> : <Builder chosen={edit} />}
    </div>
  );
}
