import { useState } from "react";
import { Form } from "react-router";
import type { FormTold } from "../../../engine/live-forms.server.ts";
import { usePlan } from "../../../plan/open-plan.tsx";
import { Button } from "../../../ui/button.tsx";
import type { ShownCredential } from "./credentials.tsx";
import { FormChoice, FormField } from "./form-field.tsx";
import { wayNames } from "./way-names.ts";

/** Adds a device that is read, or changes how one is. */
export function TargetForm({
  credentials,
  administers,
  told,
}: {
  credentials: readonly ShownCredential[];
  administers: boolean;
  told: FormTold | null;
}) {
  const { frame } = usePlan();
  const [chosen, setChosen] = useState("");
  const credential = credentials.find(({ id }) => id === chosen) ?? credentials[0];
  const errors = told?.errors ?? {};
  return (
    <Form method="post" aria-label="Add polled device" className="flex flex-col gap-2 border border-rule p-3">
      <h3 className="font-semibold">Add or change a polled device</h3>
      {credentials.length === 0 ? (
        <p className="text-ink-2">
          {administers
            ? "Add credentials first."
            : "An administrator of the plan must add credentials first."}
        </p>
      ) : (
        <>
          <div className="flex flex-wrap gap-3">
            <FormField label="Device" name="device" required list="devices-of-plan" error={errors.device} />
            <datalist id="devices-of-plan">
              {frame.devices.slice(0, 500).map(({ id }) => (
                <option key={id} value={id} />
              ))}
            </datalist>
            <FormField label="Address" name="address" required className="addr w-48" error={errors.address} />
          </div>
          <div className="flex flex-wrap gap-3">
            <FormChoice
              label="Credentials"
              name="credential"
              defaultValue={credential?.id ?? ""}
              onPicked={setChosen}
              error={errors.credential}
              choices={credentials.map(({ id, name, way }) => ({
                value: id,
                label: `${name} (${wayNames[way]})`,
              }))}
            />
            <input type="hidden" name="way" value={credential?.way ?? ""} />
            <FormField
              label="Port (optional)"
              name="port"
              inputMode="numeric"
              className="w-24"
              error={errors.port}
            />
            <FormField
              label="Poll every (optional)"
              name="everyMinutes"
              inputMode="numeric"
              className="w-24"
              error={errors.everyMinutes}
            />
          </div>
          <div>
            <Button type="submit" name="do" value="target">
              Save device
            </Button>
          </div>
        </>
      )}
    </Form>
  );
}
