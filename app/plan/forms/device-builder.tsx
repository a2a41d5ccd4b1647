import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Device, Plan } from "../../../core/plan/index.ts";
import { pageHref, withParam } from "../../search/links.ts";
import { Waiting } from "../../ui/waiting.tsx";
import { usePlanDocument } from "../document.ts";
import { useEditing } from "../editing.ts";
import { usePlan } from "../open-plan.tsx";
import { EditLink } from "../rights.tsx";
import { deviceForm } from "./device-form.ts";
import { interfaceForm } from "./interface-form.ts";
import { type FormSpec, ItemForm } from "./item-form.tsx";
import { PasteList } from "./paste-list.tsx";
import {
  destinationForm,
  learnedForm,
  markForm,
  policyForm,
  ruleForm,
  tableForm,
  tableRouteForm,
  translationForm,
} from "./policy-forms.ts";
import { virtualForm } from "./virtual-form.ts";
import { watchForm } from "./watch-form.ts";

/** Edits one device on its page. The selection is in the address as `edit`: "device", "policy", "list", or a part and
 * its key, such as "port:NAME", "virtual:PORT/0", "watch:ID", "nat:2", "rule:0", "table:NAME", "table-route:NAME/3",
 * "learned:1"; without a name or number a new one. */
export function DeviceBuilder({ device: id, chosen }: { device: string; chosen: string }) {
  const { page, planId, params } = usePlan();
  const { plan, error, retry } = usePlanDocument(page);
  const navigate = useNavigate();
  const editing = useEditing(page, `parts of ${id}`);
  const [round, setRound] = useState(0);
  const close = () => navigate(withParam(params, "edit", null), { preventScrollReset: true });
  const device = plan?.devices.find((entry) => entry.id === id);
  if (!plan || !device) return <Waiting text="Loading plan …" error={error} retry={retry} />;
  if (chosen === "list") return <PasteList page={page} device={id} editing={editing} onDone={close} />;
  const spec = specOf(plan, device, chosen);
  if (!spec) {
    return (
      <p className="text-stop">
        {device.label ?? id} no longer has {chosen}.{" "}
        <Link className="name-link" to={withParam(params, "edit", null)}>
          Close
        </Link>
      </p>
    );
  }
  const addsAgain = chosen === "port:" || chosen === "rule:";
  return (
    <>
      <ItemForm
        key={`${chosen} ${round}`}
        spec={spec}
        editing={editing}
        onCancel={close}
        onDone={(what) => {
          if (chosen === "device" && what === "removed") navigate(pageHref(planId, "routes", params));
          else if (addsAgain && what === "saved") setRound((now) => now + 1);
          else close();
        }}
      />
      {chosen.startsWith("port:") && chosen !== "port:" && (
        <p className="mt-2">
          <EditLink className="button" edit={`virtual:${chosen.slice(5)}/`}>
            Add virtual router
          </EditLink>
        </p>
      )}
    </>
  );
}

/** The form for the selection; null if the device has no such part. */
function specOf(plan: Plan, device: Device, chosen: string): FormSpec | null {
  const colon = chosen.indexOf(":");
  const kind = colon < 0 ? chosen : chosen.slice(0, colon);
  const name = chosen.slice(colon + 1);
  const isNew = colon >= 0 && name === "";
  /** The item with that number, or null for a new one; undefined if it does not exist. */
  const numbered = <T,>(list: readonly T[], text = name) => (isNew ? null : list[Number(text)]);
  const made = <T,>(item: T | null | undefined, form: (item: T | null) => FormSpec) =>
    item === undefined ? null : form(item);
  switch (kind) {
    case "device":
      return deviceForm(plan, device);
    case "policy":
      return policyForm(plan, device);
    case "port":
      return made(isNew ? null : device.interfaces.find((entry) => entry.name === name), (port) =>
        interfaceForm(plan, device, port),
      );
    case "virtual": {
      const slash = name.lastIndexOf("/");
      const port = device.interfaces.find((entry) => entry.name === name.slice(0, slash));
      const place = name.slice(slash + 1);
      const there = place === "" || port?.virtual?.[Number(place)];
      return port && there ? virtualForm(plan, device, port, place === "" ? null : Number(place)) : null;
    }
    case "watch":
      return made(isNew ? null : device.watches.find((entry) => entry.id === name), (watch) =>
        watchForm(plan, device, watch),
      );
    case "nat":
      return made(numbered(device.sourceNat), (nat) => translationForm(plan, device, nat));
    case "destination":
      return made(numbered(device.destNat ?? []), (nat) =>
        destinationForm(plan, device, nat === null ? null : Number(name)),
      );
    case "mark":
      return made(numbered(device.marks ?? []), (mark) =>
        markForm(plan, device, mark === null ? null : Number(name)),
      );
    case "rule":
      return made(numbered(device.policy?.rules ?? []), (rule) =>
        ruleForm(plan, device, rule === null ? null : Number(name)),
      );
    case "table":
      return made(isNew ? null : device.policyTables.find((entry) => entry.name === name), (table) =>
        tableForm(plan, device, table),
      );
    case "learned":
      return made(numbered(device.learned), (route) => learnedForm(plan, device, route));
    case "table-route": {
      const slash = name.lastIndexOf("/");
      const table = device.policyTables.find((entry) => entry.name === name.slice(0, slash));
      const position = name.slice(slash + 1);
      const route = position === "" ? null : table?.routes[Number(position)];
      return table && route !== undefined ? tableRouteForm(plan, device, table, route) : null;
    }
    default:
      return null;
  }
}
