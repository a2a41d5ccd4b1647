import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { withParam } from "../../search/links.ts";
import { Waiting } from "../../ui/waiting.tsx";
import { usePlanDocument } from "../document.ts";
import { useEditing } from "../editing.ts";
import { usePlan } from "../open-plan.tsx";
import { deviceForm } from "./device-form.ts";
import { interfaceForm } from "./interface-form.ts";
import { type FormSpec, ItemForm } from "./item-form.tsx";
import { PasteList } from "./paste-list.tsx";
import { watchForm } from "./watch-form.ts";

/**
 * Edits one device where it is seen. What is chosen stands in the address as `edit`: "device", "port:NAME",
 * "watch:ID" (without a name: a new one), or "list".
 */
export function DeviceBuilder({ device: id, chosen }: { device: string; chosen: string }) {
  const { page, params } = usePlan();
  const { plan, error, retry } = usePlanDocument(page);
  const navigate = useNavigate();
  const editing = useEditing(page, `parts of ${id}`);
  const [round, setRound] = useState(0);
  const close = () => navigate(withParam(params, "edit", null), { preventScrollReset: true });
  const device = plan?.devices.find((entry) => entry.id === id);
  if (!plan || !device) return <Waiting text="Opening the plan …" error={error} retry={retry} />;
  if (chosen === "list") return <PasteList page={page} device={id} editing={editing} onDone={close} />;
  const colon = chosen.indexOf(":");
  const kind = colon < 0 ? chosen : chosen.slice(0, colon);
  const name = chosen.slice(colon + 1);
  let spec: FormSpec | null = null;
  if (kind === "device") spec = deviceForm(plan, device);
  if (kind === "port") {
    const port = device.interfaces.find((entry) => entry.name === name) ?? null;
    if (port || name === "") spec = interfaceForm(plan, device, port);
  }
  if (kind === "watch") {
    const watch = device.watches.find((entry) => entry.id === name) ?? null;
    if (watch || name === "") spec = watchForm(plan, device, watch);
  }
  if (!spec) {
    return (
      <p className="text-stop">
        {id} no longer has {chosen}.{" "}
        <Link className="name-link" to={withParam(params, "edit", null)}>
          Close
        </Link>
      </p>
    );
  }
  return (
    <ItemForm
      key={`${chosen} ${round}`}
      spec={spec}
      editing={editing}
      onCancel={close}
      onDone={(what) => {
        if (kind === "device" && what === "removed") navigate(`/plans/${page.planId}/routes`);
        else if (kind === "port" && name === "" && what === "saved") setRound((now) => now + 1);
        else close();
      }}
    />
  );
}
