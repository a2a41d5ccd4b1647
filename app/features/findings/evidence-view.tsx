import type { Evidence } from "../../../core/findings/index.ts";
import { useAnswer } from "../../engine/asking.ts";
import { useFlowUnder } from "../../engine/flow-under.ts";
import { LinkedSentence } from "../../plan/linked-sentence.tsx";
import { usePlan } from "../../plan/open-plan.tsx";
import { elementLabel } from "../../plan/sentence-parts.ts";
import { Lanes } from "../../plan/trace/lanes.tsx";
import { Stacks } from "../../plan/trace/stacks.tsx";
import { viewOf } from "../../search/view.ts";
import { Waiting } from "../../ui/waiting.tsx";

/** What a finding rests on, opened in place: the routes of a destination, a walk, an interface, a watch. */
export function EvidenceView({ evidence }: { evidence: Evidence }) {
  switch (evidence.kind) {
    case "route":
      return <RouteEvidence device={evidence.device} lookup={evidence.to} />;
    case "range":
      return <RouteEvidence device={evidence.device} lookup={evidence.prefix.split("/")[0]} />;
    case "path":
      return <PathEvidence flow={evidence.flow} failed={evidence.failed} />;
    case "interface":
      return <DeviceEvidence of={evidence.interface} kind="interface" />;
    case "watch":
      return <DeviceEvidence of={evidence.watch} kind="watch" />;
  }
}

function useDevice(device: string, lookup?: string) {
  const { page, params } = usePlan();
  const conditions = new URLSearchParams(params.getAll("down").map((ref) => ["down", ref]));
  return useAnswer(page, "device", { ...viewOf(conditions, device), lookup });
}

function RouteEvidence({ device, lookup }: { device: string; lookup: string }) {
  const { answer, error, retry } = useDevice(device, lookup);
  if (!answer) return <Waiting text="Loading …" error={error} retry={retry} />;
  const stacks = answer.stacks.filter((stack) => stack.match && stack.match !== "none");
  return (
    <>
      <p>
        On {answer.device.label}, for <span className="addr">{lookup}</span>
      </p>
      <div className="overflow-x-auto">
        <Stacks answer={answer} stacks={stacks} shown={() => true} busy={false} />
      </div>
    </>
  );
}

function PathEvidence({ flow, failed }: { flow: string; failed: string[] }) {
  const { page, params, labels } = usePlan();
  const { outcome, error, retry } = useFlowUnder(page, params, flow, failed);
  if (!outcome?.ok) return <Waiting text="Loading …" error={error} retry={retry} />;
  const { answer } = outcome;
  return (
    <>
      <p className="font-medium">
        {answer.asked.label}
        {failed.length > 0 && (
          <span className="font-normal text-ink-2">
            , with {failed.map((ref) => elementLabel(ref, labels)).join(", ")} down
          </span>
        )}
        : {answer.headline}
      </p>
      {answer.sentences.map((text) => (
        <p key={text} className="text-ink-2">
          <LinkedSentence text={text} />
        </p>
      ))}
      <Lanes trip={answer.now} healthy={null} quiet />
    </>
  );
}

function DeviceEvidence({ of, kind }: { of: string; kind: "interface" | "watch" }) {
  const slash = of.indexOf("/");
  const name = of.slice(slash + 1);
  const { answer, error, retry } = useDevice(of.slice(0, slash));
  if (!answer) return <Waiting text="Loading …" error={error} retry={retry} />;
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
