import { Form } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import type { PathsAnswer } from "../../queries/paths.ts";

/** Who sends what to whom: a flow of the plan, or anything else. */
export function AskForm({ answer }: { answer: PathsAnswer }) {
  const { params, frame } = usePlan();
  const { flow, sources } = answer;
  const asked = flow?.ok ? flow.answer.asked : null;
  const text = (key: string) => params.get(key) ?? "";
  const value = {
    from: asked?.from ?? text("from"),
    source: asked ? (sources.includes(asked.source) ? asked.source : "") : text("source"),
    to: asked?.to ?? text("to"),
    protocol: asked?.protocol ?? (text("protocol") || "icmp"),
    port: asked?.port ? String(asked.port) : text("port"),
  };
  return (
    <Form method="get" className="flex flex-wrap items-end gap-2" key={JSON.stringify(value)}>
      {params.getAll("down").map((ref) => (
        <input key={ref} type="hidden" name="down" value={ref} />
      ))}
      <Field label="From" name="from">
        <input
          id="ask-from"
          name="from"
          defaultValue={value.from}
          list="ask-devices"
          required
          className="field w-44"
          placeholder="a device"
          autoComplete="off"
        />
      </Field>
      <Field label="Source" name="source">
        <select
          id="ask-source"
          name="source"
          defaultValue={value.source}
          className="field addr h-[28px] w-44"
        >
          <option value="">as it chooses</option>
          {sources.map((source) => (
            <option key={source}>{source}</option>
          ))}
        </select>
      </Field>
      <Field label="To" name="to">
        <input
          id="ask-to"
          name="to"
          defaultValue={value.to}
          list="ask-devices"
          required
          className="field w-44"
          placeholder="an address or a device"
          autoComplete="off"
        />
      </Field>
      <Field label="Protocol" name="protocol">
        <select id="ask-protocol" name="protocol" defaultValue={value.protocol} className="field h-[28px]">
          <option>icmp</option>
          <option>tcp</option>
          <option>udp</option>
        </select>
      </Field>
      <Field label="Port" name="port">
        <input
          id="ask-port"
          name="port"
          defaultValue={value.port}
          className="field w-20"
          inputMode="numeric"
          pattern="[0-9]{1,5}"
          placeholder="1 to 65535"
        />
      </Field>
      <button type="submit" className="button button-strong">
        Show the way
      </button>
      <datalist id="ask-devices">
        {frame.devices.map((device) => (
          <option key={device.id} value={device.id}>
            {device.label}
          </option>
        ))}
      </datalist>
    </Form>
  );
}

function Field({ label, name, children }: { label: string; name: string; children: React.ReactNode }) {
  return (
    <div className="flex flex-col">
      <label htmlFor={`ask-${name}`} className="text-[13px] text-ink-2">
        {label}
      </label>
      {children}
    </div>
  );
}
