import { useState } from "react";
import { Form } from "react-router";
import type { FormNotice } from "../../../engine/live-forms.server.ts";
import { usePlan } from "../../../plan/open-plan.tsx";
import { Button } from "../../../ui/button.tsx";
import { SuggestField } from "../../../ui/suggest-field.tsx";
import type { CredentialView } from "./credentials.tsx";
import { FieldError, FormChoice, FormField } from "./form-field.tsx";
import { wayNames } from "./way-names.ts";

interface TargetFormProps {
  credentials: readonly CredentialView[];
  administers: boolean;
  told: FormNotice | null;
}

function NoCredentials({ administers }: { administers: boolean }) {
  return (
    <p className="text-ink-2">
      {administers ? "Add credentials first." : "An administrator of the plan must add credentials first."}
    </p>
  );
}

/** Adds a polled device or changes how it is polled; a test polls it once before it is saved. */
export function TargetForm({ credentials, administers, told }: TargetFormProps) {
  const { frame } = usePlan();
  const [device, setDevice] = useState("");
  const errors = told?.errors ?? {};
  if (credentials.length === 0) return <NoCredentials administers={administers} />;
  return (
    <Form method="post" aria-label="Add polled device" className="flex flex-col gap-2">
      <div className="flex flex-wrap items-start gap-3">
        <div className="flex flex-col">
          <label htmlFor="polled-device" className="text-[13px] text-ink-2">
            Device
          </label>
          <input type="hidden" name="device" value={device} />
          <SuggestField
            id="polled-device"
            label="Device"
            value={device}
            onChange={setDevice}
            choices={frame.devices.map(({ id, label }) => ({ value: id, label }))}
            className="w-56"
            aria-invalid={errors.device !== undefined}
          />
          <FieldError id="polled-device-error" error={errors.device} />
        </div>
        <FormField label="Address" name="address" required className="addr w-48" error={errors.address} />
        <CredentialFields credentials={credentials} errors={errors} />
        <FormField
          label="Port (optional)"
          name="port"
          inputMode="numeric"
          className="w-24"
          error={errors.port}
        />
      </div>
      <div className="flex gap-2">
        <Button type="submit" look="strong" name="do" value="target">
          Save device
        </Button>
        <Button type="submit" name="do" value="test">
          Test
        </Button>
      </div>
    </Form>
  );
}

/** Adds many devices with the same credentials. */
export function TargetListForm({ credentials, administers, told }: TargetFormProps) {
  const errors = told?.errors ?? {};
  if (credentials.length === 0) return <NoCredentials administers={administers} />;
  return (
    <Form method="post" aria-label="Add list of devices" className="flex flex-col gap-2">
      <div className="flex flex-wrap items-start gap-3">
        <div className="flex flex-col">
          <label htmlFor="polled-list" className="text-[13px] text-ink-2">
            One device per line: address, or device and address
          </label>
          <textarea
            id="polled-list"
            name="list"
            rows={6}
            spellCheck={false}
            placeholder={"10.0.0.1\nwest-router, 10.0.0.2"}
            className="field addr h-auto w-80"
            aria-invalid={errors.list !== undefined}
            aria-describedby={errors.list ? "polled-list-error" : undefined}
          />
          <FieldError id="polled-list-error" error={errors.list} />
        </div>
        <CredentialFields credentials={credentials} errors={errors} />
      </div>
      <div>
        <Button type="submit" look="strong" name="do" value="targets">
          Add devices
        </Button>
      </div>
    </Form>
  );
}

/** The credentials and the interval of a poll. */
function CredentialFields({
  credentials,
  errors,
}: {
  credentials: readonly CredentialView[];
  errors: Readonly<Record<string, string>>;
}) {
  const [chosen, setChosen] = useState("");
  const credential = credentials.find(({ id }) => id === chosen) ?? credentials[0];
  return (
    <>
      <FormChoice
        label="Credentials"
        name="credential"
        defaultValue={credential?.id ?? ""}
        onPicked={setChosen}
        error={errors.credential}
        choices={credentials.map(({ id, name, way }) => ({ value: id, label: `${name} (${wayNames[way]})` }))}
      />
      <input type="hidden" name="way" value={credential?.way ?? ""} />
      <FormField
        label="Poll every (optional)"
        name="everyMinutes"
        placeholder="5 min"
        className="w-28"
        error={errors.everyMinutes}
      />
    </>
  );
}
