import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { usePlanDocument } from "../../data/document.ts";
import { useEditing } from "../../data/editing.ts";
import type { Known } from "../../data/known.ts";
import { type FormSpec, ItemForm } from "../../ui/item-form.tsx";
import { withParam } from "../../ui/links.ts";
import { deviceForm } from "./forms/device-form.ts";
import { interfaceForm } from "./forms/interface-form.ts";
import { watchForm } from "./forms/watch-form.ts";
import { PasteList } from "./paste-list.tsx";

/**
 * Edits one device where it is seen. What is chosen stands in the address as `edit`: "device", "port:NAME",
 * "watch:ID" (without a name: a new one), or "list".
 */
export function DeviceBuilder({ page, device: id, chosen }: { page: Known; device: string; chosen: string }) {
  const plan = usePlanDocument(page);
  const [params] = useSearchParams();
  const navigate = useNavigate();
  const editing = useEditing(page, `parts of ${id}`);
  const [round, setRound] = useState(0);
  const close = () => navigate(withParam(params, "edit", null), { preventScrollReset: true });
  const device = plan?.devices.find((entry) => entry.id === id);
  if (!plan || !device) return <p className="text-ink-2">Opening the plan …</p>;
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
