import { useEffect } from "react";
import { Form, useRevalidator } from "react-router";
import type { FormTold } from "../../../engine/live-forms.server.ts";
import { Button } from "../../../ui/button.tsx";
import { CredentialForm, Credentials, type ShownCredential } from "./credentials.tsx";
import { type Kept, KeptReadings } from "./kept-readings.tsx";
import { TargetForm } from "./target-form.tsx";
import { isUnderWay, type ShownTarget, TargetList } from "./target-list.tsx";

interface DevicesProps {
  allowed: { prefixes: string[]; problem: string };
  administers: boolean;
  targets: ShownTarget[];
  credentials: ShownCredential[];
  kept: Kept;
  told: FormTold | null;
}

const LOOK_EVERY_MS = 1000;

/** Which devices the server reads by itself, how the last readings went, and what all devices said last. */
export function DevicesView({ allowed, administers, targets, credentials, kept, told }: DevicesProps) {
  useLookingAgain(targets.some(isUnderWay));
  const problem = told?.errors.do ?? told?.errors.key;
  return (
    <div className="mt-3 flex flex-col gap-6">
      <section aria-label="Polled devices">
        <h2 className="font-semibold font-sign text-[20px]">Polled devices</h2>
        <Allowed {...allowed} />
        {told && told.said !== "" && (
          <p role="status" className="mt-1 font-medium">
            {told.said}
          </p>
        )}
        {problem && (
          <p role="alert" className="mt-1 text-stop">
            {problem}
          </p>
        )}
        {targets.length > 0 && (
          <Form method="post" className="mt-2">
            <input type="hidden" name="do" value="read" />
            <Button type="submit" look="strong">
              Poll all {targets.length}
            </Button>
          </Form>
        )}
        <TargetList targets={targets} credentials={credentials} administers={administers} />
        <div className="mt-3 grid gap-6 lg:grid-cols-2">
          <TargetForm
            credentials={credentials}
            administers={administers}
            told={told?.form === "target" ? told : null}
          />
          <div>
            <Credentials
              credentials={credentials}
              administers={administers}
              error={told?.form === "forget-credential" ? told.errors.credential : undefined}
            />
            {administers ? (
              <CredentialForm allowed={allowed.prefixes} told={told?.form === "credential" ? told : null} />
            ) : (
              <p className="text-ink-2">Credentials are added by an administrator of the plan.</p>
            )}
          </div>
        </div>
      </section>
      <KeptReadings kept={kept} />
    </div>
  );
}

/** While something is read, the page looks again by itself. */
function useLookingAgain(underWay: boolean) {
  const { revalidate, state } = useRevalidator();
  useEffect(() => {
    if (!underWay || state !== "idle") return;
    const timer = setTimeout(() => void revalidate(), LOOK_EVERY_MS);
    return () => clearTimeout(timer);
  }, [underWay, state, revalidate]);
}

function Allowed({ prefixes, problem }: DevicesProps["allowed"]) {
  if (problem !== "") return <p className="text-stop">{problem}. Polling is off.</p>;
  if (prefixes.length === 0) {
    return (
      <p className="text-ink-2">
        Polling is off. Start the server with <code className="addr">bin/start --read 10.0.0.0/8</code> to
        allow devices in a prefix. Polling only reads; it never changes a device.
      </p>
    );
  }
  return (
    <p className="text-ink-2">
      Devices in <span className="addr">{prefixes.join(", ")}</span> may be polled. Polling only reads; it
      never changes a device.
    </p>
  );
}
