import { useEffect, useState } from "react";
import type { Evidence } from "../../../core/findings/index.ts";
import { askWorker } from "../../engine/ask.client.ts";
import { useFlowUnder } from "../../engine/flow-under.ts";
import type { Known } from "../../plan/known.ts";
import { Told } from "../../plan/told.tsx";
import { Lanes } from "../../plan/trace/lanes.tsx";
import { Stacks } from "../../plan/trace/stacks.tsx";
import type { DeviceAnswer } from "../../queries/device.ts";
import type { Frame } from "../../queries/frame.ts";
import { viewOf } from "../../search/view.ts";

interface EvidenceViewProps {
  evidence: Evidence;
  page: Known;
  frame: Frame;
  params: URLSearchParams;
}

/** What a finding rests on, opened in place: the routes of a destination, a walk, an interface, a watch. */
export function EvidenceView(props: EvidenceViewProps) {
  const { evidence } = props;
  switch (evidence.kind) {
    case "route":
      return <RouteEvidence {...props} device={evidence.device} lookup={evidence.to} />;
    case "range":
      return <RouteEvidence {...props} device={evidence.device} lookup={evidence.prefix.split("/")[0]} />;
    case "path":
      return <PathEvidence {...props} flow={evidence.flow} failed={evidence.failed} />;
    case "interface":
      return <DeviceEvidence {...props} of={evidence.interface} kind="interface" />;
    case "watch":
      return <DeviceEvidence {...props} of={evidence.watch} kind="watch" />;
  }
}

function useDevice(page: Known, params: URLSearchParams, device: string, lookup?: string) {
  const [answer, setAnswer] = useState<DeviceAnswer | null>(null);
  const down = params.getAll("down").join(" ");
  // biome-ignore lint/correctness/useExhaustiveDependencies: the conditions stand for all that the parameters say here.
  useEffect(() => {
    let current = true;
    const view = { ...viewOf(params, device), lookup };
    askWorker("device", page, view).then(
      (found) => current && setAnswer(found),
      () => {},
    );
    return () => {
      current = false;
    };
  }, [page.planId, page.revision, device, lookup, down]);
  return answer;
}

function RouteEvidence({
  page,
  params,
  device,
  lookup,
}: EvidenceViewProps & { device: string; lookup: string }) {
  const answer = useDevice(page, params, device, lookup);
  if (!answer) return <p className="text-ink-2">Opening …</p>;
  const stacks = answer.stacks.filter((stack) => stack.match && stack.match !== "none");
  return (
    <>
      <p>
        On {answer.device.label}, for <span className="addr">{lookup}</span>
      </p>
      <div className="overflow-x-auto">
        <Stacks
          planId={page.planId}
          answer={answer}
          stacks={stacks}
          params={params}
          shown={() => true}
          busy={false}
        />
      </div>
    </>
  );
}

function PathEvidence({
  page,
  frame,
  params,
  flow,
  failed,
}: EvidenceViewProps & { flow: string; failed: string[] }) {
  const outcome = useFlowUnder(page, params, flow, failed);
  if (!outcome?.ok) return <p className="text-ink-2">Opening …</p>;
  const { answer } = outcome;
  return (
    <>
      <p className="font-medium">
        {answer.asked.label}
        {failed.length > 0 && (
          <span className="font-normal text-ink-2">
            , with <span className="addr">{failed.join(", ")}</span> down
          </span>
        )}
        : {answer.headline}
      </p>
      {answer.sentences.map((text) => (
        <p key={text} className="text-ink-2">
          <Told text={text} devices={frame.devices} />
        </p>
      ))}
      <Lanes trip={answer.now} frame={frame} planId={page.planId} params={params} healthy={null} quiet />
    </>
  );
}

function DeviceEvidence({
  page,
  params,
  of,
  kind,
}: EvidenceViewProps & { of: string; kind: "interface" | "watch" }) {
  const slash = of.indexOf("/");
  const name = of.slice(slash + 1);
  const answer = useDevice(page, params, of.slice(0, slash));
  if (!answer) return <p className="text-ink-2">Opening …</p>;
  if (kind === "interface") {
    const port = answer.attached.find((entry) => entry.name === name);
    return (
      <p>
        {answer.device.label} <span className="addr">{name}</span>:{" "}
        {port?.addresses.join(", ") || "no address"}
        {port ? (port.up ? ", up" : `, down: ${port.because}`) : ""}
      </p>
    );
  }
  const own = answer.watches.find((entry) => entry.watch.id === name);
  return (
    <p>
      {answer.device.label}, watch <span className="addr">{name}</span>
      {own ? `, ${own.watch.kind}, ${own.up ? "up" : "down"}` : ""}
    </p>
  );
}
