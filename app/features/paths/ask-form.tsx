import { Form } from "react-router";
import { usePlan } from "../../plan/open-plan.tsx";
import type { PathsAnswer } from "../../queries/paths.ts";
import { FormPick } from "../../ui/select.tsx";

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
          placeholder="device"
          autoComplete="off"
        />
      </Field>
      <Field label="Source" name="source">
        <FormPick
          id="ask-source"
          name="source"
          defaultValue={value.source}
          className="addr w-44"
          choices={[
            { value: "", label: "automatic" },
            ...sources.map((source) => ({ value: source, label: source })),
          ]}
        />
      </Field>
      <Field label="To" name="to">
        <input
          id="ask-to"
          name="to"
          defaultValue={value.to}
          list="ask-devices"
          required
          className="field w-44"
          placeholder="address or device"
          autoComplete="off"
        />
      </Field>
      <Field label="Protocol" name="protocol">
        <FormPick
          id="ask-protocol"
          name="protocol"
          defaultValue={value.protocol}
          choices={["icmp", "tcp", "udp"].map((protocol) => ({
            value: protocol,
            label: protocol.toUpperCase(),
          }))}
        />
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
        Show path
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
