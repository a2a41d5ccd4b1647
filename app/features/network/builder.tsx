import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Plan } from "../../../core/plan/index.ts";
import { usePlanDocument } from "../../plan/document.ts";
import { useEditing } from "../../plan/editing.ts";
import { deviceForm } from "../../plan/forms/device-form.ts";
import { flowForm } from "../../plan/forms/flow-form.ts";
import { gatewayForm } from "../../plan/forms/gateway-form.ts";
import { interfaceForm } from "../../plan/forms/interface-form.ts";
import { type FormSpec, ItemForm } from "../../plan/forms/item-form.tsx";
import { linkForm, newLinkForm } from "../../plan/forms/link-form.ts";
import { pairForm } from "../../plan/forms/pair-form.ts";
import { PasteList } from "../../plan/forms/paste-list.tsx";
import { planForm, profileForm } from "../../plan/forms/plan-forms.ts";
import { riskForm } from "../../plan/forms/risk-form.ts";
import { usePlan } from "../../plan/open-plan.tsx";
import { deviceHref, withParam } from "../../search/links.ts";
import { Waiting } from "../../ui/waiting.tsx";

/** Edits the network beside the map. The selection is in the address as `edit`: "device:ID", "link:ID", "flow:ID",
 * "gateway:ID", "new:device" and so on; empty for the overview list. */
export function Builder({ chosen }: { chosen: string }) {
  const { page, params } = usePlan();
  const { plan, error, retry } = usePlanDocument(page);
  const navigate = useNavigate();
  const editing = useEditing(page, "network");
  const [round, setRound] = useState(0);
  const go = (to: string) => navigate(withParam(params, "edit", to), { preventScrollReset: true });
  if (!plan) return <Waiting text="Loading plan …" error={error} retry={retry} />;
  const [kind, ...rest] = chosen.split(":");
  const id = rest.join(":");
  if (chosen === "new:list") {
    return (
      <Panel title="Edit the network">
        <PasteList page={page} device={null} editing={editing} onDone={() => go("")} />
      </Panel>
    );
  }
  const spec = specOf(plan, kind, id);
  const again = kind === "new" && id !== "device";
  return (
    <Panel title="Edit the network">
      <Adders chosen={chosen} />
      {chosen !== "" && !spec && <p className="text-stop">The plan no longer contains {chosen}.</p>}
      {spec && (
        <div className="border-ink border-t-2 pt-2">
          <ItemForm
            key={`${chosen} ${round}`}
            spec={spec}
            editing={editing}
            onDone={(what) => {
              if (what === "removed" || !again) go(kind === "new" && id === "device" ? "new:device" : "");
              setRound((now) => now + 1);
            }}
            onCancel={() => go("")}
          />
        </div>
      )}
      {kind === "device" && spec && <Ports plan={plan} id={id} chosen={chosen} />}
      {kind === "port" && spec && (
        <p>
          <Link className="name-link" to={withParam(params, "edit", `device:${id.split("/")[0]}`)}>
            Back to device
          </Link>
        </p>
      )}
      {chosen === "" && <Contents plan={plan} />}
    </Panel>
  );
}

function specOf(plan: Plan, kind: string, id: string): FormSpec | null {
  const find = <T extends { id: string }>(list: readonly T[]) =>
    list.find((entry) => entry.id === id) ?? null;
  const slash = id.indexOf("/");
  switch (kind) {
    case "new":
      if (id === "device") return deviceForm(plan, null);
      if (id === "flow") return flowForm(plan, null);
      if (id === "gateway") return gatewayForm(plan, null);
      if (id === "profile") return profileForm(plan, null);
      if (id === "risk") return riskForm(plan, null);
      if (id === "pair") return pairForm(plan, null);
      return id.startsWith("link") ? newLinkForm(plan, id.split(" ")[1] ?? null) : null;
    case "device": {
      const device = find(plan.devices);
      return device && deviceForm(plan, device);
    }
    case "port": {
      const device = plan.devices.find((entry) => entry.id === id.slice(0, slash));
      const name = id.slice(slash + 1);
      const port = device?.interfaces.find((entry) => entry.name === name) ?? null;
      return device && (port || name === "") ? interfaceForm(plan, device, port) : null;
    }
    case "link": {
      const link = find(plan.links);
      return link && linkForm(plan, link);
    }
    case "flow": {
      const flow = find(plan.flows);
      return flow && flowForm(plan, flow);
    }
    case "gateway": {
      const gateway = find(plan.gateways);
      return gateway && gatewayForm(plan, gateway);
    }
    case "risk": {
      const risk = find(plan.risks);
      return risk && riskForm(plan, risk);
    }
    case "pair": {
      const pair = find(plan.pairs);
      return pair && pairForm(plan, pair);
    }
    case "profile": {
      const profile = find(plan.profiles);
      return profile && profileForm(plan, profile);
    }
    case "plan":
      return planForm(plan);
    default:
      return null;
  }
}

