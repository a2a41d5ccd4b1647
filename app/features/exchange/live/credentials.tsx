import { useState } from "react";
import { Form } from "react-router";
import type { FormNotice } from "../../../engine/live-forms.server.ts";
import { Button } from "../../../ui/button.tsx";
import { FieldError, FormChoice, FormField } from "./form-field.tsx";
import { wayNames } from "./way-names.ts";

type Way = keyof typeof wayNames;

export interface CredentialView {
  id: string;
  name: string;
  way: Way;
  used: number;
  author: string;
  prefixes: readonly string[];
}

/** The credentials of a plan, by name: their secrets are never shown again. */
export function Credentials({
  credentials,
  administers,
  error,
}: {
  credentials: readonly CredentialView[];
  administers: boolean;
  error: string | undefined;
}) {
  if (credentials.length === 0) return null;
  return (
    <ul aria-label="Credentials" className="mb-2">
      {credentials.map(({ id, name, way, used, author, prefixes }) => (
        <li key={id} className="flex flex-wrap items-baseline gap-3 border-rule border-b py-1">
          <span className="font-medium">{name}</span>
          <span className="text-ink-2">
            {wayNames[way]}, saved by {author}, used by {used} {used === 1 ? "device" : "devices"}, sent only
            to <span className="addr">{prefixes.join(", ") || "no address"}</span>
          </span>
          {administers && (
            <Form method="post" className="ml-auto">
              <input type="hidden" name="credential" value={id} />
              <Button
                type="submit"
                look="quiet"
                name="do"
                value="forget-credential"
                aria-label={`Remove ${name}`}
              >
                Remove
              </Button>
            </Form>
          )}
        </li>
      ))}
      <FieldError id="forget-error" error={error} />
    </ul>
  );
}

const fields: Readonly<Record<Way, readonly { name: string; label: string; secret?: boolean }[]>> = {
  "snmp-v2c": [{ name: "community", label: "Community", secret: true }],
  "snmp-v3": [
    { name: "user", label: "User" },
    { name: "authWord", label: "Authentication passphrase", secret: true },
    { name: "privacyWord", label: "Privacy passphrase", secret: true },
  ],
  restconf: [
    { name: "user", label: "User" },
    { name: "password", label: "Password", secret: true },
  ],
  netconf: [
    { name: "user", label: "User" },
    { name: "password", label: "Password", secret: true },
  ],
  ssh: [
    { name: "user", label: "User" },
    { name: "password", label: "Password", secret: true },
  ],
};

/** Adds a credential, or replaces the one of its name. */
export function CredentialForm({ allowed, told }: { allowed: readonly string[]; told: FormNotice | null }) {
  const [way, setWay] = useState<Way>("ssh");
  const errors = told?.errors ?? {};
  return (
    <Form method="post" aria-label="Add credentials" className="flex flex-col gap-2">
      <p className="text-[13px] text-ink-2">
        Credentials are stored encrypted and never shown again. They are sent only to devices in these
        prefixes, after an administrator has confirmed the device key.
      </p>
      <div className="flex flex-wrap gap-3">
        <FormField label="Name" name="name" required error={errors.name} />
        <FormChoice
          label="Protocol"
          name="way"
          defaultValue={way}
          onPicked={(value) => setWay(value as Way)}
          choices={Object.entries(wayNames).map(([value, text]) => ({ value, label: text }))}
        />
        <FormField
          label="Only to prefixes"
          name="prefixes"
          required
          className="addr w-56"
          defaultValue={allowed.join(", ")}
          error={errors.prefixes}
        />
      </div>
      <div key={way} className="flex flex-wrap gap-3">
        {fields[way].map(({ name, label, secret }) => (
          <FormField
            key={name}
            label={label}
            name={name}
            type={secret ? "password" : "text"}
            autoComplete={secret ? "new-password" : "off"}
            error={errors[name]}
          />
        ))}
        {way === "snmp-v3" && (
          <FormChoice
            label="Authentication"
            name="auth"
            defaultValue="sha256"
            choices={["sha", "sha224", "sha256", "sha384", "sha512"].map((one) => ({
              value: one,
              label: one,
            }))}
          />
        )}
        {(way === "ssh" || way === "netconf") && (
          <label className="flex flex-col text-[13px] text-ink-2">
            Private key (instead of a password)
            <textarea name="key" rows={2} className="field addr w-64" spellCheck={false} autoComplete="off" />
          </label>
        )}
      </div>
      <div>
        <Button type="submit" name="do" value="credential">
          Save credentials
        </Button>
      </div>
    </Form>
  );
}
