import { useMemo } from "react";
import { type Drawing, LARGE_PLAN } from "../../drawing/types.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { EditLink } from "../../plan/rights.tsx";
import type { MapAnswer } from "../../queries/map.ts";
import { Waiting } from "../../ui/waiting.tsx";
import { Builder } from "./builder.tsx";
import { Canvas } from "./canvas.tsx";
import { FlowPanel } from "./flow-panel.tsx";
import { LargeMap } from "./large/large-map.tsx";
import { useWholeMap } from "./use-whole-map.ts";

/** The topology, and the path of the selected flow. */
export function MapView(given: { answer: MapAnswer; drawing: Drawing | null }) {
  const { frame, params } = usePlan();
  const { whole, error, retry } = useWholeMap(given);
  const { answer, drawing } = whole;
  const edit = params.get("edit");
  const Drawn = answer.devices.length > LARGE_PLAN ? LargeMap : Canvas;
  const flow = useMemo(() => (answer.flow?.ok ? answer.flow.answer : null), [answer.flow]);
  return (
    <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
      <h1 className="sr-only">Map of {frame.planName}</h1>
      <div className="relative min-h-[420px] min-w-0 flex-1 overflow-clip">
        {!drawing ? (
          <div className="p-8">
            <Waiting
              text={`Loading the map of ${frame.counts.devices} devices …`}
              error={error}
              retry={retry}
            />
          </div>
        ) : answer.devices.length === 0 ? (
          <p className="p-8 text-ink-2">
            No devices yet.{" "}
            <EditLink className="name-link font-medium text-ink" edit="new:device">
              Add device
            </EditLink>
            , or{" "}
            <EditLink className="name-link font-medium text-ink" edit="new:list">
              paste a list of interfaces
            </EditLink>
            .
          </p>
        ) : (
          <Drawn answer={answer} drawing={drawing} flow={flow} />
        )}
      </div>
      {edit === null ? <FlowPanel answer={answer} /> : <Builder chosen={edit} />}
    </div>
  );
}