function Panel({ title, children }: { title: string; children: React.ReactNode }) {
  const { params } = usePlan();
  return (
    <aside
      aria-label={title}
      className="flex w-full shrink-0 flex-col gap-3 overflow-y-auto border-rule border-t bg-panel p-4 lg:w-[340px] lg:border-t-0 lg:border-l"
    >
      <p className="flex items-baseline justify-between">
        <span className="font-semibold font-sign text-[18px]">{title}</span>
        <Link className="button" to={withParam(params, "edit", null)}>
          Done
        </Link>
      </p>
      {children}
    </aside>
  );
}

const adders = [
  { to: "new:device", text: "Add device" },
  { to: "new:link", text: "Add link" },
  { to: "new:flow", text: "Add flow" },
  { to: "new:gateway", text: "Add gateway" },
  { to: "new:risk", text: "Add shared risk" },
  { to: "new:pair", text: "Add pair" },
  { to: "new:profile", text: "Add profile" },
  { to: "new:list", text: "Paste list" },
];

function Adders({ chosen }: { chosen: string }) {
  const { params } = usePlan();
  return (
    <nav aria-label="Add to network" className="flex flex-wrap gap-1.5">
      {adders.map(({ to, text }) => (
        <Link
          key={to}
          to={withParam(params, "edit", to)}
          aria-current={chosen === to ? "true" : undefined}
          className={`button ${chosen === to ? "button-chosen" : ""}`}
        >
          {text}
        </Link>
      ))}
    </nav>
  );
}

/** The interfaces of the device that is edited, each a click from its own form. */
function Ports({ plan, id }: { plan: Plan; id: string; chosen: string }) {
  const { page, params } = usePlan();
  const device = plan.devices.find((entry) => entry.id === id);
  if (!device) return null;
  return (
    <section aria-label="Interfaces" className="border-rule border-t pt-2">
      <h3 className="font-semibold">Interfaces</h3>
      <ul>
        {device.interfaces.map((port) => (
          <li key={port.name}>
            <Link className="name-link addr" to={withParam(params, "edit", `port:${id}/${port.name}`)}>
              {port.name}
            </Link>{" "}
            <span className="addr text-ink-2">{port.addresses.join(", ")}</span>
          </li>
        ))}
      </ul>
      <p className="mt-1 flex flex-wrap gap-1.5">
        <Link className="button" to={withParam(params, "edit", `port:${id}/`)}>
          Add interface
        </Link>
        <Link className="button" to={withParam(params, "edit", `new:link ${id}`)}>
          Add link
        </Link>
        <Link className="button" to={deviceHref(page.planId, id, params)}>
          Routes
        </Link>
      </p>
    </section>
  );
}

/** All there is, to choose from. */
function Contents({ plan }: { plan: Plan }) {
  const { params } = usePlan();
  const groups = [
    { kind: "device", title: "Devices", items: plan.devices },
    { kind: "link", title: "Links", items: plan.links },
    { kind: "gateway", title: "Gateways", items: plan.gateways },
    { kind: "flow", title: "Flows", items: plan.flows },
    { kind: "risk", title: "Shared risks", items: plan.risks },
    { kind: "pair", title: "Pairs", items: plan.pairs },
    { kind: "profile", title: "Profiles", items: plan.profiles },
  ];
  return (
    <>
      <p className="text-ink-2">
        {plan.devices.length === 0
          ? "The plan is empty. Add a device, or paste a list of interfaces."
          : "Select a device or link on the map or in the lists below."}{" "}
        <Link className="name-link" to={withParam(params, "edit", "plan")}>
          Plan settings
        </Link>
      </p>
      {groups.map(
        ({ kind, title, items }) =>
          items.length > 0 && (
            <section key={kind} aria-label={title}>
              <h3 className="text-[13px] text-ink-2">{title}</h3>
              <ul>
                {items.map((item) => (
                  <li key={item.id}>
                    <Link className="name-link" to={withParam(params, "edit", `${kind}:${item.id}`)}>
                      {item.label ?? item.id}
                    </Link>
                  </li>
                ))}
              </ul>
            </section>
          ),
      )}
    </>
  );
}
